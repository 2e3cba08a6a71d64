import { mateOf, rehearsedGateway, type PathFacts } from '@iron-lattice/core/assess';
import type { SitePart } from '@iron-lattice/core/intent';
import type { GatewayPathsView, RehearsedGateway } from '@iron-lattice/core/paths';
import { Device, ROSTER_FIELDS, rosterDeviceOf } from '../roster/device.model';

/** A gateway as it is live, with the other of its pair. @param gateways as they last told. */
export async function rehearsedHere(
  site: SitePart,
  device: Device,
  gateways: readonly GatewayPathsView[],
): Promise<RehearsedGateway> {
  const factsOf = (id: string): PathFacts | null => gateways.find(({ deviceId }) => deviceId === id) ?? null;
  const own = rosterDeviceOf(device);
  const rows = site.pair ? await Device.findAll({ where: { siteId: site.id }, attributes: [...ROSTER_FIELDS] }) : [];
  return rehearsedGateway(site, own, factsOf(device.id), mateOf(site, rows.map(rosterDeviceOf), own, factsOf));
}
