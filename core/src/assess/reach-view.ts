import { subtractRanges, type IpRange, type IpVersion } from '../address';
import { isOfOthers, rangesOfSegment, segmentsOfSsid, type ResolvedSite } from '../intent';
import { classKey, enforcedAt, policyOf, ruleName, ssidKey, type Enforced } from '../rollout';
import type { RosterDevice } from '../intent';
import {
  between,
  matchedIn,
  momentWords,
  packetWords,
  examplePacket,
  ReachReader,
  relationsOf,
  rangeAsText,
  resolveRules,
  trafficOf,
  VERSIONS,
  type Diagram,
  type PacketSpace,
  type Attached,
  type Passage,
  type PassageStop,
  type PacketRule,
  type PolicyBook,
  type Quarter,
  type Reach,
  type RelationKind,
  type Verdict,
} from '../rules';

import { clientsOf, rulesOf, viewPolicy, type PolicyView } from './policy-view';
import { pactWords } from './quarters';

/** A place whose traffic with every other is told. */
export interface MatrixEnd {
  readonly key: string;
  readonly kind: 'segment' | 'ssid' | 'class' | 'gateway' | 'internet';
  readonly name: string;
}

/** Who reaches whom, from each place (a row) to each (a column). */
export interface ReachMatrix {
  readonly places: readonly MatrixEnd[];
  /** Of two sites, those of the other; absent: the same. */
  readonly columns?: readonly MatrixEnd[];
  /** Of two sites: why nothing gets from one to the other in the draft, each a sentence. */
  readonly stops?: readonly string[];
  readonly draft: readonly (readonly Reach[])[];
  /** What devices acknowledged; null where the gateway runs no policy yet. */
  readonly live: readonly (readonly Reach[])[] | null;
  /** When other rules are in force: a minute of the week for each, and in words. */
  readonly moments: readonly { readonly minute: number; readonly words: string }[];
  /** How rules stand to those before them. */
  readonly relations: readonly {
    readonly ruleId: string;
    readonly byId: string;
    readonly kind: RelationKind;
  }[];
}

/** What a site's reach is read from. */
export interface ReachInput {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
  /** What devices acknowledged; null where the gateway runs none. */
  readonly live: Enforced | null;
  /** The site as it is live: what is there, and with which addresses. Absent: as in the draft. */
  readonly liveSite?: ResolvedSite;
  /** Addresses of its uplinks as they are now; absent: none is known. */
  readonly uplinks?: readonly { readonly address: string }[];
}

/** A place with where it is. */
export interface Sited extends MatrixEnd {
  readonly addresses: readonly IpRange[];
  /** Of an SSID or a class: how its clients are attached, where lists tell them from others of their segment. */
  readonly attached?: string;
}

/** The places of a site: its segments, SSIDs, access classes, the gateway's own services, and the internet. */
export function matrixEnds(site: ResolvedSite, view: PolicyView): Sited[] {
  const clients = clientsOf(site);
  const { names } = view.made;
  const internet = resolveRules(
    [
      {
        id: 'all',
        verdict: 'allow',
        from: [{ kind: 'any' }],
        to: [{ kind: 'internet' }],
        services: [{ protocol: 'any' }],
      },
    ],
    names,
  ).rules[0]!.destination!;
  const own = names.gateway ?? [];
  const ssids = site.ssids.map((ssid): Sited => {
    const joins = new Set(segmentsOfSsid(ssid));
    const addresses = site.segments
      .filter(({ id }) => joins.has(id))
      .flatMap(rangesOfSegment)
      .flatMap((range) => subtractRanges(range, own));
    return { key: ssidKey(ssid.id), kind: 'ssid', name: ssid.name, addresses, attached: ssidKey(ssid.id) };
  });
  const classes = site.accessClasses.flatMap(({ id, name, segmentId }): Sited[] => {
    if (segmentId === null) return [];
    return [
      { key: classKey(id), kind: 'class', name, addresses: clients.get(segmentId) ?? [], attached: classKey(id) },
    ];
  });
  return [
    ...site.segments.map(({ id, name }): Sited => ({
      key: `segment ${id}`,
      kind: 'segment',
      name,
      addresses: clients.get(id)!,
    })),
    ...ssids,
    ...classes,
    { key: 'gateway', kind: 'gateway', name: 'Gateway', addresses: own },
    { key: 'internet', kind: 'internet', name: 'Internet', addresses: internet },
  ];
}

