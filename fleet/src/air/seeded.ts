import { fnv1a32 } from '@iron-lattice/core/address';
import { randomFrom } from '@iron-lattice/core/base';

/** Chance that is the same for the same seed. */
export class Seeded {
  private readonly draw: (below: number) => number;

  constructor(seed: number) {
    this.draw = randomFrom(seed);
  }

  /** From 0 to below 1. */
  next(): number {
    return this.draw(2 ** 32) / 2 ** 32;
  }

  below(count: number): number {
    return this.draw(count);
  }

  /** Around 0, with the given spread (Box and Muller). */
  normal(spread: number): number {
    return spread * Math.sqrt(-2 * Math.log(1 - this.next())) * Math.cos(2 * Math.PI * this.next());
  }

  /** Waits between events that happen so often on the average. */
  wait(mean: number): number {
    return -mean * Math.log(1 - this.next());
  }
}

/** A seed that follows from names, in whichever order they come. */
export const seedOf = (...names: readonly string[]): number =>
  fnv1a32(new TextEncoder().encode([...names].sort().join(' ')));
