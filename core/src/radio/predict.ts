import type { Width } from './phy';
import { contention } from './sharing';
import { expectedAt, signalAt, type Pairing } from './width';

/** Somebody else on the air, as a radio hears them. */
export interface Other {
  /** The 20 MHz parts of the radio's channel that it covers, by their number from the lowest. */
  readonly parts: readonly number[];
  /** Share of the time in which it sends. */
  readonly share: number;
}

/** A radio, a client of its, and who else is heard there. */
export interface Cell extends Pairing {
  readonly width: Width;
  /** Signal of one at the other in dBm, of the whole width. */
  readonly signal: number;
  /** Number of the primary 20 MHz part of the channel, from the lowest. */
  readonly primary: number;
  readonly others?: readonly Other[];
  /** Radios that always have something to send and share the air with this one, itself not counted. */
  readonly rivals?: number;
}

/**
 * TCP in Mb/s that a client is expected to get: each frame goes out as wide as is idle around the primary part (802.11-2020
 * §10.23.2.5), in the share of the time that others leave there, or that is as much theirs as anybody's.
 */
export function predictedSpeed(cell: Cell): number {
  const { width, signal, primary, others = [], rivals = 0 } = cell;
  const parts = width / 20;
  if (!Number.isInteger(primary) || primary < 0 || primary >= parts)
    throw new RangeError(`no part ${primary} of ${width} MHz`);
  const first = others.filter((other) => other.parts.includes(primary));
  const beside = others.filter((other) => !other.parts.includes(primary));
  let speed = 0;
  let wider = 0;
  for (let count = parts; count >= 1; count /= 2) {
    const from = Math.floor(primary / count) * count;
    const meets = beside.filter((other) => other.parts.some((part) => part >= from && part < from + count));
    // Who sends on other parts does not wait for those on the primary one: they are busy each by itself.
    const idle = meets.reduce((left, { share }) => left * (1 - share), 1);
    const at = (20 * count) as Width;
    speed += (idle - wider) * expectedAt(signalAt(signal, width, at, 'power'), at, 0, cell).tcp;
    wider = idle;
  }
  const { lotUs } = expectedAt(signal, width, 0, cell);
  const wanted = first.map(({ share }) => share);
  const { share, waiting } = fairPart(wanted, rivals, lotUs > 0 ? lotUs / OTHERS_US : 1);
  // Of several who always send, frames collide as often as they begin in one slot; somebody alone hears others in time.
  const lost = rivals > 0 ? collisions(1 + rivals + waiting) : 0;
  return speed * share * (1 - lost);
}

/** How long the air is taken when strangers send something, as usual, in microseconds: a frame or a lot of 1.5 ms, and its acknowledgement. */
const OTHERS_US = 1600;
/** Least window of contention for best effort, and how often it is doubled (802.11-2020 Table 9-155). */
const [WINDOW, STAGES] = [16, 6];

/** How often what somebody sends collides among so many who always have something to send, part of whom only at times. */
function collisions(senders: number): number {
  const [low, high] = [Math.floor(senders), Math.ceil(senders)];
  const [a, b] = [low, high].map((count) => contention(count, WINDOW, STAGES).collides) as [number, number];
  return a + (b - a) * (senders - low);
}

/**
 * Share of the air of somebody who always has something to send: what others leave, and never less than each of those gets that
 * want more than their part (max-min fairness, to which equal chances of sending come).
 * @param wanted shares that others want. @param rivals who always have something to send too.
 * @param weight how long it sends each time, and its rivals do, in what others take: with equal chances the longer gets more
 * (Heusse et al., INFOCOM 2003).
 */
export const fairShare = (wanted: readonly number[], rivals = 0, weight = 1): number =>
  fairPart(wanted, rivals, weight).share;

/** The same, with how many of the others wait for the air at a moment. */
function fairPart(wanted: readonly number[], rivals: number, weight: number): { share: number; waiting: number } {
  let [left, sharing, waiting] = [1, wanted.length + weight * (rivals + 1), wanted.length];
  const content: number[] = [];
  for (const share of [...wanted].sort((a, b) => a - b)) {
    if (share > left / sharing) break;
    left -= share;
    sharing--;
    waiting--;
    content.push(share);
  }
  // Who gets what it wants waits for a part of the time alone.
  for (const share of content) waiting += share / (left / sharing) / 2;
  return { share: (left * weight) / sharing, waiting };
}
