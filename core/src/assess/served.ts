import { rangeOf, parsePrefix, type IpRange } from '../address';
import { leavesByGateway, uplinkSettings, type KeptGuarantee, type ResolvedSite, type RosterDevice } from '../intent';
import type { GatewayPathsView, PathView, Rehearsed } from '../paths';
import { holderOf } from '../rollout';
import { resolveRules, type RuleEnd, type RuleNames } from '../rules';
import type { UplinkAddress } from './check';
import { segmentStreams, type SegmentStreams } from './course-streams';
import { FAILS_AT, failuresOf, mateOf, rehearsedGateway, type Failure } from './rehearsed';

/** Seconds that people accept where they say nothing. */
export const USUAL_WITHIN = 15;

/** Whom failures of uplinks leave without internet for too long: the longest that somebody waits. */
export interface Unserved {
  readonly segment: string;
  /** The course that waits; null: what leaves as usual does. */
  readonly course: string | null;
  readonly ports: readonly string[];
  readonly what: Failure['what'];
  /** Seconds; null: as long as it lasts. */
  readonly waits: number | null;
}

/** What waiting is worked out of. */
export interface ServedInput {
  readonly site: ResolvedSite;
  readonly roster: readonly RosterDevice[];
  /** Uplinks that have an address now; of a gateway without any, all that it has count. */
  readonly uplinks: readonly UplinkAddress[];
}

/** Says what a guarantee of being served comes to at a site: null where it holds, `void` where nobody whom it names leaves there. */
export function unserved(
  { from, within, fails }: Pick<KeptGuarantee, 'from' | 'within' | 'fails'>,
  names: RuleNames,
  input: ServedInput,
): Unserved | null | 'void' {
  const { site, roster } = input;
  const gateway = roster.find(({ id }) => id === holderOf({ site, roster }));
  const streams = gateway ? segmentStreams(site, roster, gateway).filter(isMeant(from, names, site)) : [];
  if (!gateway || streams.length === 0) return 'void';
  const mate = mateOf(site, roster, gateway, (id) => {
    const other = roster.find((each) => each.id === id);
    return other ? factsOf(input, other) : null;
  });
  const played = rehearsedGateway(site, gateway, factsOf(input, gateway), mate);
  const title = new Map((site.courses ?? []).map(({ id, name }) => [id, name]));
  let worst: (Unserved & { readonly seconds: number }) | null = null;
  for (const { ports, what, worst: made } of failuresOf(played, fails ?? 1))
    for (const { name, courses, usual } of streams)
      for (const { id, longest, dark, spans } of waitsOf(made, courses, usual)) {
        if (longest <= (within ?? USUAL_WITHIN) + 1e-6 || (worst && longest <= worst.seconds)) continue;
        const lasts =
          dark > 0 &&
          spans.every(({ from: at, used }) => at < FAILS_AT || used.every(({ port }) => ports.includes(port)));
        const course = id === null ? null : (title.get(id) ?? null);
        worst = { segment: name, course, ports, what, waits: lasts ? null : longest, seconds: longest };
      }
  if (!worst) return null;
  const { seconds: _known, ...told } = worst;
  return told;
}

/** What somebody of a segment may wait for: what leaves as usual, and each of its courses. */
function* waitsOf(
  made: Rehearsed,
  courses: readonly string[],
  usual: boolean,
): Generator<Pick<Rehearsed, 'longest' | 'dark' | 'spans'> & { readonly id: string | null }> {
  if (usual) yield { id: null, longest: made.longest, dark: made.dark, spans: made.spans };
  for (const { id, longest, dark, spans } of made.courses ?? [])
    if (courses.includes(id)) yield { id, longest, dark, spans };
}

/** Uplinks as they are now: those without an address cannot stand in. */
function factsOf({ site, uplinks }: ServedInput, device: RosterDevice): Pick<GatewayPathsView, 'uplinks'> | null {
  const mine = new Map(
    uplinks.flatMap((each) => (each.deviceId === device.id ? [[each.port, each.address] as const] : [])),
  );
  if (mine.size === 0) return null;
  return {
    uplinks: uplinkSettings(site, device).map(({ port }): PathView => {
      const address = mine.get(port) ?? null;
      return { port, address, state: address === null ? 'none' : 'good', since: 0, used: false, sessions: 0 };
    }),
  };
}

/** Tells the segments that a guarantee is about, of those that leave by the gateway. */
function isMeant(from: readonly RuleEnd[], names: RuleNames, site: ResolvedSite): (one: SegmentStreams) => boolean {
  const wanted = resolveRules(
    [{ id: 'served', verdict: 'allow', from, to: [{ kind: 'any' }], services: [{ protocol: 'any' }] }],
    names,
  ).rules[0];
  if (!wanted) return () => false;
  return ({ segmentId }) => {
    const segment = site.segments.find(({ id }) => id === segmentId)!;
    const subnet = parsePrefix(segment.subnet);
    return leavesByGateway(site, segment) && subnet !== null && meets(wanted.source, rangeOf(subnet));
  };
}

const meets = (ranges: readonly IpRange[] | null, { version, first, last }: IpRange): boolean =>
  ranges === null || ranges.some((each) => each.version === version && each.first <= last && each.last >= first);
