import { formatPrefix, isUnanswered, overlaps, parseIp, parsePrefix } from '../address';
import { poorOf } from '../ike';
import { addressesAt, hereOf, memberAt, outlookOf, uplinkSettings, type Pact } from '../intent';
import { holderOf } from '../rollout';
import type { Check, CheckContext } from './check';
import type { Finding, Mend, Severity } from './finding';

function found(
  { site: { id: siteId } }: CheckContext,
  { id }: Pact,
  code: string,
  severity: Severity,
  { message, reason, mend = null }: { message: string; reason: string; mend?: Mend | null },
): Finding {
  const place = { siteId, kind: 'pact' as const, id };
  return { key: `paths.pact-${code} ${id}`, code: `paths.pact-${code}`, severity, message, reason, place, mend };
}

/** Faults of tunnels to gateways of others: what the two would not come to agree on, who does not find whom, and what is poor. */
export const pactFindings: Check = (context) =>
  (context.site.pacts ?? []).flatMap((pact) => [
    ...unheld(context, pact),
    ...disagreed(context, pact),
    ...poor(context, pact),
    ...clashes(context, pact),
  ]);

/** Nobody keeps it, or nobody finds the other. */
function unheld(context: CheckContext, pact: Pact): Finding[] {
  const { site, roster } = context;
  const holder = roster.find(({ id }) => id === holderOf({ site, roster }));
  const name = `“${pact.name}”`;
  if (!holder)
    return [
      found(context, pact, 'nobody', 'error', {
        message: `Nobody keeps the tunnel ${name}`,
        reason: `${site.name} has no gateway of ours that routes its segments. Claim one into it.`,
      }),
    ];
  if (hereOf(site, pact).length === 0)
    return [
      found(context, pact, 'nothing', 'error', {
        message: `Nothing goes into the tunnel ${name}`,
        reason: 'Its segments are switched off, or the gateway knows no way to them: no gateway is told of it.',
      }),
    ];
  if (pact.at) return [];
  const member = memberAt(site.estate, site.id);
  const fixed = uplinkSettings(site, holder).some(({ way, fixed: own }) => {
    const ip = way === 'static' && own ? parseIp(own.address.split('/')[0]!) : null;
    return ip !== null && !isUnanswered(ip);
  });
  if (fixed || (member && addressesAt(member, site, holder.id).length > 0)) return [];
  return [
    found(context, pact, 'unfound', 'warning', {
      message: `The other gateway of ${name} does not find ours`,
      reason: `It is the one that calls, and no uplink of ${holder.name} has a fixed public address. Say where the other is found, so that ours calls, or give an uplink such an address.`,
    }),
  ];
}

/** What its people say that it is told does not go with what ours is told. */
function disagreed(context: CheckContext, pact: Pact): Finding[] {
  const own = hereOf(context.site, pact);
  const { ike, esp, names, here, there } = outlookOf(pact, own);
  const name = `“${pact.name}”`;
  const fails = (code: string, where: string, reason: string): Finding[] => [
    found(context, pact, code, 'error', { message: `The tunnel ${name} fails ${where}`, reason }),
  ];
  if (ike.suite === null)
    return fails('offers', 'at the first word', `Of the exchange: ${ike.missing} It answers NO_PROPOSAL_CHOSEN.`);
  if (names !== null)
    return fails('names', 'where both prove who they are', `${names} It answers AUTHENTICATION_FAILED.`);
  if (esp.suite === null)
    return fails('packets', 'where both agree on packets', `Of packets: ${esp.missing} It answers NO_PROPOSAL_CHOSEN.`);
  if (own.length > 0 && (here.length === 0 || there.length === 0))
    return fails('whose', 'where both say what goes in', 'Nothing is in what both say. It answers TS_UNACCEPTABLE.');
  const findings: Finding[] = [];
  if (esp.late !== undefined)
    findings.push(
      found(context, pact, 'late', 'error', {
        message: `The tunnel ${name} stands at first, and fails when keys are made anew`,
        reason: `Of packets: ${esp.late} The first keys need none (RFC 7296 §1.2); it shows when they are made anew.`,
      }),
    );
  const lost = [...own.filter((each) => !here.includes(each)), ...pact.behind.filter((each) => !there.includes(each))];
  if (lost.length > 0)
    findings.push(
      found(context, pact, 'narrowed', 'warning', {
        message: `Not all that is said goes into the tunnel ${name}`,
        reason: `The other gateway is not told of ${lost.slice(0, 3).join(', ')}${lost.length > 3 ? ` and ${lost.length - 3} more` : ''} as here: both carry what both say (RFC 7296 §2.9).`,
      }),
    );
  return findings;
}

function poor(context: CheckContext, pact: Pact): Finding[] {
  const all = [...new Set([...poorOf(pact.ike), ...poorOf(pact.esp)])];
  if (all.length === 0) return [];
  return [
    found(context, pact, 'poor', 'warning', {
      message: `The tunnel “${pact.name}” offers what should not be used any more`,
      reason: `${all.join('; ')}. Take it out once the other gateway knows better.`,
    }),
  ];
}

/** What is behind the other gateway is somewhere else too: here, or at a joined site. */
function clashes(context: CheckContext, pact: Pact): Finding[] {
  const { site } = context;
  const { members = [], joins = {} } = site.estate;
  const known = [
    ...site.segments.flatMap(({ name, subnet, v6 }) =>
      [subnet, ...(v6 ? [v6.prefix] : [])].map((text) => ({ whose: `${name} here`, text })),
    ),
    ...members
      .filter(({ siteId }) => siteId !== site.id)
      .flatMap(({ id }) => (joins[id]?.carries ?? []).map((text) => ({ whose: joins[id]!.name, text }))),
  ];
  const met = pact.behind.flatMap((text) => {
    const prefix = parsePrefix(text);
    const other = known.find((each) => {
      const theirs = parsePrefix(each.text);
      return prefix && theirs && overlaps(prefix, theirs);
    });
    return prefix && other ? [`${formatPrefix(prefix)} overlaps ${other.text} of ${other.whose}`] : [];
  });
  if (met.length === 0) return [];
  return [
    found(context, pact, 'overlap', 'error', {
      message: `What is behind “${pact.name}” is somewhere else too`,
      reason: `${met.slice(0, 2).join('; ')}. Of two the longer prefix takes what is for both; have one of them numbered anew.`,
    }),
  ];
}
