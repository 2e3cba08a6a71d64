import { byId, type Stage } from '../shell/stage';

export const entry: readonly Stage[] = [
  {
    at: 'site',
    path: 'entry',
    name: 'Entry',
    page: () => import('./entry-page').then((m) => m.EntryPage),
    add: 'Add access class',
    findings: { class: byId },
  },
  {
    at: 'estate',
    path: 'entry',
    name: 'Entry',
    title: 'Access classes of all sites',
    page: () => import('./shared-classes-page').then((m) => m.SharedClassesPage),
    add: 'Add access class',
    hits: { class: byId },
    shows: 'shared',
  },
];
