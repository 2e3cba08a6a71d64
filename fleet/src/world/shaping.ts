/** A limit that packets pass: kilobits a second, and the octets that its bucket holds. */
export interface Bucket {
  readonly kbps: number;
  readonly burst: number;
}

/** Somebody who sends as fast as the air lets them, and the limits on the way, by their places in the list of buckets. */
export interface Flow {
  readonly kbps: number;
  readonly through: readonly number[];
}

/** Octets of a packet, length of a step in milliseconds, and how many packets wait for one flow at the most. */
const [PACKET, STEP, WAITING] = [1500, 1, 64];
/** Seconds that are played, and those at the start that are not counted: what was saved up in the buckets passes then. */
const [SECONDS, FILLING] = [4, 2];

/**
 * Plays packets of several flows through token buckets: each is sent once every bucket on its way has tokens for it, flows take turns,
 * and what waits too long is dropped.
 * @returns kilobits a second that each got.
 */
export function shaped(flows: readonly Flow[], buckets: readonly Bucket[]): number[] {
  const tokens = buckets.map(({ burst }) => burst);
  const waiting = flows.map(() => 0);
  const owed = flows.map(() => 0);
  const passed = flows.map(() => 0);
  let turn = 0;
  for (let at = 0; at < SECONDS * 1000; at += STEP) {
    for (const [i, { kbps, burst }] of buckets.entries()) tokens[i] = Math.min(burst, tokens[i]! + (kbps * STEP) / 8);
    for (const [i, { kbps }] of flows.entries()) {
      owed[i] = owed[i]! + (kbps * STEP) / 8 / PACKET;
      const came = Math.floor(owed[i]);
      owed[i] -= came;
      // Whoever sends faster than a step's worth of packets may have that many under way.
      waiting[i] = Math.min(Math.max(WAITING, came), waiting[i]! + came);
    }
    for (let idle = 0; idle < flows.length; turn = (turn + 1) % flows.length) {
      const { through } = flows[turn]!;
      if (waiting[turn] === 0 || through.some((bucket) => tokens[bucket]! < PACKET)) {
        idle++;
        continue;
      }
      idle = 0;
      for (const bucket of through) tokens[bucket]! -= PACKET;
      waiting[turn]! -= 1;
      if (at >= FILLING * 1000) passed[turn]! += 1;
    }
  }
  return passed.map((packets) => (packets * PACKET * 8) / 1000 / (SECONDS - FILLING));
}
