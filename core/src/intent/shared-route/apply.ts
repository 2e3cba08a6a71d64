import { formatPrefix, parsePrefix } from '../../address';
import { flaw, type Flaw } from '../../base';
import { byName, editsOfList } from '../kept-list';
import type { EstatePart } from '../part';
import { reachesMeet } from '../reach';
import { normalTracks, plainRouteFlaws } from '../route/plain-route';
import type { SharedRouteOperation } from './operations';
import { MOST_SHARED_ROUTES, type SharedRoute } from './shared-route';

/** The furthest address of a segment that a route may lead to. */
const MOST_NTH = 65_534;

/** Applies an edit of a route of many sites; they stay ordered by name. */
export const applySharedRoute = editsOfList<SharedRouteOperation, SharedRoute, 'estate'>({
  noun: 'sharedRoute',
  title: 'route',
  item: 'route',
  where: 'estate',
  list: 'routes',
  order: byName,
  normal: normalised,
  purposed: true,
  check: (_intent, estate, route) => check(estate, route),
});

function check({ routes = [] }: EstatePart, route: SharedRoute): Flaw[] {
  const { id, name, via, metric, off, reach } = route;
  const flaws: Flaw[] = [];
  const others = routes.filter((each) => each.id !== id);
  if (others.length >= MOST_SHARED_ROUTES)
    flaws.push(flaw('sharedRoute.many', `Sites share ${MOST_SHARED_ROUTES} routes at most.`));
  if (name === '') flaws.push(flaw('sharedRoute.name-empty', 'Give the route a name.', 'name'));
  const namesake = others.find((each) => each.name.toLowerCase() === name.toLowerCase());
  if (namesake) flaws.push(flaw('sharedRoute.name-taken', `There is a route “${namesake.name}” already.`, 'name'));
  flaws.push(...plainRouteFlaws('sharedRoute', route).flaws);
  const twin = others.find(
    (each) =>
      !each.off &&
      !off &&
      each.prefix === route.prefix &&
      (each.metric ?? 0) === (metric ?? 0) &&
      reachesMeet(each.reach, reach),
  );
  if (twin)
    flaws.push(
      flaw(
        'sharedRoute.twice',
        `“${twin.name}” is for ${route.prefix} as well at some of the same sites: give one of them another metric.`,
        'metric',
      ),
    );
  if (via.kind === 'segment') {
    if (via.segment === '')
      flaws.push(flaw('sharedRoute.segment', 'Say in which segment whoever hands it on is.', 'via'));
    if (!(Number.isInteger(via.nth) && via.nth >= 1 && via.nth <= MOST_NTH))
      flaws.push(flaw('sharedRoute.nth', `Say which of its addresses, from 1 to ${MOST_NTH}.`, 'via'));
  }
  if (via.kind === 'uplink' && via.title === '')
    flaws.push(flaw('sharedRoute.uplink', 'Say by which uplink, as sites call it.', 'via'));
  return flaws;
}

function normalised({ metric, off, via, tracks, ...route }: SharedRoute): SharedRoute {
  const prefix = parsePrefix(route.prefix.trim());
  return {
    ...route,
    name: route.name.trim(),
    prefix: prefix ? formatPrefix(prefix) : route.prefix.trim(),
    via:
      via.kind === 'segment'
        ? { ...via, segment: via.segment.trim() }
        : via.kind === 'uplink'
          ? { ...via, title: via.title.trim() }
          : via,
    ...(metric ? { metric } : {}),
    ...normalTracks(tracks),
    ...(off ? { off } : {}),
  };
}
