import { CLIENT_NAMES } from '../roster/client-names-offer';
import type { Stage } from '../stage';
import { latticeRoutes } from './lattice.routes';
import { LatticeService } from './lattice.service';

export const lattice: Stage = {
  name: 'lattice',
  heavy: new URL('./lattice.heavy.ts', import.meta.url),
  open: ({ drafts, rosters, heavy, offers }) => ({
    routes: latticeRoutes(new LatticeService(drafts, rosters, heavy, (macs) => offers.take(CLIENT_NAMES)(macs))),
  }),
};
