import type { EstatePart, Operation, SharedReach } from '../../intent';
import { MOST_REACHED } from '../../intent';

/** Something that sites share, and that was said to be for those with a tag. */
interface Tagged {
  readonly what: string;
  readonly name: string;
  readonly reach: SharedReach;
  readonly edit: (from: SharedReach, to: SharedReach) => Operation;
}

/** A shared thing that reaches more sites since they have its tag. */
export interface WiderReach {
  readonly what: string;
  readonly name: string;
  readonly tag: string;
  /** How many sites it reaches beside those that it did. */
  readonly more: number;
  readonly operation: Operation;
}

/**
 * What has to be said so that what is for sites with a tag reaches new ones that have it; what reaches too many already is left.
 * @param sites that are new, with their tags.
 */
export function widerReach(
  estate: EstatePart,
  sites: readonly { readonly siteId: string; readonly tags: readonly string[] }[],
): readonly WiderReach[] {
  return taggedOf(estate).flatMap(({ what, name, reach, edit }): WiderReach[] => {
    if (reach.kind === 'estate' || !reach.tag) return [];
    const { tag, siteIds } = reach;
    const more = sites.filter((site) => site.tags.includes(tag) && !siteIds.includes(site.siteId));
    if (more.length === 0 || siteIds.length + more.length > MOST_REACHED) return [];
    const to = { ...reach, siteIds: [...siteIds, ...more.map(({ siteId }) => siteId)] };
    return [{ what, name, tag, more: more.length, operation: edit(reach, to) }];
  });
}

const taggedOf = ({ ssids, classes = [], radius = [], routes = [] }: EstatePart): readonly Tagged[] => [
  ...ssids.map(({ id, name, reach }): Tagged => ({
    ...{ what: 'SSID', name, reach },
    edit: (from, to) => ({ type: 'ssid.set', ssidId: id, from: { reach: from }, to: { reach: to } }),
  })),
  ...classes.map(({ id, name, reach }): Tagged => ({
    ...{ what: 'Class', name, reach },
    edit: (from, to) => ({ type: 'class.set', classId: id, from: { reach: from }, to: { reach: to } }),
  })),
  ...radius.map(({ id, name, reach }): Tagged => ({
    ...{ what: 'RADIUS server', name, reach },
    edit: (from, to) => ({ type: 'radius.set', radiusId: id, from: { reach: from }, to: { reach: to } }),
  })),
  ...routes.map(({ id, name, reach }): Tagged => ({
    ...{ what: 'Route', name, reach },
    edit: (from, to) => ({ type: 'sharedRoute.set', sharedRouteId: id, from: { reach: from }, to: { reach: to } }),
  })),
];
