import type { UnknownClient } from '@iron-lattice/core/entry';
import type { RosterService } from '../roster/roster.service';

/** Clients of a site that are asked who they are and that nobody knows, the latest first. */
export async function unknownClients(rosters: RosterService, siteId: string): Promise<UnknownClient[]> {
  const devices = await rosters.devices(siteId);
  const names = new Map(
    devices.flatMap(({ report }) =>
      [...(report?.leases ?? []), ...(report?.clients ?? [])].map(({ mac, name }) => [mac, name]),
    ),
  );
  return devices
    .flatMap(({ id, name, online, report }) =>
      (online ? (report?.unknown ?? []) : []).map((each) => ({
        ...each,
        ...{ deviceId: id, deviceName: name ?? '', name: names.get(each.mac) ?? '' },
      })),
    )
    .sort((a, b) => (b.since ?? 0) - (a.since ?? 0) || (a.mac < b.mac ? -1 : 1));
}
