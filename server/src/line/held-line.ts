import type { CommandName, ControllerFrame } from '@iron-lattice/core/line';
import type { WebSocket } from 'ws';

/** Frames that a line may send a second in the long run, and at once; a long one counts as one more each 8 KB. */
const FRAMES = { aSecond: 40, atOnce: 500, octets: 8192 } as const;
/** Answers that may be waited for on one line. */
const MOST_ASKED = 64;

/** One device's line, held by this process. */
export interface Line {
  readonly id: string;
  readonly socket: WebSocket;
  readonly deviceId: string;
  /** Answered since the last beat. */
  alive: boolean;
  readonly serial: string;
  /** Whether the device has been told that it is claimed. */
  claimed: boolean;
  /** Whether its clock was right when it last said what it shows; null before. */
  clockRight: boolean | null;
  /** Whether its firmware can hold the line: else it is only updated. */
  able: boolean;
  /** Frames are dealt with one after the other, in the order they came. */
  queue: Promise<void>;
  /** How many of them wait. */
  waiting: number;
  /** What it was asked, by id: of anything else no answer is kept. */
  readonly asked: Map<string, CommandName | 'firmware'>;
  /** The document that it last said on this line to have applied, and how often it went back from it unanswered. */
  applied: { readonly hash: string; unanswered: number } | null;
  /** Hash of the document that it was asked to tell back. */
  toldBack: string | null;
  /** Frames that it may still send now, and when that was counted. */
  budget: number;
  countedAt: number;
  untaken: number;
  /** The rules of the document it runs, with its hash. */
  rules: { readonly hash: string; readonly ids: ReadonlySet<string> } | null;
}

/** A line that has just been entered. */
export const heldLine = (of: Pick<Line, 'id' | 'socket' | 'deviceId' | 'serial' | 'claimed'>, now: number): Line => ({
  ...of,
  alive: true,
  clockRight: null,
  able: true,
  queue: Promise.resolve(),
  waiting: 0,
  asked: new Map(),
  applied: null,
  toldBack: null,
  budget: FRAMES.atOnce,
  countedAt: now,
  untaken: 0,
  rules: null,
});

/** Remembers what a line is asked, so that an answer to it is taken; of very many the oldest are forgotten. */
export function noteAsked(line: Line, frame: ControllerFrame): void {
  const { asked } = line;
  if (frame.type === 'tell-back') line.toldBack = frame.hash;
  if (frame.type !== 'command' && frame.type !== 'firmware') return;
  asked.set(frame.id, frame.type === 'command' ? frame.name : 'firmware');
  for (const [oldest] of asked) {
    if (asked.size <= MOST_ASKED) break;
    asked.delete(oldest);
  }
}

/** Counts a frame. @returns how long the line is not read now because it says too much, in milliseconds. */
export function pauseOf(line: Line, octets: number): number {
  const now = Date.now();
  const earned = ((now - line.countedAt) / 1000) * FRAMES.aSecond;
  line.budget = Math.min(FRAMES.atOnce, line.budget + earned) - 1 - octets / FRAMES.octets;
  line.countedAt = now;
  return line.budget >= 0 ? 0 : (-line.budget / FRAMES.aSecond) * 1000;
}

/** Whether a device gives a sign of life in time. What came in time counts, even if this process was too busy to read it then. */
export function answersWithin(line: Line, ms: number): Promise<boolean> {
  return new Promise((resolve) => {
    // Timers are looked at before sockets: what waits in them is read first.
    const timer = setTimeout(() => setImmediate(() => setImmediate(() => done(false))), ms);
    const heard = (): void => done(true);
    const done = (answered: boolean): void => {
      clearTimeout(timer);
      line.socket.off('pong', heard);
      resolve(answered);
    };
    line.socket.on('pong', heard);
    line.socket.ping();
  });
}
