import type { Stage } from '../shell/stage';

export const bench: readonly Stage[] = [
  { at: 'site', path: 'bench', name: 'Bench', page: () => import('./bench-page').then((m) => m.BenchPage) },
];
