import type { Band } from '@iron-lattice/core/hardware';
import { Seeded, seedOf } from './seeded';

/** A place in metres: east, north, up. */
export type Place = readonly [x: number, y: number, z: number];

/** A wall from one place to another, as high as the room, with what it takes from a signal in dB by band. */
export interface Wall {
  readonly from: readonly [number, number];
  readonly to: readonly [number, number];
  readonly loss: Readonly<Record<Band, number>>;
}

/** Loss of the first metre in dB (ITU-R P.525 at 2437, 5500 and 6500 MHz). */
const FIRST_METRE: Readonly<Record<Band, number>> = { '2.4': 40.18, '5': 47.26, '6': 48.71 };
/** How the loss grows with distance where the main walls are there. */
const EXPONENT = 2.2;
/** How far single ways are from that, in dB: people, shelves, what nobody drew. */
const SHADOWING = 3;

/** What of a signal is lost between two places, in dB: distance, walls, and what lies in the way of this pair alone; the same both ways. */
export function pathLoss(
  band: Band,
  a: { readonly name: string; readonly at: Place },
  b: { readonly name: string; readonly at: Place },
  walls: readonly Wall[] = [],
): number {
  const distance = Math.hypot(a.at[0] - b.at[0], a.at[1] - b.at[1], a.at[2] - b.at[2]);
  const crossed = walls.filter((wall) => crosses(a.at, b.at, wall)).reduce((sum, { loss }) => sum + loss[band], 0);
  const shadow = new Seeded(seedOf(a.name, b.name)).normal(SHADOWING);
  return Math.max(
    FIRST_METRE[band],
    FIRST_METRE[band] + 10 * EXPONENT * Math.log10(Math.max(1, distance)) + crossed + shadow,
  );
}

/** Whether the way from one place to another goes through a wall. */
function crosses(p: Place, q: Place, { from, to }: Wall): boolean {
  type At = readonly [number, number, ...number[]];
  const side = (a: At, b: At, c: At): number => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
  return side(from, to, p) > 0 !== side(from, to, q) > 0 && side(p, q, from) > 0 !== side(p, q, to) > 0;
}
