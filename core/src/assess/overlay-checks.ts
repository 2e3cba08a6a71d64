import {
  addressesAt,
  canMeet,
  isIn,
  joinSpans,
  meeting,
  memberAt,
  pairHere,
  spansOfJoin,
  type Join,
  type Member,
  type PairHere,
} from '../intent';
import { holderOf } from '../rollout';
import { overlayPath } from '../routing';
import { type Check, type CheckContext } from './check';
import { listed } from './listed';
import type { Finding, Mend, Severity } from './finding';

/** Faults of how a site is joined to others. */
export const overlayFindings: Check = (context) => {
  const { site, roster } = context;
  const { estate } = site;
  const own = memberAt(estate, site.id);
  const mine = own && estate.joins?.[own.id];
  if (!own || !mine || !estate.overlay) return [];
  const holder = holderOf({ site, roster });
  const ends = pairHere(site.pair, roster);
  const isEnd = holder === own.deviceId || (ends !== null && ends.second.id === own.deviceId);
  const elsewhere = isEnd
    ? []
    : [
        found(context, own, 'elsewhere', 'error', {
          message: `${mine.name} is joined at a gateway that routes nothing`,
          reason: holder
            ? `${context.devices.get(holder)?.name ?? 'Another gateway'} routes its segments: its tunnels have to end there.`
            : 'None of its gateways is at the site.',
          mend: holder ? setMember(own, { deviceId: own.deviceId }, { deviceId: holder }, 'let them end there') : null,
        }),
      ];
  return [
    ...elsewhere,
    ...unmet(context, own),
    ...single(context, own),
    ...clashes(context, own, mine),
    ...apart(context, own),
    ...bent(context, own),
    ...(ends ? unfound(context, own, ends) : []),
  ];
};

function found(
  { site }: CheckContext,
  { id }: Member,
  code: string,
  severity: Severity,
  { message, reason, mend = null }: { message: string; reason: string; mend?: Mend | null },
): Finding {
  const place = { siteId: site.id, kind: 'member' as const, id };
  return { key: `overlay.${code} ${site.id}`, code: `overlay.${code}`, severity, message, reason, place, mend };
}

const setMember = (member: Member, from: Partial<Member>, to: Partial<Member>, label: string): Mend => ({
  label,
  operations: [{ type: 'member.set', memberId: member.id, from, to }],
});

/** Tunnels that are gone while the other of a pair routes: nobody finds that one, and it finds nobody. */
function unfound(context: CheckContext, own: Member, { first, second }: PairHere): Finding[] {
  const { members = [], joins = {} } = context.site.estate;
  const mine = joins[own.id];
  const other = own.deviceId === first.id ? second : first;
  if (!mine || addressesAt(own, context.site, other.id).length > 0) return [];
  const around = members.filter(
    ({ id, hubs, direct }) =>
      own.hubs.includes(id) || own.direct.includes(id) || hubs.includes(own.id) || direct.includes(own.id),
  );
  const hubs = own.role === 'hub' ? members.filter(({ id, role }) => role === 'hub' && id !== own.id) : [];
  const lost = [...new Set([...around, ...hubs])].filter(
    ({ id }) => canMeet(mine, joins[id]) && (joins[id]?.at ?? []).length === 0,
  );
  if (lost.length === 0) return [];
  const names = listed(lost.map(({ id }) => joins[id]?.name ?? 'a site that is gone'));
  return [
    found(context, own, 'pair-unfound', 'warning', {
      message: `There is no tunnel to ${names} while ${other.name} routes`,
      reason: `They call, and know no address of ${other.name}. Give an uplink of it a fixed public address, or say under Joined at which address it is found.`,
    }),
  ];
}

/** A spoke that hangs on one hub, though there is another that it could call: with that one all other sites are gone. */
function single(context: CheckContext, own: Member): Finding[] {
  const { members = [], joins = {} } = context.site.estate;
  if (own.role !== 'spoke' || own.hubs.length !== 1) return [];
  const spare = members.find(
    ({ id, role }) => role === 'hub' && !own.hubs.includes(id) && canMeet(joins[own.id], joins[id]),
  );
  if (!spare) return [];
  const [hub, other] = [own.hubs[0]!, spare.id].map((id) => joins[id]?.name ?? 'a hub');
  return [
    found(context, own, 'single', 'info', {
      message: `${joins[own.id]?.name} hangs on one hub`,
      reason: `While ${hub} is gone, no other site is reached but by tunnels of their own. ${other} could stand in.`,
      mend: setMember(own, { hubs: own.hubs }, { hubs: [...own.hubs, spare.id] }, `have ${other} stand in`),
    }),
  ];
}

