import { byId, type Stage } from '../shell/stage';
import { CLIENT_SHOWN, USER_SHOWN } from './entry-views';

export const entry: readonly Stage[] = [
  {
    at: 'site',
    path: 'entry',
    name: 'Entry',
    page: () => import('./entry-page').then((m) => m.EntryPage),
    add: 'Add access class',
    findings: { class: byId, radius: byId },
  },
  {
    at: 'estate',
    path: 'entry',
    name: 'Entry',
    title: 'Access classes and RADIUS servers of all sites',
    page: () => import('./shared-entry-page').then((m) => m.SharedEntryPage),
    add: 'Add access class',
    hits: {
      class: byId,
      radius: byId,
      user: ({ id }) => `${USER_SHOWN}${id}`,
      client: ({ id }) => `${CLIENT_SHOWN}${id}`,
    },
    shows: 'shared',
  },
];
