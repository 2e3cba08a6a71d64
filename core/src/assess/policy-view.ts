import { mergeRanges, subtractRanges, type IpRange } from '../address';
import { gatewayAddresses, rangesOfSegment, type ResolvedSite } from '../intent';
import type { SitePolicy } from '../rollout';
import { Passage, PolicyBook, type Neighbourhood, type OpenPolicy, type PolicyDocument } from '../rules';

/** What a site's policy says, ready to be asked. */
export interface PolicyView {
  readonly made: SitePolicy;
  readonly open: OpenPolicy;
  /** What gets through at a minute of the week. */
  passage(minute: number): Passage;
}

/** Where TCP is open for devices at the controller (RFC 8071 leaves it to the protocol; ours is a WebSocket over TLS). */
export const CONTROLLER_PORT = 443;

const fewer = (ranges: readonly IpRange[], minus: readonly IpRange[]): IpRange[] =>
  ranges.flatMap((range) => subtractRanges(range, minus));

/** Clients of each segment: its subnets without the gateway's own addresses. */
export function clientsOf(site: ResolvedSite): Map<string, IpRange[]> {
  const own = gatewayAddresses(site);
  return new Map(site.segments.map((segment) => [segment.id, fewer(mergeRanges(rangesOfSegment(segment)), own)]));
}

/** The clients of each segment as neighbours: frames between them do not pass the gateway. */
export function neighbourhoodsOf(site: ResolvedSite): Neighbourhood[] {
  const clients = clientsOf(site);
  return site.segments.map(({ id, isolation }) => ({
    addresses: clients.get(id)!,
    apart: isolation?.clients ?? false,
  }));
}

/** Opens a site's policy. @param policy the one to ask: what was made, or what devices run. */
export function viewPolicy(
  site: ResolvedSite,
  made: SitePolicy,
  policy: PolicyDocument,
  key: string,
  book: PolicyBook = new PolicyBook(),
): PolicyView {
  const open = book.open(key, policy);
  const neighbourhoods = neighbourhoodsOf(site);
  return {
    made,
    open,
    passage: (minute) => new Passage(open.at(minute), neighbourhoods, policy.otherwise),
  };
}
