import type { SitePart } from '../part';
import { isRoutedByGateway, type Segment } from '../segment/segment';
import type { SiteRouter } from './router';

type Routed = Pick<SitePart, 'routers' | 'segments'>;

/** The segments that a router beside the gateway routes, in their order. */
export const segmentsOfRouter = ({ segments }: Pick<SitePart, 'segments'>, id: string): readonly Segment[] =>
  segments.filter(({ routed }) => routed === id);

/** The router beside the gateway that routes a segment; undefined: the gateway does, APs do, or nobody. */
export const routerOfSegment = (
  { routers = [] }: Pick<SitePart, 'routers'>,
  { routed }: Pick<Segment, 'routed'>,
): SiteRouter | undefined => (routed ? routers.find(({ id }) => id === routed) : undefined);

/** What a gateway has to know of the routers that it meets: what is behind each goes to the address of it. */
export interface RouterRoute {
  readonly name: string;
  readonly prefix: string;
  readonly to: string;
}

/** The routes that follow from a site’s routers, by router and then as its segments stand. */
export const routerRoutes = (site: Routed): RouterRoute[] =>
  (site.routers ?? []).flatMap(({ id, name, meets, behind }) => {
    if (!meets) return [];
    const to = meets.address;
    return [
      ...segmentsOfRouter(site, id).map((segment) => ({
        name: `${segment.name} by ${name}`,
        prefix: segment.subnet,
        to,
      })),
      ...(behind ?? []).map((prefix) => ({ name: `${prefix} behind ${name}`, prefix, to })),
    ];
  });

/** Whether a gateway knows a way to a segment: it routes it, or somebody does whom it meets. */
export const isReachedByGateway = (site: Pick<SitePart, 'routers'>, segment: Segment): boolean =>
  isRoutedByGateway(segment) || Boolean(routerOfSegment(site, segment)?.meets);

/** Whether what a segment says to the internet leaves by the gateway: it routes it, or somebody does whom it meets and who has no line of its own. */
export function leavesByGateway(site: Pick<SitePart, 'routers'>, segment: Segment): boolean {
  const router = routerOfSegment(site, segment);
  return router ? Boolean(router.meets) && !router.ownWayOut : isRoutedByGateway(segment);
}