const opened = ({ site, roster }: ReachInput, book?: PolicyBook): PolicyView =>
  viewPolicy(site, policyOf(site, roster), enforcedAt(site, roster), site.id, book);
const openedLive = (input: ReachInput, book?: PolicyBook): PolicyView | null => {
  if (!input.live) return null;
  const site = input.liveSite ?? input.site;
  return viewPolicy(site, policyOf(site, input.roster), input.live, `${site.id} live`, book);
};

/** The draft's places where they are live; one that is only in the draft has no address there. */
function liveEnds(input: ReachInput, live: PolicyView, places: readonly Sited[]): Sited[] {
  if (!input.liveSite) return [...places];
  const there = new Map(matrixEnds(input.liveSite, live).map((place) => [place.key, place]));
  return places.map((place) => there.get(place.key) ?? { ...place, addresses: [] });
}

const readers = new WeakMap<PacketSpace, { readonly key: string; readonly reader: ReachReader }>();

/** The whole matrix at a minute of the week, IPv4 and IPv6 together. */
function matrixOf(passage: Passage, places: readonly Sited[]): Reach[][] {
  const key = JSON.stringify(places.map(({ addresses }) => addresses.map((range) => `${range.first} ${range.last}`)));
  const [four, six] = VERSIONS.map((version) => {
    const space = passage.decider.space(version);
    let known = readers.get(space);
    if (known?.key !== key) readers.set(space, (known = { key, reader: new ReachReader(space, places) }));
    return reachIn(passage, version, places, (set) => known.reader.matrix(set));
  }) as [Reach[][], Reach[][]];
  // What the gateway itself sends is decided by no rule.
  return four.map((row, i) =>
    row.map((reach, j) => (places[i]!.kind === 'gateway' ? 'absent' : both(reach, six[i]![j]!))),
  );
}

/** One version's matrix: `all` where every client gets everything through, however it is attached; `none` where none does. */
function reachIn(
  passage: Passage,
  version: IpVersion,
  places: readonly Sited[],
  read: (set: Diagram) => Reach[][],
): Reach[][] {
  const some = read(passage.allowed(version));
  if (!passage.edge) return some;
  const every = read(passage.allowed(version, { who: 'every' }));
  const space = passage.decider.space(version);
  return some.map((row, i) =>
    row.map((reach, j) => {
      const [from, to] = [places[i]!, places[j]!];
      if (reach === 'absent') return reach;
      if (from.attached === undefined && to.attached === undefined) return ofBoth(reach, every[i]![j]!);
      return reachOf(passage, space, between(space, from, to), attachedAt(from, to));
    }),
  );
}

const ofBoth = (some: Reach, every: Reach): Reach => (some === 'none' ? 'none' : every === 'all' ? 'all' : 'some');

const attachedAt = (from: Sited, to: Sited): Attached => ({
  ...(from.attached === undefined ? {} : { from: from.attached }),
  ...(to.attached === undefined ? {} : { to: to.attached }),
});

/** How much of a set of packets gets through. */
function reachOf(passage: Passage, space: PacketSpace, about: Diagram, attached: Attached): Reach {
  if (space.intersect(passage.allowed(space.version, { who: 'some', ...attached }), about) === space.none)
    return 'none';
  const every = passage.allowed(space.version, { who: 'every', ...attached });
  return space.subtract(about, every) === space.none ? 'all' : 'some';
}

/** Of both versions of IP together. */
export const both = (a: Reach, b: Reach): Reach => (a === 'absent' ? b : b === 'absent' || a === b ? a : 'some');

/** Most rules whose pairs are compared for a screen. */
const MOST_COMPARED = 1000;

/** Who reaches whom at a site, on the draft and on what devices run. @param minute of the week; the first of the draft's when absent. */
export function reachMatrix(input: ReachInput, minute: number | null, book?: PolicyBook): ReachMatrix {
  const view = opened(input, book);
  const live = openedLive(input, book);
  const at = minute ?? view.open.moments[0]!;
  const places = matrixEnds(input.site, view);
  const decider = view.open.at(at);
  return {
    places: places.map(({ key, kind, name }) => ({ key, kind, name })),
    draft: matrixOf(view.passage(at), places),
    live: live && matrixOf(live.passage(at), liveEnds(input, live, places)),
    moments: view.open.moments.map((each) => ({ minute: each, words: momentWords(each) })),
    relations: (decider.list.length > MOST_COMPARED ? [] : relationsOf(decider, decider.list)).map(
      ({ rule, by, kind }) => ({ ruleId: rule.id, byId: by.id, kind }),
    ),
  };
}

