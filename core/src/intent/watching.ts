import type { Intent } from './part';

/** Ids of the sites that guarantees of a site reach, its own and those that sites share, in their order. */
export function sitesBeyond({ estate, sites }: Intent, siteId: string): readonly string[] {
  const reached = [...(estate.guarantees ?? []), ...(sites.get(siteId)?.guarantees ?? [])].flatMap(
    ({ toSite }) => toSite ?? [],
  );
  return [...new Set(reached)].filter((id) => id !== siteId && sites.has(id));
}

/**
 * Sites whose guarantees reach some others, but for those themselves: whether these hold may be otherwise when the others are. Nobody there is told anything
 * by that.
 * @returns their ids, in the order of the sites.
 */
export function watchingSites(intent: Intent, others: readonly string[]): readonly string[] {
  const meant = new Set(others);
  const reaches = ({ guarantees = [] }: Pick<Intent['estate'], 'guarantees'>): boolean =>
    guarantees.some(({ toSite }) => Boolean(toSite) && meant.has(toSite!));
  const all = reaches(intent.estate);
  return [...intent.sites].flatMap(([id, site]) => ((all || reaches(site)) && !meant.has(id) ? [id] : []));
}
