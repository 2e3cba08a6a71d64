import { subtractRanges, type IpRange } from '../address';
import { gatewayAddresses, rangesOfSegment, type JoinedEstate, type KeptGuarantee, type ResolvedSite } from '../intent';
import { hubSets, type AcrossStanding } from './hub-sets';
import { waitsAcross } from './waits-across';
import {
  addressSpans,
  blamed,
  boxesOf,
  carriedInto,
  examplePacket,
  momentWords,
  packetWords,
  resolveRules,
  unitedIn,
  VERSIONS,
  type Attached,
  type Diagram,
  type Packet,
  type PacketRule,
  type PacketSpace,
  type Passage,
  type RuleEnd,
} from '../rules';
import { attachedOf } from './attached-end';
import { ALL_UP, ledAcross, type JudgingSite, type LedAcross } from './led-across';
import type { PolicyView } from './policy-view';
import { nameIn } from './reach-view';

/** What a guarantee is about, at the two sites. */
interface Meant {
  readonly from: PacketRule;
  /** The same from anybody at the first site. */
  readonly anybody: PacketRule;
  readonly spared: readonly IpRange[] | null;
  readonly fromWhom: string | undefined;
  readonly toWhom: string | undefined;
}

/** What was proven between two policies, by what was asked. */
const proven = new WeakMap<PolicyView, WeakMap<PolicyView, Map<string, AcrossStanding>>>();
const MOST_PROVEN = 500;

/**
 * Proves a guarantee over all packets from one site to another: both gateways judge, and tunnels take only what is shared. Hubs between them only hand on.
 * Whatever leaves otherwise is not looked at: it comes to the other site as a stranger.
 */
export function proveAcross(
  guarantee: KeptGuarantee,
  estate: JoinedEstate,
  here: JudgingSite,
  there: JudgingSite,
): AcrossStanding {
  const states = statesOf(guarantee, estate, here, there);
  const known = proven.get(here.view) ?? new WeakMap<PolicyView, Map<string, AcrossStanding>>();
  proven.set(here.view, known);
  const results = known.get(there.view) ?? new Map<string, AcrossStanding>();
  known.set(there.view, results);
  const names = [here, there].map(({ site }) => [site.name, site.timeZone]);
  const key = JSON.stringify([guarantee, states, names], (_, value: unknown) =>
    typeof value === 'bigint' ? value.toString(36) : value,
  );
  let standing = results.get(key);
  if (!standing) {
    if (results.size >= MOST_PROVEN) results.clear();
    results.set(key, (standing = provenIn(states, guarantee, here, there)));
  }
  return standing.state === 'holds' ? waitsAcross(guarantee, estate, here.site.id, there.site.id) : standing;
}

/** What tunnels lead while all are up, and while hubs between the two fail. */
interface LedState {
  readonly led: LedAcross;
  /** Names of the hubs that fail. */
  readonly failed: readonly string[];
}

function statesOf(
  { kind, fails }: KeptGuarantee,
  estate: JoinedEstate,
  here: JudgingSite,
  there: JudgingSite,
): readonly LedState[] {
  const states: LedState[] = [{ led: ledAcross(estate, here, there, ALL_UP), failed: [] }];
  if (kind !== 'always' || !fails) return states;
  const { joins = {} } = estate;
  for (const set of hubSets(estate, here.site.id, there.site.id, fails)) {
    const down = new Set(set.map(({ id }) => id));
    const led = ledAcross(estate, here, there, (a, b) => !down.has(a) && !down.has(b));
    states.push({ led, failed: set.map(({ id }) => joins[id]?.name ?? '') });
  }
  return states;
}

function provenIn(
  states: readonly LedState[],
  guarantee: KeptGuarantee,
  here: JudgingSite,
  there: JudgingSite,
): AcrossStanding {
  let standing: AcrossStanding = { state: 'holds' };
  for (const { led, failed } of states) {
    standing = prove(guarantee, led, here, there);
    if (standing.state !== 'holds')
      return failed.length > 0
        ? {
            ...standing,
            why: `When ${failed.join(' and ')} ${failed.length > 1 ? 'fail' : 'fails'}: ${standing.why ?? ''}`,
          }
        : standing;
  }
  return standing;
}

