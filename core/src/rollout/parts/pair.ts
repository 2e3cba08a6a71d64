import type { PairDocument, PairRole } from '../../document';
import { prioritiesOf } from '../../intent';
import { pairAt, type TurnTakers } from '../facts';
import { part } from '../part';

/** How a gateway takes turns with the other of its pair. */
export const pair = part({
  name: 'pair',
  kinds: ['gateway'],
  reads: { site: ['management'], facts: { here: pairAt }, device: ['id'] },
  tells: ({ management: { vlan }, here }, { id }) => {
    if (!here) return {};
    const role = here.first.id === id ? 'first' : here.second.id === id ? 'second' : null;
    return role ? { pair: pairTold(here, vlan, role) } : {};
  },
});

function pairTold({ pair: said, first, second, own }: TurnTakers, vlan: number, role: PairRole): PairDocument {
  const { router, advert, tracks, when, leases } = said;
  const [other, peer] = role === 'first' ? (['second', second] as const) : (['first', first] as const);
  return {
    ...{ role, with: peer.name, serial: peer.serial, router, vlan, own: own[role], other: own[other], advert },
    ...prioritiesOf(said, role),
    ...(tracks[role].length > 0 ? { tracks: tracks[role] } : {}),
    ...(when === 'any' && tracks[role].length > 1 ? { any: true as const } : {}),
    ...(leases ? { leases: true as const } : {}),
  };
}
