import { isFormerValid, ssidsAt, type SsidDocument } from '@iron-lattice/core/document';
import { dayOf } from '@iron-lattice/core/rules';
import type { Box } from './box';

/** Clocks of all places differ by quarters of an hour, and hours begin at halves: nothing changes in between. */
const QUARTER = 15 * 60_000;

/** What an AP sends at this moment. */
export const sentNow = ({ document }: Pick<Box, 'document'>): readonly SsidDocument[] =>
  document.kind === 'ap' ? ssidsAt(document, Date.now()) : [];

/** Wakes APs when the hours of what they send begin and end, and when an old passphrase is right no more. */
export class OnHours {
  private readonly timed = new Map<Box, string>();
  private timer: NodeJS.Timeout | null = null;

  /** @param changed is told of an AP that sends something else now. */
  constructor(private readonly changed: (box: Box) => void) {}

  /** An AP's document is another. */
  follow(box: Box): void {
    const { document } = box;
    if (document.kind === 'ap' && document.ssids.some(({ hours, former }) => hours ?? former))
      this.timed.set(box, saidNow(box));
    else this.timed.delete(box);
    if (this.timed.size > 0) this.wait();
  }

  private wait(): void {
    if (this.timer) return;
    this.timer = setTimeout(
      () => {
        this.timer = null;
        for (const [box, before] of [...this.timed]) {
          const now = saidNow(box);
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

/** What an AP sends now, and which old passphrases are still right. */
function saidNow(box: Box): string {
  const day = dayOf(Date.now(), box.document.site.timeZone);
  return sentNow(box)
    .map((ssid) => `${ssid.id} ${isFormerValid(ssid, day)}`)
    .join();
}
