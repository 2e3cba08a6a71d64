import { CLIENTS, USERS } from '../roster/user-offer';
import type { Stage } from '../stage';
import { searchRoutes } from './search.routes';

export const search: Stage = {
  name: 'search',
  open: ({ intents, offers }) => ({
    routes: searchRoutes(
      intents,
      [USERS, CLIENTS].map((of) => (words, most) => offers.take(of)(words, most)),
    ),
  }),
};