function prove(guarantee: KeptGuarantee, led: LedAcross, here: JudgingSite, there: JudgingSite): AcrossStanding {
  const meant = meantBy(guarantee, here, there);
  if (typeof meant === 'string') return { state: 'void', why: meant };
  const timed = timesOf(here, there);
  for (const [minute, minuteThere] of timed) {
    const passages: Passages = { here: here.view.passage(minute), there: there.view.passage(minuteThere) };
    const found =
      guarantee.kind === 'always'
        ? cutOff(meant, led, passages, { here, there })
        : letThrough(guarantee.kind === 'only', meant, led, passages, { here, there });
    if (!found) continue;
    const { packet, ...more } = found;
    return {
      ...{ state: 'broken', packet: packetWords(packet), ...more },
      ...(timed.length > 1 ? { at: `${momentWords(minute)} at ${here.site.name}` } : {}),
    };
  }
  return { state: 'holds' };
}

interface Passages {
  readonly here: Passage;
  readonly there: Passage;
}
interface Sites {
  readonly here: JudgingSite;
  readonly there: JudgingSite;
}
interface Found {
  readonly packet: Packet;
  readonly why: string;
  readonly ruleId?: string;
}

/** Times at which other rules are in force at either: by one clock together, by two in every way that they can meet. */
function timesOf(here: JudgingSite, there: JudgingSite): (readonly [number, number])[] {
  const [mine, theirs] = [here, there].map(({ view }) => view.open.moments);
  if (here.site.timeZone === there.site.timeZone)
    return [...new Set([...mine!, ...theirs!])].map((minute) => [minute, minute] as const);
  return mine!.flatMap((minute) => theirs!.map((other) => [minute, other] as const));
}

/** Something that should not get through and does. */
function letThrough(others: boolean, meant: Meant, led: LedAcross, passages: Passages, sites: Sites): Found | null {
  if (led.from.length === 0 || led.to.length === 0) return null;
  for (const version of VERSIONS) {
    const [space, next] = [passages.here.decider.space(version), passages.there.decider.space(version)];
    const own = matched(space, meant.from, meant.spared);
    const about = others ? space.subtract(matched(space, meant.anybody, meant.spared), own) : own;
    // Whoever else gets there is anybody, however it is attached.
    const whose = { ...(others ? {} : attached('from', meant.fromWhom)) };
    const leaves = [about, ledIn(space, led)].reduce(
      (set, each) => space.intersect(set, each),
      passages.here.allowed(version, { who: 'some', ...whose }),
    );
    if (leaves === space.none) continue;
    const arrives = passages.there.allowed(version, { who: 'some', ...attached('to', meant.toWhom) });
    const packet = examplePacket(next, next.intersect(carriedInto(space, leaves, next), arrives));
    if (!packet) continue;
    const rules = [
      ['here', passages.here],
      ['there', passages.there],
    ] as const;
    const by = rules.map(([side, passage]) => {
      const { site, view } = sites[side];
      const { rule } = blamed(passage, packet);
      return {
        ruleId: rule?.id,
        words: rule ? `“${nameIn(view, rule.id)}” at ${site.name}` : `no rule at ${site.name}`,
      };
    });
    const why = `Let through by ${by.map(({ words }) => words).join(', and by ')}.`;
    return { packet, why, ...(by[0]!.ruleId === undefined ? {} : { ruleId: by[0]!.ruleId }) };
  }
  return null;
}

