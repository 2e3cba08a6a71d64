import { byId, type Stage } from '../shell/stage';

/** Guests: where they sign in, the codes that let them in, and who is here. */
export const guests: readonly Stage[] = [
  {
    at: 'site',
    path: 'guests',
    name: 'Guests',
    page: () => import('./guests-page').then((m) => m.GuestsPage),
    add: 'Add portal',
    findings: { portal: byId },
  },
  {
    at: 'estate',
    path: 'guests',
    name: 'Guests',
    title: 'Portals, visit codes and visits of all sites',
    page: () => import('./guests-page').then((m) => m.GuestsPage),
    add: 'Add portal',
    hits: { portal: byId },
    shows: 'shared',
  },
];
