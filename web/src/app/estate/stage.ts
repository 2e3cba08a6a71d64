import { byId, type Stage } from '../shell/stage';

export const estate: readonly Stage[] = [
  {
    at: 'estate',
    path: '',
    name: 'Sites',
    title: 'All sites',
    page: () => import('./estate-page').then((m) => m.EstatePage),
    hits: { site: byId },
  },
];
