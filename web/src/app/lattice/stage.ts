import { byId, type Stage } from '../shell/stage';

export const lattice: readonly Stage[] = [
  {
    at: 'site',
    path: 'lattice',
    name: 'Lattice',
    page: () => import('./lattice-page').then((m) => m.LatticePage),
    add: 'Add segment',
    hits: ['segment'],
    findings: { segment: byId, pool: ({ id }) => `pool:${id}`, port: ({ id, port }) => `port:${id}:${port}` },
    shows: 'mends',
  },
];
