import type { UnknownClient } from '@iron-lattice/core/entry';
import { ENTRY_REFUSALS, type EntryRefusal, type RefusedReport, type Report } from '@iron-lattice/core/line';
import type { ClientNamer } from '../roster/client-names-offer';
import type { RosterService } from '../roster/roster.service';

const isEntry = (why: RefusedReport['why']): why is EntryRefusal => (ENTRY_REFUSALS as readonly string[]).includes(why);

/** Who is known to nobody at a device, or turned away though it says who it is. */
export const turnedAwayOf = (report: Pick<Report, 'unknown' | 'refused'> | null): UnknownOf[] => [
  ...(report?.unknown ?? []),
  ...(report?.refused ?? []).flatMap(({ why, key: _key, ...each }): UnknownOf[] => {
    if (isEntry(why)) return [{ ...each, why }];
    // Where a server was to name its key.
    if (each.server === undefined || (why !== 'passphrase' && why !== 'nowhere')) return [];
    return [{ ...each, why: why === 'passphrase' ? 'key' : why }];
  }),
];
type UnknownOf = Omit<UnknownClient, 'deviceId' | 'deviceName' | 'name'>;

/** Clients of a site that are asked who they are and that nobody knows, or that are turned away, the latest first. */
export async function unknownClients(
  rosters: RosterService,
  called: ClientNamer,
  siteId: string,
): Promise<UnknownClient[]> {
  const devices = await rosters.devices(siteId);
  const names = new Map(
    devices.flatMap(({ report }) =>
      [...(report?.leases ?? []), ...(report?.clients ?? [])].map(({ mac, name }) => [mac, name]),
    ),
  );
  const all = devices
    .flatMap(({ id, name, online, report }) =>
      (online ? turnedAwayOf(report) : []).map((each): UnknownClient => ({
        ...each,
        ...{ deviceId: id, deviceName: name ?? '', name: names.get(each.mac) ?? '' },
      })),
    )
    .sort((a, b) => (b.since ?? 0) - (a.since ?? 0) || (a.mac < b.mac ? -1 : 1));
  const given = await called(all.map(({ mac }) => mac));
  return all.map((each) => ({ ...each, name: given.get(each.mac) ?? each.name }));
}
