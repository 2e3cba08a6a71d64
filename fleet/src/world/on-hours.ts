import { ssidsAt, type SsidDocument } from '@iron-lattice/core/document';
import type { Box } from './box';

/** Clocks of all places differ by quarters of an hour, and hours begin at halves: nothing changes in between. */
const QUARTER = 15 * 60_000;

/** What an AP sends at this moment. */
export const sentNow = ({ document }: Pick<Box, 'document'>): readonly SsidDocument[] =>
  document.kind === 'ap' ? ssidsAt(document, Date.now()) : [];

/** Wakes APs when the hours of what they send begin and end. */
export class OnHours {
  private readonly timed = new Map<Box, string>();
  private timer: NodeJS.Timeout | null = null;

  /** @param changed is told of an AP that sends something else now. */
  constructor(private readonly changed: (box: Box) => void) {}

  /** An AP's document is another. */
  follow(box: Box): void {
    const { document } = box;
    if (document.kind === 'ap' && document.ssids.some(({ hours }) => hours)) this.timed.set(box, idsOf(box));
    else this.timed.delete(box);
    if (this.timed.size > 0) this.wait();
  }

  private wait(): void {
    if (this.timer) return;
    this.timer = setTimeout(
      () => {
        this.timer = null;
        for (const [box, before] of [...this.timed]) {
          const now = idsOf(box);
          this.timed.set(box, now);
          if (now !== before) this.changed(box);
        }
        if (this.timed.size > 0) this.wait();
      },
      QUARTER - (Date.now() % QUARTER) + 1,
    );
    this.timer.unref();
  }
}

const idsOf = (box: Box): string =>
  sentNow(box)
    .map(({ id }) => id)
    .join();
