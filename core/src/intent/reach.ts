/** Where something shared applies. */
export type SharedReach =
  | { readonly kind: 'estate' }
  | {
      readonly kind: 'sites';
      readonly siteIds: readonly string[];
      /** The tag that they were chosen by. A site that gets it, or loses it, is found; nothing changes there by itself. */
      readonly tag?: string;
    };

/** Most sites that are named of what is shared. */
export const MOST_REACHED = 1000;

/** Whether a site is within a reach. */
export const reaches = (reach: SharedReach, siteId: string): boolean =>
  reach.kind === 'estate' || reach.siteIds.includes(siteId);

/** Whether some site may be within both. */
export const reachesMeet = (a: SharedReach, b: SharedReach): boolean =>
  a.kind === 'estate' || b.kind === 'estate' || a.siteIds.some((id) => b.siteIds.includes(id));
