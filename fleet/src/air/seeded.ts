/** Numbers that look random and are the same for the same seed. */
export class Seeded {
  private state: number;

  constructor(seed: number) {
    this.state = (seed ^ 0x9e3779b9) >>> 0;
    for (let i = 0; i < 4; i++) this.next();
  }

  /** From 0 to below 1 (xorshift, Marsaglia 2003). */
  next(): number {
    let x = this.state || 1;
    x ^= x << 13;
    x ^= x >>> 17;
    x ^= x << 5;
    this.state = x >>> 0;
    return this.state / 4294967296;
  }

  below(count: number): number {
    return Math.floor(this.next() * count);
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
export function seedOf(...names: readonly string[]): number {
  let hash = 0x811c9dc5;
  for (const char of [...names].sort().join(' ')) hash = Math.imul(hash ^ char.charCodeAt(0), 0x01000193);
  return hash >>> 0;
}