/** One line of traffic, to be read. */
export interface TrafficLine {
  readonly from: readonly string[];
  readonly to: readonly string[];
  readonly services: readonly string[];
  readonly sourcePorts?: string;
}
/** A rule that decides some of what is asked, with a packet that it decides. */
export interface DecidingRule {
  /** Null where no rule says anything. */
  readonly ruleId: string | null;
  readonly name: string;
  readonly verdict: Verdict;
  readonly example: string;
  /** Where it decides; `within` a segment nothing else does. */
  readonly at: PassageStop['at'];
  /** Of two sites: at which. */
  readonly site?: string;
}
/** Exactly what gets from one place to another. */
export interface ReachCell {
  readonly reach: Reach;
  /** What is let through, line by line. */
  readonly allowed: readonly TrafficLine[];
  /** Lines left out, where there are very many. */
  readonly more: number;
  readonly rules: readonly DecidingRule[];
  /** Of two sites: why nothing gets from one to the other. */
  readonly stops?: readonly string[];
}

const MOST_LINES = 60;
const MOST_RANGES = 12;

/** Everything that is let from one place of the matrix to another. @throws RangeError when there is no such place. */
export function reachCell(
  input: ReachInput,
  asked: { readonly from: string; readonly to: string; readonly on: 'draft' | 'live'; readonly minute: number | null },
  book?: PolicyBook,
): ReachCell {
  const draft = opened(input, book);
  const view = asked.on === 'live' ? openedLive(input, book) : draft;
  const drafted = matrixEnds(input.site, draft);
  const places = view && view !== draft ? liveEnds(input, view, drafted) : drafted;
  const [from, to] = [asked.from, asked.to].map((key) => places.find((place) => place.key === key));
  if (!view || !from || !to) throw new RangeError('no such place');
  const passage = view.passage(asked.minute ?? draft.open.moments[0]!);
  return cellOf(passage, view, places, (space) => between(space, from, to), attachedAt(from, to));
}

/** What is let through of a set of packets, and by which rules. */
export function cellOf(
  passage: Passage,
  view: PolicyView,
  places: readonly Sited[],
  asked: (space: PacketSpace) => Diagram,
  attached: Attached = {},
): ReachCell {
  const lines: TrafficLine[] = [];
  const rules: DecidingRule[] = [];
  let reach: Reach = 'absent';
  for (const version of VERSIONS) {
    const space = passage.decider.space(version);
    const about = asked(space);
    if (about === space.none) continue;
    const allowed = space.intersect(passage.allowed(version, { who: 'some', ...attached }), about);
    reach = both(reach, reachOf(passage, space, about, attached));
    for (const { sources, destinations, services, sourcePorts } of trafficOf(space, allowed))
      lines.push({
        from: few(sources, places),
        to: few(destinations, places),
        services,
        ...(sourcePorts ? { sourcePorts } : {}),
      });
    const past = passage.quarters?.past(space) ?? space.none;
    rules.push(
      ...decidingRules(passage, view, version, space.subtract(about, past)),
      ...besideRules(passage, view, version, about),
      ...listedRules(passage, view, version, about, attached),
    );
  }
  const seen = new Set<string>();
  return {
    reach,
    allowed: lines.slice(0, MOST_LINES),
    more: Math.max(0, lines.length - MOST_LINES),
    rules: rules.filter(({ ruleId, name, at }) => {
      const key = `${ruleId} ${name} ${at}`;
      return !seen.has(key) && seen.add(key);
    }),
  };
}

