/** How an uplink fares: no cable is in it; it has no address; nothing answers; it is good; or good again, and not used again yet. */
export const PATH_STATES = ['unplugged', 'none', 'gone', 'good', 'waits'] as const;
export type PathState = (typeof PATH_STATES)[number];
