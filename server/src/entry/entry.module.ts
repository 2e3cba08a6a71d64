import type { Stage } from '../stage';
import { EntryTestService } from './entry-test.service';
import { entryRoutes } from './entry.routes';

export const entry: Stage = {
  name: 'entry',
  open: ({ drafts, secrets, commands, rosters }) => ({
    routes: entryRoutes(new EntryTestService(drafts, secrets, commands), rosters),
  }),
};
