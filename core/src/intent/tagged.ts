import type { EstatePart } from './part';
import { MOST_REACHED, type SharedReach } from './reach';
import type { Operation } from './registry';

/** Something that sites share and that may be said to be for those with a tag. */
export interface Tagged {
  readonly kind: 'ssid' | 'class' | 'radius' | 'route';
  readonly id: string;
  readonly name: string;
  readonly reach: SharedReach;
  /** The edit by which it reaches others. */
  readonly reachedBy: (to: SharedReach) => Operation;
}

/** What people call one of it. */
export const TAGGED_WORDS: Readonly<Record<Tagged['kind'], string>> = {
  ...{ ssid: 'SSID', class: 'Class', radius: 'RADIUS server', route: 'Route' },
};

/** All that sites share whose sites may be chosen by a tag. */
export const taggedOf = ({ ssids, classes = [], radius = [], routes = [] }: EstatePart): readonly Tagged[] => [
  ...ssids.map(({ id, name, reach }): Tagged => ({
    ...{ kind: 'ssid', id, name, reach },
    reachedBy: (to) => ({ type: 'ssid.set', ssidId: id, from: { reach }, to: { reach: to } }),
  })),
  ...classes.map(({ id, name, reach }): Tagged => ({
    ...{ kind: 'class', id, name, reach },
    reachedBy: (to) => ({ type: 'class.set', classId: id, from: { reach }, to: { reach: to } }),
  })),
  ...radius.map(({ id, name, reach }): Tagged => ({
    ...{ kind: 'radius', id, name, reach },
    reachedBy: (to) => ({ type: 'radius.set', radiusId: id, from: { reach }, to: { reach: to } }),
  })),
  ...routes.map(({ id, name, reach }): Tagged => ({
    ...{ kind: 'route', id, name, reach },
    reachedBy: (to) => ({ type: 'sharedRoute.set', sharedRouteId: id, from: { reach }, to: { reach: to } }),
  })),
];

/** A shared thing that reaches more sites since they have its tag. */
export interface WiderReach {
  readonly thing: Tagged;
  readonly tag: string;
  /** How many sites it reaches beside those that it did. */
  readonly more: number;
  readonly operation: Operation;
}

/**
 * What has to be said so that what is for sites with a tag reaches new ones that have it: one edit for all of them. What reaches too many already
 * is left.
 * @param sites that are new, with their tags.
 */
export const widerReach = (
  estate: EstatePart,
  sites: readonly { readonly siteId: string; readonly tags: readonly string[] }[],
): readonly WiderReach[] =>
  taggedOf(estate).flatMap((thing): WiderReach[] => {
    const { reach } = thing;
    if (reach.kind === 'estate' || !reach.tag) return [];
    const { tag, siteIds } = reach;
    const more = sites.filter((site) => site.tags.includes(tag) && !siteIds.includes(site.siteId));
    if (more.length === 0 || siteIds.length + more.length > MOST_REACHED) return [];
    const to = { ...reach, siteIds: [...siteIds, ...more.map(({ siteId }) => siteId)] };
    return [{ thing, tag, more: more.length, operation: thing.reachedBy(to) }];
  });
