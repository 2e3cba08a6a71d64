import { isUnanswered, parseIp } from '../address';
import {
  leavesByGateway,
  portsOutside,
  protocolsOf,
  publicationsOf,
  publishedRuleId,
  segmentWith,
  type Publication,
  type Segment,
} from '../intent';
import { holderOf } from '../rollout';
import { appliesAtMoment, examplePacket, matchedIn, packetRuleOf, packetWords, VERSIONS } from '../rules';
import { nameIn, type CheckContext } from './check';
import type { Finding, Mend, Severity } from './finding';
import { isGivenAway, leaveOut } from './given-away';
import type { PolicyView } from './policy-view';
import { nameIn as ruleNameIn } from './reach-view';

/** Ports by which boxes are managed, or files and databases reached: whoever finds one open tries passwords there. */
const TRIED: Readonly<Record<number, string>> = {
  22: 'SSH',
  23: 'Telnet',
  135: 'remote calls',
  139: 'file shares',
  161: 'SNMP',
  445: 'file shares',
  1433: 'a database',
  3306: 'a database',
  3389: 'a remote desktop',
  5432: 'a database',
  5900: 'a remote screen',
};

/** Faults of what a site publishes: nobody outside reaches it, or other people do than were meant. */
export function publicationFindings(context: CheckContext, view: PolicyView): Finding[] {
  const { site, roster } = context;
  const holder = holderOf({ site, roster });
  return roster.flatMap(({ id: deviceId }) =>
    publicationsOf(site, deviceId)
      .filter(({ off }) => !off)
      .flatMap((each) => {
        if (deviceId !== holder) return [elsewhere(context, each)];
        const segment = segmentWith(site.segments, each.address);
        if (!segment || !leavesByGateway(site, segment)) return [nowhere(context, each)];
        return [
          ...unread(context, view, each),
          ...keptOut(context, view, each),
          ...behindProvider(context, each),
          ...givenAway(context, each, segment),
          ...ours(context, each),
          ...tried(context, each),
        ];
      }),
  );
}

function found(
  { site }: CheckContext,
  { id }: Publication,
  code: string,
  severity: Severity,
  { message, reason, mend = null }: { message: string; reason: string; mend?: Mend | null },
): Finding {
  const place = { siteId: site.id, kind: 'publication' as const, id };
  return { key: `paths.${code} ${id}`, code: `paths.${code}`, severity, message, reason, place, mend };
}

const switchOff = ({ site }: CheckContext, { id, off }: Publication): Mend => ({
  label: 'publish it no more',
  operations: [
    { type: 'publication.set', siteId: site.id, publicationId: id, from: { off: off ?? null }, to: { off: true } },
  ],
});

const nobody = ({ name }: Publication): string => `Nobody outside reaches “${name}”`;

const elsewhere = (context: CheckContext, each: Publication): Finding =>
  found(context, each, 'published-elsewhere', 'warning', {
    message: nobody(each),
    reason: `${nameIn(context, each.deviceId)} routes no segment here: another gateway does. Publish it there.`,
    mend: switchOff(context, each),
  });

const nowhere = (context: CheckContext, each: Publication): Finding =>
  found(context, each, 'published-nowhere', 'error', {
    message: nobody(each),
    reason: `It leads to ${each.address}, which is in no segment that the gateway routes now. Say where it is, or publish it no more.`,
    mend: switchOff(context, each),
  });

/** Whom it is for cannot be said in addresses here. */
const unread = (context: CheckContext, view: PolicyView, each: Publication): Finding[] =>
  view.made.flaws
    .filter(({ of }) => of === publishedRuleId(each.id))
    .slice(0, 1)
    .map(({ message }) =>
      found(context, each, 'published-unread', 'error', { message: nobody(each), reason: message }),
    );

