import type { PathMeasure } from './needs';

/** Rounds of questions that are kept, and those of them that needs are held against. */
export const ROUNDS_KEPT = 50;
export const ROUNDS_MEASURED = 20;

/** What the latest rounds of questions through an uplink came to. */
export class Rounds {
  private list: (number | null)[] = [];
  private last: number | null = null;
  private varies = 0;

  /** One more round. @param ms until the first answer; null: there was none in time. */
  add(ms: number | null): void {
    if (ms !== null && this.last !== null) this.varies += (Math.abs(ms - this.last) - this.varies) / 16;
    this.last = ms ?? this.last;
    this.list = [...this.list.slice(1 - ROUNDS_KEPT), ms];
  }

  get count(): number {
    return this.list.length;
  }

  /** Milliseconds by which answers vary (RFC 3550 §6.4.1). */
  get jitter(): number {
    return this.varies;
  }

  /** Share of rounds without an answer, from 0 to 1; and milliseconds until one came, null where none did. @param over so many of the latest. */
  over(over = ROUNDS_KEPT): { readonly loss: number; readonly delay: number | null } {
    const rounds = this.list.slice(-over);
    const heard = rounds.filter((ms): ms is number => ms !== null);
    return {
      loss: rounds.length === 0 ? 0 : 1 - heard.length / rounds.length,
      delay: heard.length === 0 ? null : heard.reduce((sum, ms) => sum + ms, 0) / heard.length,
    };
  }

  /** What needs are held against; null: nothing came back lately. */
  measure(): PathMeasure | null {
    const { loss, delay } = this.over(ROUNDS_MEASURED);
    return delay === null ? null : { loss: loss * 100, latency: delay, jitter: this.varies };
  }

  /** Whether more rounds like the latest would change nothing. */
  get settled(): boolean {
    const latest = this.list.slice(-ROUNDS_MEASURED);
    return latest.length === ROUNDS_MEASURED && latest.every((ms) => ms === latest[0]) && this.varies < 0.05;
  }
}
