import type { GatewayDocument, UplinkDocument } from '@iron-lattice/core/document';
import { BUSY_SECONDS, type BusyShare, type Capacity } from '@iron-lattice/core/line';

/** Somebody who sends as much as is taken from it: its weight, and kilobits a second that it never gets more than. */
export interface BusySender {
  readonly weight: number;
  readonly most: number;
}

/** Seconds at the start that are not counted; milliseconds of a step. */
const [FILLING, STEP] = [1, 1];
/** Octets of the longest packet, and what a turn brings for a weight of 1. */
const [LONGEST, QUANTUM] = [1500, 1500];

/**
 * Plays packets of several senders through one rate: they take turns, and each turn brings octets by weight (deficit round robin, Shreedhar and
 * Varghese 1995); who is capped waits for its own bucket.
 * @param chance from 0 to below 1. @returns kilobits a second that each got.
 */
export function playTurns(kbps: number, senders: readonly BusySender[], chance: () => number = Math.random): number[] {
  const deficit = senders.map(() => 0);
  const own = senders.map(() => 0);
  const got = senders.map(() => 0);
  const next = senders.map(() => sizeOf(chance()));
  let [tokens, turn, open] = [0, 0, false];
  for (let at = 0; at < BUSY_SECONDS * 1000; at += STEP) {
    tokens = Math.min(tokens + (kbps * STEP) / 8, Math.max(2 * LONGEST, (kbps * 10) / 8));
    senders.forEach(({ most }, i) => {
      own[i] =
        most === Infinity ? Infinity : Math.min(own[i]! + (most * STEP) / 8, Math.max(2 * LONGEST, (most * 20) / 8));
    });
    const waits = (i: number): boolean => own[i]! < next[i]!;
    for (let idle = 0; idle < senders.length && tokens >= LONGEST; turn = (turn + 1) % senders.length) {
      if (waits(turn)) {
        // Nobody saves up what it could not send.
        deficit[turn] = 0;
        idle++;
        continue;
      }
      idle = 0;
      if (!open) deficit[turn]! += QUANTUM * senders[turn]!.weight;
      while (deficit[turn]! >= next[turn]! && !waits(turn) && tokens >= next[turn]!) {
        const size = next[turn]!;
        deficit[turn]! -= size;
        own[turn]! -= size;
        tokens -= size;
        if (at >= FILLING * 1000) got[turn]! += size;
        next[turn] = sizeOf(chance());
      }
      // Its turn goes on once there is something to send it with.
      open = deficit[turn]! >= next[turn]! && !waits(turn);
      if (open) break;
    }
  }
  return got.map((octets) => (octets * 8) / 1000 / (BUSY_SECONDS - FILLING));
}

/** Long packets and short ones, as they come. */
const sizeOf = (chance: number): number => (chance < 0.7 ? LONGEST : Math.round(80 + chance * 600));

/** What VLANs get while all of them are busy. Where the provider carries less than is kept to, queues stand there, and no weight counts. */
export function playBusy(
  { leaving, caps = [] }: Pick<GatewayDocument, 'leaving' | 'caps'>,
  shape: NonNullable<UplinkDocument['shape']>,
  vlans: readonly number[],
  capacity: Capacity,
): readonly BusyShare[] {
  const capOf = (vlan: number, way: 'down' | 'up'): number =>
    Math.min(
      Infinity,
      ...caps.flatMap((each) => (each.vlans.includes(vlan) && each.all?.[way] ? [each.all[way].kbps] : [])),
    );
  const play = (way: 'down' | 'up'): number[] => {
    const held = shape[way] <= capacity[way] * 1000;
    const senders = vlans.map((vlan) => ({
      weight: held ? (leaving?.parts?.find((each) => each.vlan === vlan)?.weight ?? 1) : 1,
      most: capOf(vlan, way),
    }));
    return playTurns(Math.min(shape[way], capacity[way] * 1000), senders);
  };
  const [down, up] = [play('down'), play('up')];
  const mbps = (kbps: number): number => Math.round(kbps / 10) / 100;
  return vlans.map((vlan, i) => ({ vlan, down: mbps(down[i]!), up: mbps(up[i]!) }));
}