/** Rules that come before keep everybody out, at every time at which it would be published. */
function keptOut(context: CheckContext, view: PolicyView, each: Publication): Finding[] {
  const told = view.enforced.policy.rules.find(({ id }) => id === publishedRuleId(each.id));
  if (!told) return [];
  const rule = packetRuleOf(told);
  const moments = view.open.moments.filter((moment) => appliesAtMoment(told, moment));
  let stopped: string | null = null;
  for (const moment of moments) {
    const now = view.passage(moment);
    for (const version of VERSIONS) {
      const space = now.decider.space(version);
      const about = matchedIn(space, rule);
      if (about === space.none) continue;
      if (space.intersect(about, now.answered(version)) !== space.none) return [];
      const packet = examplePacket(space, about);
      const stop = packet && (now.stopped(packet) ?? now.cutAnswer(packet));
      if (!packet || !stop || stopped !== null) continue;
      const by = stop.rule ? `“${ruleNameIn(view, stop.rule.id)}”` : 'a rule';
      stopped = `${packetWords(packet)} is stopped by ${by}${stop.at === 'gateway' ? ', which comes first' : ''}.`;
    }
  }
  const reason = stopped ?? 'Nobody who is outside is among those whom it is for.';
  return [found(context, each, 'published-kept-out', 'error', { message: nobody(each), reason })];
}

/** Every uplink that it is published at has an address that the provider translates: what comes from outside ends there. */
function behindProvider(context: CheckContext, each: Publication): Finding[] {
  const { deviceId, ports } = each;
  const at = context.uplinks.filter(
    (uplink) => uplink.deviceId === deviceId && (ports.length === 0 || ports.includes(uplink.port)),
  );
  const seen = at.filter(({ address }) => {
    const ip = parseIp(address);
    return ip && !isUnanswered(ip);
  });
  if (at.length === 0 || seen.length > 0) return [];
  const given = at.map(({ port, address }) => `${port} has ${address}`).join(' and ');
  const reason = `${given}: the provider translates that, and lets in nobody who begins outside. Publish it at an uplink with an address of its own, or ask the provider for one.`;
  return [found(context, each, 'published-behind', 'warning', { message: nobody(each), reason })];
}

/** Whoever asks for an address may be given the one that it leads to. */
function givenAway(context: CheckContext, each: Publication, segment: Segment): Finding[] {
  if (!isGivenAway(segment, each.address)) return [];
  return [
    found(context, each, 'published-given', 'warning', {
      message: `“${each.name}” leads to whoever is given ${each.address}`,
      reason: `${segment.name} gives that address to its clients. Reserve it for the one that is meant, or leave it out and set it there by hand.`,
      mend: leaveOut(context.site.id, segment, each.address),
    }),
  ];
}

/** It leads to a device of ours, which is managed from here. */
const ours = (context: CheckContext, each: Publication): Finding[] =>
  context.roster
    .filter(({ address }) => address?.address === each.address)
    .map(({ name }) =>
      found(context, each, 'published-device', 'warning', {
        message: `“${each.name}” opens ${name} to people outside`,
        reason: 'It is a device of ours, which is looked after from here. Nobody needs to reach it from outside.',
        mend: switchOff(context, each),
      }),
    );

/** The whole internet may ask for something that is tried by whoever finds it. */
function tried(context: CheckContext, each: Publication): Finding[] {
  if (!each.from.some(({ kind }) => kind === 'any' || kind === 'internet') || !protocolsOf(each).includes('tcp'))
    return [];
  const span = portsOutside(each);
  if (!span) return [];
  const { first, last } = span;
  const inside = each.inside ?? first;
  const port = Object.keys(TRIED)
    .map(Number)
    .find((one) => one >= inside && one <= inside + last - first);
  if (port === undefined) return [];
  const reason = `Everybody on the internet may try passwords at ${TRIED[port]} (port ${port}). Say from which addresses it is meant to be reached.`;
  return [
    found(context, each, 'published-tried', 'warning', { message: `“${each.name}” is open to everybody`, reason }),
  ];
}
