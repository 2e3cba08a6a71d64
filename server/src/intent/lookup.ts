import type { RosterDevice } from '@iron-lattice/core/intent';

/** Finds devices of a roster by id. */
export const lookup = (roster: readonly RosterDevice[]) => {
  const byId = new Map(roster.map((device) => [device.id, device]));
  return (id: string): RosterDevice | undefined => byId.get(id);
};
