import type { CapLimits } from '@iron-lattice/core/rollout';
import { shareOf, sharesAmong, type CapWay, type Limit } from '@iron-lattice/core/traffic';
import type { CapShare } from './caps-cells';

/** How many clients a table of shares is told for. */
const COUNTS = [1, 2, 5, 20, 100] as const;

/** Clients that are there now: of what the caps are of, and others that share what is around it. */
export interface ThereNow {
  readonly own: number;
  readonly others: number;
}

/** What each of so many clients gets, and of those that are there now; nothing where no cap is said. */
export function capShares(limits: Readonly<Record<CapWay, CapLimits>>, now: ThereNow | null): CapShare[] {
  const all = (way: CapWay): readonly Limit[] => [...limits[way].own, ...limits[way].around];
  if (all('down').length + all('up').length === 0) return [];
  const rows = COUNTS.map((count): CapShare => {
    const [down, up] = [shareOf(all('down'), count), shareOf(all('up'), count)];
    return { clients: `${count}`, down: mbps(down?.kbps), up: mbps(up?.kbps), by: deciding(down?.by.of, up?.by.of) };
  });
  if (!now || now.own === 0) return rows;
  const share = (way: CapWay): number =>
    sharesAmong(
      [
        { count: now.own, limits: limits[way].own },
        { count: now.others, limits: [] },
      ],
      limits[way].around,
    )[0]!;
  const beside = now.others > 0 ? `, beside ${now.others} others of its segment` : '';
  return [
    ...rows,
    { clients: `${now.own} now`, down: mbps(share('down')), up: mbps(share('up')), by: `all of them${beside}` },
  ];
}

/** Which cap decides, one way and the other. */
const deciding = (down: string | undefined, up: string | undefined): string =>
  down && up && down !== up ? `down: ${down}; up: ${up}` : (down ?? up ?? '');

const mbps = (kbps: number | undefined): number | null =>
  kbps === undefined || kbps === Infinity ? null : kbps / 1000;
