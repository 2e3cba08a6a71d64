/** A packet at a moment, in microseconds, and its octets. */
export type Packet = readonly [micros: number, octets: number];

const MICRO_BITS = 8_000_000n;

/** A bucket that fills continuously; tokens are kept in octets × 8,000,000, so that nothing is ever rounded. */
class Bucket {
  private tokens: bigint;
  private at: number | null = null;

  /** @param rate bits a second. @param depth octets. */
  constructor(
    private readonly rate: bigint,
    private readonly depth: bigint,
    start = depth,
  ) {
    this.tokens = start * MICRO_BITS;
  }

  fill(micros: number): void {
    const most = this.depth * MICRO_BITS;
    if (this.at !== null) this.tokens += this.rate * BigInt(micros - this.at);
    this.at = micros;
    if (this.tokens > most) this.tokens = most;
  }
  has = (octets: number): boolean => this.tokens >= BigInt(octets) * MICRO_BITS;
  take(octets: number): void {
    this.tokens -= BigInt(octets) * MICRO_BITS;
  }
  get octets(): number {
    return Number(this.tokens) / Number(MICRO_BITS);
  }
}

function checked(name: string, value: number): bigint {
  if (!Number.isInteger(value) || value < 0) throw new RangeError(`${name} is a whole number from 0, not ${value}`);
  return BigInt(value);
}

/**
 * Which packets a limit lets pass: a bucket that is full at first, fills with the rate and is emptied by what passes.
 * @param rate bits a second. @param burst octets. @param packets in the order of their moments.
 */
export function tokenBucket(
  rate: number,
  burst: number,
  packets: readonly Packet[],
): { readonly passed: readonly boolean[]; readonly left: number } {
  const bucket = new Bucket(checked('a rate', rate), checked('a burst', burst));
  const passed = packets.map(([micros, octets]) => {
    bucket.fill(micros);
    if (!bucket.has(octets)) return false;
    bucket.take(octets);
    return true;
  });
  return { passed, left: bucket.octets };
}

/** Most octets that a limit lets pass in any window. @param rate bits a second. @param seconds of the window. */
export const mostOctets = (rate: number, burst: number, seconds: number): number => burst + (rate * seconds) / 8;

export type Colour = 'green' | 'yellow' | 'red';

/** The single rate three colour marker, colour blind (RFC 2697 §3). @param committed octets a second. */
export function singleRateColours(
  committed: number,
  burst: number,
  excess: number,
  packets: readonly Packet[],
): readonly Colour[] {
  // What the first bucket has no room for flows into the second: both are filled by one rate.
  const rate = checked('a rate', committed) * 8n;
  const [most, mostExcess] = [checked('a burst', burst) * MICRO_BITS, checked('an excess', excess) * MICRO_BITS];
  let [tokens, over, at] = [most, mostExcess, null as number | null];
  return packets.map(([micros, octets]): Colour => {
    const more = at === null ? 0n : rate * BigInt(micros - at);
    at = micros;
    tokens += more;
    if (tokens > most) {
      over = over + tokens - most > mostExcess ? mostExcess : over + tokens - most;
      tokens = most;
    }
    const size = BigInt(octets) * MICRO_BITS;
    if (tokens >= size) {
      tokens -= size;
      return 'green';
    }
    if (over < size) return 'red';
    over -= size;
    return 'yellow';
  });
}

/** The two rate three colour marker, colour blind (RFC 2698 §3). Rates in octets a second. */
export function twoRateColours(
  committed: number,
  burst: number,
  peak: number,
  peakBurst: number,
  packets: readonly Packet[],
): readonly Colour[] {
  const first = new Bucket(checked('a rate', committed) * 8n, checked('a burst', burst));
  const second = new Bucket(checked('a peak', peak) * 8n, checked('a burst', peakBurst));
  return packets.map(([micros, octets]): Colour => {
    first.fill(micros);
    second.fill(micros);
    if (!second.has(octets)) return 'red';
    second.take(octets);
    if (!first.has(octets)) return 'yellow';
    first.take(octets);
    return 'green';
  });
}
