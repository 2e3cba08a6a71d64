import { sameValue } from '../base';
import type { EstatePart, Intent, SitePart } from './part';
import type { SharedReach } from './reach';
import { changedBySite } from './by-site';
import { overlayAt, sitesAround } from './member/told';
import { BY_SITE } from './ssid/apply';

/**
 * How far a field of what sites share reaches: to whom it says so itself, to all of them, to where SSIDs reach that use it, to sites that
 * are joined otherwise by it, to where clients are carried and from where, or to none
 * before it is stamped.
 */
const FAR: Readonly<Record<keyof EstatePart, 'reach' | 'all' | 'ssids' | 'joined' | 'landed' | 'none'>> = {
  kind: 'none',
  id: 'none',
  name: 'none',
  recipes: 'none',
  ssids: 'reach',
  classes: 'reach',
  hours: 'ssids',
  portals: 'ssids',
  radius: 'reach',
  routes: 'reach',
  rulesBefore: 'all',
  rulesAfter: 'all',
  sets: 'all',
  guarantees: 'all',
  controller: 'all',
  overlay: 'joined',
  members: 'joined',
  joins: 'joined',
  landings: 'landed',
};

interface Shared {
  readonly id: string;
  readonly reach: SharedReach;
}

/** What the devices of a site were told: what sites share, and its own. */
export interface SitePair {
  readonly estate: EstatePart;
  readonly site: SitePart;
}

/**
 * Sites of `after` at which it says something else than `before`, in themselves or by what they share: nothing of what follows
 * from intent differs at any other. Told from what was edited, without computing a site.
 * @param before what was said; or of each site the pair that its devices were told, since not all need follow the same.
 * @returns their ids, in the order of `after`.
 */
export function touchedSites(before: Intent | ReadonlyMap<string, SitePair>, after: Intent): readonly string[] {
  const pairOf = (id: string): { estate: EstatePart | undefined; site: SitePart | undefined } => {
    if ('estate' in before) return { estate: before.estate, site: before.sites.get(id) };
    const pair = before.get(id);
    return { estate: pair?.estate, site: pair?.site };
  };
  const shared = new Map<EstatePart, 'all' | ReadonlySet<string>>();
  const isTouched = (estate: EstatePart, id: string): boolean => {
    let touch = shared.get(estate);
    if (touch === undefined) shared.set(estate, (touch = sharedTouch(estate, after.estate)));
    return touch === 'all' || touch.has(id);
  };
  const used = new Map<EstatePart, ReadonlySet<string>>();
  const changedUses = (estate: EstatePart): ReadonlySet<string> => {
    let ids = used.get(estate);
    if (!ids) used.set(estate, (ids = usesBetween(estate, after.estate)));
    return ids;
  };
  return [...after.sites].flatMap(([id, site]) => {
    const was = pairOf(id);
    if (!was.estate || !was.site || !same(was.site, site) || isTouched(was.estate, id)) return [id];
    return usesAny(site, changedUses(was.estate)) ? [id] : [];
  });
}

/** Sites that a change of what they share reaches. */
function sharedTouch(before: EstatePart, after: EstatePart): 'all' | ReadonlySet<string> {
  const touched = new Set<string>();
  let rejoined = false;
  for (const [field, far] of Object.entries(FAR) as [keyof EstatePart, (typeof FAR)[keyof EstatePart]][]) {
    if (far === 'none' || same(before[field], after[field])) continue;
    if (far === 'all') return 'all';
    if (far === 'joined') {
      rejoined = true;
      continue;
    }
    if (far === 'landed') {
      for (const id of landedDifferently(before, after)) touched.add(id);
      continue;
    }
    const reaches =
      far === 'ssids'
        ? USING[field as keyof typeof USING](before, after)
        : changedReaches(listOf(before[field]), listOf(after[field]));
    for (const reach of reaches) {
      if (reach.kind === 'estate') return 'all';
      for (const id of reach.siteIds) touched.add(id);
    }
  }
  if (rejoined) for (const id of joinedDifferently(before, after)) touched.add(id);
  return touched;
}

