import { busyParts } from '@iron-lattice/core/assess';
import type { ResolvedSite, RosterDevice } from '@iron-lattice/core/intent';
import type { BusyShare } from '@iron-lattice/core/line';
import { titleOf, type GatewayRow } from './path-rows';

/** What a segment gets of an uplink while all are busy, computed and, where somebody measured it, really. */
export interface BusyCell {
  /** `12 / 4 Mb/s`: down and up; empty: it does not leave by it. */
  readonly gets: string;
  readonly capped: boolean;
  readonly measured: string;
}
export interface BusyRow {
  readonly segmentId: string;
  readonly name: string;
  readonly weight: number;
  /** One for each uplink that is kept below what it can do. */
  readonly cells: readonly BusyCell[];
}
export interface BusyTable {
  readonly uplinks: readonly { readonly port: string; readonly title: string; readonly vlans: readonly number[] }[];
  readonly rows: readonly BusyRow[];
}

/** What each segment gets of each uplink that is kept below what it can do. @param measured by port. */
export function busyTable(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  { device, uplinks, leaving }: GatewayRow,
  measured: ReadonlyMap<string, readonly BusyShare[]>,
): BusyTable {
  const kept = uplinks.flatMap((row) => {
    const parts = busyParts(site, roster, device, row.port);
    return parts ? [{ port: row.port, title: titleOf(row), parts }] : [];
  });
  const leaves = new Set(kept.flatMap(({ parts }) => parts.map(({ segmentId }) => segmentId)));
  return {
    uplinks: kept.map(({ port, title, parts }) => ({ port, title, vlans: parts.map(({ vlan }) => vlan) })),
    rows: site.segments
      .filter(({ id }) => leaves.has(id))
      .map(({ id, name, vlan }): BusyRow => ({
        ...{ segmentId: id, name, weight: leaving.parts[id] ?? 1 },
        cells: kept.map(({ port, parts }): BusyCell => {
          const part = parts.find(({ segmentId }) => segmentId === id);
          const share = measured.get(port)?.find((each) => each.vlan === vlan);
          return {
            gets: part ? speedWords(part.down / 1000, part.up / 1000) : '',
            capped: part?.capped ?? false,
            measured: part && share ? speedWords(share.down, share.up) : '',
          };
        }),
      })),
  };
}

/** Megabits a second down and up, in three digits at most. */
export const speedWords = (down: number, up: number): string => `${few(down)} / ${few(up)} Mb/s`;
const few = (value: number): string =>
  value >= 100 ? value.toFixed(0) : `${Number(value.toFixed(value >= 10 ? 1 : 2))}`;
