import { parsePrefix, rangeOf, sharedRanges, type IpRange } from '../address';
import type { DeviceDocument, GatewayDocument } from '../document';
import { joinedEnds, memberAt, type JoinedEstate, type ResolvedSite, type RosterDevice } from '../intent';
import { enforcedAt, policyOf, type Enforced } from '../rollout';
import { joinedWay } from '../routing';
import type { PolicyBook } from '../rules';
import { viewPolicy, type PolicyView } from './policy-view';
import { routerOf, waysOf } from './told-route';

/** A site whose gateway judges what tunnels lead from it and to it. */
export interface JudgingSite {
  readonly site: ResolvedSite;
  /** What the gateway that routes its segments is told; null where there is none. */
  readonly router: GatewayDocument | null;
  readonly view: PolicyView;
}

/** Opens a site as its devices would be told. @param key of its policy in a book. */
export function judgingSite(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  { enforced, book, key = site.id, documents }: JudgedBy = {},
): JudgingSite {
  const router = routerOf(site, roster, documents);
  const policy = enforced ?? enforcedAt(site, roster, documents);
  return { site, router, view: viewPolicy(site, policyOf(site, roster), policy, key, book) };
}

interface JudgedBy {
  /** What devices run; absent: what they would be told. */
  readonly enforced?: Enforced;
  readonly documents?: ReadonlyMap<string, DeviceDocument>;
  readonly book?: PolicyBook | undefined;
  readonly key?: string;
}

/** What tunnels lead from one site to another, with the answers coming back: any packet from the one to the other, as far as tunnels go. */
export interface LedAcross {
  readonly from: readonly IpRange[];
  readonly to: readonly IpRange[];
  /** Why nothing is led, or of the way: each a sentence. */
  readonly stops: readonly string[];
}

/** Whether the tunnel between two joined sites is up, by their ids. */
export type TunnelsUp = (a: string, b: string) => boolean;
export const ALL_UP: TunnelsUp = () => true;
/** Those between some pairs are, whichever way they are named. */
export function eitherWay(pairs: readonly (readonly [string, string])[]): TunnelsUp {
  const known = new Set(pairs.flatMap(([a, b]) => [`${a} ${b}`, `${b} ${a}`]));
  return (a, b) => known.has(`${a} ${b}`);
}

/**
 * The packets that tunnels take from one site to another: shared at both ends, taken by both, and led there by either gateway’s table, since a stateful
 * gateway needs the answer too.
 */
export function ledAcross(estate: JoinedEstate, here: JudgingSite, there: JudgingSite, up: TunnelsUp): LedAcross {
  const [own, other] = [here, there].map(({ site }) => memberAt(estate, site.id));
  const none = (...stops: string[]): LedAcross => ({ from: [], to: [], stops });
  if (!own || !other) return none(`${(own ? there : here).site.name} is not joined to other sites.`);
  const { path, back, stops } = joinedWay(joinedEnds(estate), up, { id: own.id }, { id: other.id });
  if (path === null || back === null) return none(...stops);
  const { joins = {} } = estate;
  const [mine, theirs] = [own, other].map(({ id }) => rangesOf(joins[id]?.carries ?? []));
  return {
    from: ledBy(there.router, other.takes ? sharedRanges(mine!, rangesOf(other.takes)) : mine!),
    to: ledBy(here.router, own.takes ? sharedRanges(theirs!, rangesOf(own.takes)) : theirs!),
    stops,
  };
}

const rangesOf = (texts: readonly string[]): IpRange[] =>
  texts.flatMap((text) => {
    const prefix = parsePrefix(text);
    return prefix ? [rangeOf(prefix)] : [];
  });

/** Those of some destinations that a gateway leads into tunnels. */
const ledBy = (router: GatewayDocument | null, destinations: readonly IpRange[]): IpRange[] =>
  router === null
    ? []
    : waysOf(router)(destinations).flatMap(({ range, way }) =>
        way?.kind === 'overlay' && way.line.peer !== null ? [range] : [],
      );