/** Sites into whose segments clients are carried otherwise than before, and those that carry them there otherwise. */
function landedDifferently({ landings: before = {} }: EstatePart, { landings: after = {} }: EstatePart): string[] {
  return [...new Set([...Object.keys(before), ...Object.keys(after)])].flatMap((to) => {
    const [was, is] = [before[to], after[to]];
    if (same(was, is)) return [];
    const ids = new Set([...Object.keys(was?.from ?? {}), ...Object.keys(is?.from ?? {})]);
    const { from: _was, ...old } = was ?? {};
    const { from: _is, ...now } = is ?? {};
    return [to, ...[...ids].filter((id) => !same(old, now) || !same(was?.from[id], is?.from[id]))];
  });
}

/** Sites whose gateways are not joined to others as they were. */
function joinedDifferently(before: EstatePart, after: EstatePart): readonly string[] {
  return [...mayBeJoinedDifferently(before, after)].filter((id) => !same(overlayAt(before, id), overlayAt(after, id)));
}

/** Those among which they are: whoever is another, those that it has tunnels to, and every hub. */
function mayBeJoinedDifferently(before: EstatePart, after: EstatePart): ReadonlySet<string> {
  const states = [before, after] as const;
  const all = (): ReadonlySet<string> =>
    new Set(states.flatMap(({ members = [] }) => members.map(({ siteId }) => siteId)));
  if (!same(before.overlay, after.overlay)) return all();
  const hubs = states.map(({ members = [] }) => members.filter(({ role }) => role === 'hub'));
  if (hubs[0]!.map(({ id }) => id).join() !== hubs[1]!.map(({ id }) => id).join()) return all();
  const [was, is] = states.map(({ members = [] }) => new Map(members.map((each) => [each.id, each])));
  const sites = new Set<string>();
  for (const id of new Set([...was!.keys(), ...is!.keys()])) {
    const [old, now] = [was!.get(id), is!.get(id)];
    const joins = states.map((state) => state.joins?.[id]);
    if ((old === now || same(old, now)) && (joins[0] === joins[1] || same(joins[0], joins[1]))) continue;
    for (const state of states) for (const siteId of sitesAround(state, id)) sites.add(siteId);
  }
  if (sites.size > 0) for (const hub of hubs.flat()) sites.add(hub.siteId);
  return sites;
}

/** Ids of hours that are not as they were. */
function hoursBetween(before: EstatePart, after: EstatePart): ReadonlySet<string> {
  if (same(before.hours, after.hours)) return new Set();
  const [was, is] = [before, after].map(({ hours = [] }) => new Map(hours.map((each) => [each.id, each])));
  return new Set([...was!.keys(), ...is!.keys()].filter((id) => !same(was!.get(id), is!.get(id))));
}

/** Ids of hours and portals that are not as they were; of a portal its hours as well. */
function usesBetween(before: EstatePart, after: EstatePart): ReadonlySet<string> {
  return new Set([...hoursBetween(before, after), ...portalsBetween(before, after)]);
}

/** Ids of portals that are not as they were, or whose hours are not. */
function portalsBetween(before: EstatePart, after: EstatePart): ReadonlySet<string> {
  const hours = hoursBetween(before, after);
  if (hours.size === 0 && same(before.portals, after.portals)) return NONE;
  const [was, is] = [before, after].map(({ portals = [] }) => new Map(portals.map((each) => [each.id, each])));
  const isOther = (id: string): boolean => {
    const now = is!.get(id);
    return !same(was!.get(id), now) || Boolean(now?.hours && hours.has(now.hours));
  };
  return new Set([...was!.keys(), ...is!.keys()].filter(isOther));
}
const NONE: ReadonlySet<string> = new Set();

