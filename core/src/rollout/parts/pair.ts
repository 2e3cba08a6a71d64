import type { PairDocument, PairRole } from '../../document';
import { ownAddresses, type PairHere } from '../../intent';
import { pairAt } from '../facts';
import { part } from '../part';
import { fact } from '../reads';

/** RFC 9568 §5.2.4: of the one that usually routes, of the one that stands by; and by how much each is lowered. */
const [FIRST, SECOND, LOWERED] = [200, 150, 100];

/** Own addresses of both gateways of a pair; null: there is none, or no room for them. */
export const pairAddresses = fact(
  { site: ['management'], facts: { pair: pairAt }, devices: ['id', 'address'] },
  ({ management, pair, devices }) => pair && ownAddresses(pair, management, devices),
  { settles: true },
);

/** How a gateway takes turns with the other of its pair. */
export const pair = part({
  name: 'pair',
  kinds: ['gateway'],
  reads: { site: ['management'], facts: { here: pairAt, own: pairAddresses }, device: ['id'] },
  tells: ({ management: { vlan }, here, own }, { id }) => {
    if (!here || !own) return {};
    const role = here.first.id === id ? 'first' : here.second.id === id ? 'second' : null;
    return role ? { pair: pairTold(here, own, vlan, role) } : {};
  },
});

function pairTold(
  { pair: { router, advert, back, tracks, when, leases }, first, second }: PairHere,
  own: Readonly<Record<PairRole, string>>,
  vlan: number,
  role: PairRole,
): PairDocument {
  const [other, peer] = role === 'first' ? (['second', second] as const) : (['first', first] as const);
  // Where neither is preferred both are alike: whoever routes goes on (RFC 9568 §6.4.2).
  const priority = role === 'first' && back ? FIRST : SECOND;
  return {
    ...{ role, with: peer.name, serial: peer.serial, router, vlan, own: own[role], other: own[other], advert },
    ...{ priority, lowered: priority - LOWERED },
    ...(tracks[role].length > 0 ? { tracks: tracks[role] } : {}),
    ...(when === 'any' && tracks[role].length > 1 ? { any: true as const } : {}),
    ...(leases ? { leases: true as const } : {}),
  };
}
