import { byId, type Stage } from '../shell/stage';

export const entry: readonly Stage[] = [
  {
    at: 'site',
    path: 'entry',
    name: 'Entry',
    page: () => import('./entry-page').then((m) => m.EntryPage),
    add: 'Add access class',
    hits: ['class'],
    findings: { class: byId },
  },
];