/** Whether a site's own rules or ports use any of some hours or portals. */
function usesAny({ rules = [], duties = [], ports }: SitePart, ids: ReadonlySet<string>): boolean {
  const uses = (said: { readonly hours?: string | null; readonly portal?: string | null }): boolean =>
    [said.hours, said.portal].some((id) => Boolean(id) && ids.has(id!));
  if (ids.size === 0) return false;
  return rules.some(uses) || duties.some(uses) || Object.values(ports).some((each) => Object.values(each).some(uses));
}

/** Where SSIDs and rules reach whose hours are not as they were. */
function usingReaches(before: EstatePart, after: EstatePart): readonly SharedReach[] {
  const ids = hoursBetween(before, after);
  const changed = (id: string | null | undefined): boolean => Boolean(id) && ids.has(id!);
  const shared = [...(after.rulesBefore ?? []), ...(after.rulesAfter ?? [])];
  if (shared.some(({ hours }) => changed(hours))) return [{ kind: 'estate' }];
  return after.ssids.flatMap(({ hours, reach, exceptions }): SharedReach[] => {
    if (changed(hours)) return [reach];
    const siteIds = Object.entries(exceptions ?? {}).flatMap(([id, here]) => (changed(here.hours) ? [id] : []));
    return siteIds.length > 0 ? [{ kind: 'sites', siteIds }] : [];
  });
}

/** Where SSIDs reach whose portal is not as it was, and servers that may name one. */
function portalReaches(before: EstatePart, after: EstatePart): readonly SharedReach[] {
  const ids = portalsBetween(before, after);
  const named = [before, after].some(({ portals = [] }) => portals.some((each) => each.named && ids.has(each.id)));
  return [
    ...after.ssids.flatMap(({ portal, reach }) => (portal && ids.has(portal) ? [reach] : [])),
    ...(named ? [...(before.radius ?? []), ...(after.radius ?? [])].map(({ reach }) => reach) : []),
  ];
}

/** Where what SSIDs use reaches, by the field that holds it. */
const USING = {
  hours: (before: EstatePart, after: EstatePart) => [...usingReaches(before, after), ...portalReaches(before, after)],
  portals: portalReaches,
} as const;

/** Where things reach, or reached, that are not as they were; all of them where they stand in another order. */
function changedReaches(before: readonly Shared[], after: readonly Shared[]): readonly SharedReach[] {
  const [was, is] = [before, after].map((list) => new Map(list.map((each) => [each.id, each])));
  const order = (list: readonly Shared[], others: ReadonlyMap<string, Shared>): string =>
    list.flatMap(({ id }) => (others.has(id) ? [id] : [])).join();
  const all = [...before, ...after];
  const moved = order(before, is!) !== order(after, was!);
  if (moved) return all.map(({ reach }) => reach);
  return all.flatMap(({ id, reach }) => {
    const [old, now] = [was!.get(id), is!.get(id)];
    if (same(old, now)) return [];
    return [old && now && same(shownEverywhere(old), shownEverywhere(now)) ? sitesBetween(old, now) : reach];
  });
}

/** A thing without what it says of single sites. */
const shownEverywhere = (thing: Shared): object => ({
  ...thing,
  ...Object.fromEntries(BY_SITE.map((field) => [field, null])),
});

/** The sites of which two states of a thing do not say the same. */
function sitesBetween(was: Shared, is: Shared): SharedReach {
  const siteIds = BY_SITE.flatMap((field) => {
    const [old, now] = [was, is].map((of) => (of as unknown as Record<string, unknown>)[field]);
    const change = changedBySite(old, now);
    return [...Object.keys(change.from), ...Object.keys(change.to)];
  });
  return { kind: 'sites', siteIds: [...new Set(siteIds)] };
}

const listOf = (value: unknown): readonly Shared[] => (value ?? []) as readonly Shared[];
const same = (a: unknown, b: unknown): boolean => sameValue(a ?? null, b ?? null);
