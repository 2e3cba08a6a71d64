import type { Stage } from '../stage';
import { searchRoutes } from './search.routes';

export const search: Stage = {
  name: 'search',
  open: ({ intents }) => ({ routes: searchRoutes(intents) }),
};