/** Tunnels that neither end can begin: both have addresses that come and go, or that a provider translates. */
function unmet(context: CheckContext, own: Member): Finding[] {
  const { members = [], joins = {} } = context.site.estate;
  const mine = joins[own.id];
  const ends = members.filter(({ id }) => own.hubs.includes(id) || own.direct.includes(id));
  const lost = ends.filter(({ id }) => !canMeet(mine, joins[id]));
  if (lost.length === 0) return [];
  const names = listed(lost.map(({ id }) => joins[id]?.name ?? 'a site that is gone'));
  const alone = own.hubs.every((id) => lost.some((each) => each.id === id));
  const reason = `Neither end has an address that the other could call: give an uplink of one a fixed public address, or say at which address it is found.`;
  return [
    alone
      ? found(context, own, 'alone', 'error', { message: `${mine?.name} has a tunnel to none of its hubs`, reason })
      : found(context, own, 'unmet', 'warning', {
          message: `There is no tunnel to ${names}`,
          reason: `${reason} What is for there goes by a hub instead.`,
        }),
  ];
}

/** What others reach here and somewhere else too, or would look for nowhere. */
function clashes(context: CheckContext, own: Member, { carries, name }: Join): Finding[] {
  const { overlay, joins = {} } = context.site.estate;
  const mine = joinSpans(carries);
  const findings: Finding[] = [];
  const met: string[] = [];
  for (const [id, other] of Object.entries(joins)) {
    if (id === own.id) continue;
    const clash = meeting(mine, spansOfJoin(other));
    if (clash) met.push(`${clash[1]} of ${other.name}`);
  }
  if (met.length > 0)
    findings.push(
      found(context, own, 'overlap', 'error', {
        message: `${name} shares addresses that another site has`,
        reason: `${listed(met)}: whoever sends there reaches one of the two. Number one of them anew, or share it no more.`,
      }),
    );
  const out = carries.filter((text) => !isIn(text, overlay!.spans));
  if (out.length > 0)
    findings.push(
      found(context, own, 'outside', 'error', {
        message: `Others do not look for ${listed(out)} at ${name}`,
        reason: `Networks of joined sites are in ${overlay!.spans.join(', ')}. Say so of these too, or share them no more.`,
      }),
    );
  return findings;
}

/** It shares segments that are kept from all others. */
function apart(context: CheckContext, own: Member): Finding[] {
  const { segments } = own;
  if (segments === 'all') return [];
  const lost = context.site.segments.filter(({ id, isolation }) => segments.includes(id) && isolation?.segments);
  if (lost.length === 0) return [];
  const names = listed(lost.map(({ name }) => name));
  const left = segments.filter((id) => !lost.some((each) => each.id === id));
  return [
    found(context, own, 'apart', 'warning', {
      message: `Nobody of another site gets into ${names}`,
      reason: `It is shared with joined sites, and kept from all other segments, those of other sites included.`,
      mend: setMember(own, { segments }, { segments: left }, 'share it no more'),
    }),
  ];
}

/** Sites whose answers come back by another hub than what was sent: of sites that have the same hubs one stands for all. */
function bent(context: CheckContext, own: Member): Finding[] {
  const { members = [], joins = {} } = context.site.estate;
  if (own.role === 'hub') return [];
  const hubs = members.filter(({ role }) => role === 'hub').map(({ id }) => id);
  const order = Object.fromEntries(members.map((each) => [each.id, each.hubs]));
  const up = (a: string, b: string): boolean => canMeet(joins[a], joins[b]);
  const known = new Map<string, string | null>();
  const names: string[] = [];
  let back = '';
  for (const other of members) {
    if (other === own || other.role === 'hub' || own.direct.includes(other.id) || other.direct.includes(own.id))
      continue;
    const key = `${other.hubs.join()} ${joins[other.id]?.at.length === 0}`;
    let by = known.get(key);
    if (by === undefined) {
      const way = overlayPath({ hubs, order, up }, own.id, other.id);
      by = way.path && way.back && !way.symmetric ? (way.back[1] ?? null) : null;
      known.set(key, by);
    }
    if (by === null) continue;
    names.push(joins[other.id]?.name ?? '');
    back ||= joins[by]?.name ?? '';
  }
  if (names.length === 0) return [];
  return [
    found(context, own, 'bent', 'info', {
      message: `Answers of ${listed(names)} come back by another hub`,
      reason: `What is sent there goes by ${joins[own.hubs[0]!]?.name}, and comes back by ${back}: sites that speak much with each other are better off with the same hubs in the same order.`,
    }),
  ];
}
