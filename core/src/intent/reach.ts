/** Where something shared applies. */
export type SharedReach = { readonly kind: 'estate' } | { readonly kind: 'sites'; readonly siteIds: readonly string[] };

/** Whether a site is within a reach. */
export const reaches = (reach: SharedReach, siteId: string): boolean =>
  reach.kind === 'estate' || reach.siteIds.includes(siteId);

/** Whether some site may be within both. */
export const reachesMeet = (a: SharedReach, b: SharedReach): boolean =>
  a.kind === 'estate' || b.kind === 'estate' || a.siteIds.some((id) => b.siteIds.includes(id));