/** Something that should get through with its answer and does not. */
function cutOff(meant: Meant, led: LedAcross, passages: Passages, sites: Sites): Found | null {
  for (const version of VERSIONS) {
    const [space, next] = [passages.here.decider.space(version), passages.there.decider.space(version)];
    const about = matched(space, meant.from, meant.spared);
    if (about === space.none) continue;
    const passed = passages.here.answered(version, { who: 'every', ...attached('from', meant.fromWhom) });
    const stopped = examplePacket(space, space.subtract(about, passed));
    if (stopped) return stoppedAt(stopped, passages.here, sites.here);
    const lost = examplePacket(space, space.subtract(about, ledIn(space, led)));
    if (lost) return { packet: lost, why: wayWords(led, sites) };
    const heard = passages.there.answered(version, { who: 'every', ...attached('to', meant.toWhom) });
    const refused = examplePacket(next, next.subtract(matched(next, meant.from, meant.spared), heard));
    if (refused) return stoppedAt(refused, passages.there, sites.there);
  }
  return null;
}

function stoppedAt(packet: Packet, passage: Passage, { site, view }: JudgingSite): Found {
  const { rule } = blamed(passage, packet);
  const by = rule ? `by “${nameIn(view, rule.id)}”` : 'since no rule lets it through';
  return { packet, why: `Stopped at ${site.name} ${by}.`, ...(rule ? { ruleId: rule.id } : {}) };
}

const wayWords = ({ stops }: LedAcross, { here, there }: Sites): string =>
  stops[0] ??
  `Tunnels do not lead it from ${here.site.name} to ${there.site.name} and its answer back: both have to share their network and to speak with the other’s.`;

const attached = (side: keyof Attached, key: string | undefined): Attached =>
  key === undefined ? {} : { [side]: key };

const ledIn = (space: PacketSpace, { from, to }: LedAcross): Diagram => {
  const [source, destination] = [addressSpans(space.version, from)!, addressSpans(space.version, to)!];
  return source.length === 0 || destination.length === 0 ? space.none : space.box([source, destination, null, null]);
};

function matched(space: PacketSpace, rule: PacketRule, spared: readonly IpRange[] | null): Diagram {
  const set = unitedIn(space, boxesOf(rule, space.version));
  const aside = spared && addressSpans(space.version, spared);
  return aside && aside.length > 0 ? space.subtract(set, space.box([null, aside, null, null])) : set;
}

/** What a guarantee is about; a sentence: why nothing is. */
function meantBy(
  { id, kind, from, to, services, besides }: KeptGuarantee,
  here: JudgingSite,
  there: JudgingSite,
): Meant | string {
  const resolved = (ends: readonly RuleEnd[], { view }: JudgingSite): readonly IpRange[] | null | 'missing' => {
    const { rules } = resolveRules(
      [{ id, verdict: 'allow', from: ends, to: [{ kind: 'any' }], services }],
      view.made.names,
    );
    return rules[0] ? rules[0].source : 'missing';
  };
  const [source, destination] = [resolved(from, here), resolved(to, there)];
  if (destination === 'missing') return `${there.site.name} has not what is to be reached.`;
  // Whoever alone may get there is nobody, where there is none of that name.
  if (source === 'missing' && kind !== 'only') return `${here.site.name} has not what it is from.`;
  const spared = besides && besides.length > 0 ? resolved(besides, there) : null;
  const rules = resolveRules(
    [{ id, verdict: 'allow', from: [{ kind: 'any' }], to: [{ kind: 'any' }], services }],
    here.view.made.names,
  ).rules;
  if (!rules[0]) return 'What it says of ports means nothing here.';
  const clients = (ranges: readonly IpRange[], { site }: JudgingSite, key: string | undefined): readonly IpRange[] =>
    key === undefined ? ranges : ranges.flatMap((range) => subtractRanges(range, gatewayAddresses(site)));
  const [fromWhom, toWhom] = [attachedOf(from, here.site), attachedOf(to, there.site)];
  const all = networksOf(here.site);
  const plain = {
    ...rules[0],
    destination: clients(destination ?? networksOf(there.site), there, toWhom),
  };
  return {
    from: { ...plain, source: source === 'missing' ? [] : clients(source ?? all, here, fromWhom) },
    anybody: { ...plain, source: all },
    spared: spared === 'missing' ? null : spared,
    fromWhom,
    toWhom,
  };
}

const networksOf = ({ segments }: ResolvedSite): IpRange[] => segments.flatMap(rangesOfSegment);
