import { byId, type Stage } from '../shell/stage';

export const lattice: readonly Stage[] = [
  {
    at: 'site',
    path: 'lattice',
    name: 'Lattice',
    page: () => import('./lattice-page').then((m) => m.LatticePage),
    add: 'Add segment',
    hits: { segment: byId, pool: ({ id }) => `pool:${id}`, duty: ({ id }) => `duty:${id}` },
    findings: { segment: byId, pool: ({ id }) => `pool:${id}`, port: ({ id, port }) => `port:${id}:${port}` },
    shows: 'mends',
  },
  {
    at: 'estate',
    path: 'segments',
    name: 'Segments',
    title: 'Segment recipes, address plan',
    page: () => import('./shared-segments-page').then((m) => m.SharedSegmentsPage),
    add: 'Add recipe',
    hits: { recipe: byId },
    shows: 'shared',
  },
];