/** Ranges in few words: places by name where all of theirs are among them, the rest as text. */
function few(ranges: readonly IpRange[], places: readonly Sited[]): string[] {
  const key = ({ version, first, last }: IpRange): string => `${version} ${first} ${last}`;
  const left = new Map(ranges.map((range) => [key(range), range]));
  const words: string[] = [];
  for (const { kind, name, addresses } of places) {
    const own = addresses.filter(({ version }) => version === ranges[0]?.version).map(key);
    if (kind === 'ssid' || kind === 'class' || own.length === 0 || !own.every((each) => left.has(each))) continue;
    words.push(name);
    for (const each of own) left.delete(each);
  }
  const rest = [...left.values()];
  return [
    ...words,
    ...rest.slice(0, MOST_RANGES).map(rangeAsText),
    ...(rest.length > MOST_RANGES ? [`and ${rest.length - MOST_RANGES} more`] : []),
  ];
}

function decidingRules(passage: Passage, view: PolicyView, version: 4 | 6, about: Diagram): DecidingRule[] {
  const { decider } = passage;
  const space = decider.space(version);
  const decisions = decider.decisions(version);
  return [null, ...decider.list].flatMap((rule): DecidingRule[] => {
    const number = rule ? decider.numberOf(rule) : 0;
    const own = rule ? decider.matched(rule, version) : space.all;
    const part = space.intersect(about, own);
    if (part === space.none) return [];
    const decided = space.intersect(
      part,
      space.map(decisions, (value) => Number(value === number)),
    );
    const example = examplePacket(space, decided);
    if (!example) return [];
    const among = passage.among(example);
    const words = packetWords(example);
    if (among !== null)
      return [
        {
          ruleId: null,
          name: among ? 'Clients of the segment are kept apart' : 'Within a segment no rule is asked',
          verdict: among ? 'deny' : 'allow',
          example: words,
          at: 'within',
        },
      ];
    return [
      {
        ruleId: rule?.id ?? null,
        name: rule ? nameIn(view, rule.id) : NO_RULE,
        verdict: rule?.verdict ?? passage.otherwise,
        example: words,
        at: 'gateway',
      },
    ];
  });
}

function besideWords({ routers }: PolicyView, { name, shut }: Quarter, rule: PacketRule | null): string {
  if (shut) return `Nobody routes ${name}`;
  const agreed = pactWords(rule);
  if (agreed) return `“${name}”: ${agreed}`;
  const router = routers.find((each) => each.name === name);
  if (router && !isOfOthers(router)) return `Routed by ${name}`;
  const said = rule && router?.lets?.find(({ id }) => id === rule.id);
  return said ? `Assumed of ${name}: ${ruleName(said)}` : `Assumed of ${name}: it lets this pass`;
}

/** What routers beside the gateway decide of a set of packets. */
function besideRules(passage: Passage, view: PolicyView, version: IpVersion, about: Diagram): DecidingRule[] {
  const { quarters, decider } = passage;
  const space = decider.space(version);
  return (quarters?.met(space, about) ?? []).flatMap(({ quarter, rule, passed, met, why }): DecidingRule[] => {
    const example = examplePacket(space, met);
    if (!example || passage.among(example) !== null) return [];
    return [
      {
        ruleId: null,
        name: why ? `${quarter.name}: ${why}` : besideWords(view, quarter, rule),
        verdict: passed ? 'allow' : 'deny',
        example: packetWords(example),
        at: quarter.shut ? 'nowhere' : 'router',
      },
    ];
  });
}

/** The rules of lists at switches and APs that decide some of a set of packets. */
function listedRules(
  { edge, decider }: Passage,
  view: PolicyView,
  version: IpVersion,
  about: Diagram,
  attached: Attached,
): DecidingRule[] {
  if (!edge) return [];
  const space = decider.space(version);
  return edge.listsMet(space, about, attached).flatMap(({ at, rules, met }): DecidingRule[] => {
    let left = met;
    return rules.flatMap((rule): DecidingRule[] => {
      const own = matchedIn(space, rule);
      const example = examplePacket(space, space.intersect(left, own));
      left = space.subtract(left, own);
      if (!example) return [];
      const { id: ruleId, verdict } = rule;
      return [{ ruleId, name: nameIn(view, ruleId), verdict, example: packetWords(example), at }];
    });
  });
}

/** What a rule is called: as it is written now, or as the devices were told. */
export function nameIn(view: PolicyView, ruleId: string): string {
  const row = view.made.rows.find(({ rule }) => rule.id === ruleId);
  return row ? ruleName(row.rule) : (rulesOf(view.enforced).find(({ id }) => id === ruleId)?.name ?? ruleId);
}

const NO_RULE = 'No rule says anything of it';
