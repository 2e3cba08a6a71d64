import type { Stage } from '../stage';
import { latticeRoutes } from './lattice.routes';
import { LatticeService } from './lattice.service';

export const lattice: Stage = {
  name: 'lattice',
  heavy: new URL('./lattice.heavy.ts', import.meta.url),
  open: ({ drafts, rosters, heavy }) => ({ routes: latticeRoutes(new LatticeService(drafts, rosters, heavy)) }),
};
