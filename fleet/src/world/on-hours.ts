import {
  isFormerValid,
  isKeyEarly,
  isKeyOver,
  isPortOpen,
  ssidsAt,
  type SsidDocument,
} from '@iron-lattice/core/document';
import { dayOf, localMoment } from '@iron-lattice/core/rules';
import type { Box } from './box';

/** Clocks of all places differ by quarters of an hour, and hours begin at halves: nothing changes in between. */
const QUARTER = 15 * 60_000;

/** What an AP sends at this moment. */
export const sentNow = ({ document }: Pick<Box, 'document'>): readonly SsidDocument[] =>
  document.kind === 'ap' ? ssidsAt(document, Date.now()) : [];

/** Wakes devices when the hours of what they send, or of their ports, begin and end, and when an old passphrase or a key of a ring is right no more. */
export class OnHours {
  private readonly timed = new Map<Box, string>();
  private timer: NodeJS.Timeout | null = null;

  /** @param changed is told of an AP that sends something else now. */
  constructor(private readonly changed: (box: Box) => void) {}

  /** An AP's document is another. */
  follow(box: Box): void {
    const { document } = box;
    const ends = document.kind === 'ap' && document.ssids.some(({ id }) => timedKeys(box, id).length > 0);
    const sends = document.kind === 'ap' && (ends || document.ssids.some(({ hours, former }) => hours ?? former));
    if (sends || document.ports.some(({ hours }) => hours)) this.timed.set(box, saidNow(box));
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

/** What a device sends now, which of its timed ports are in use, and which old passphrases and keys of rings are right. */
function saidNow(box: Box): string {
  const { ports, site } = box.document;
  const { timeZone } = site;
  const open = ports.filter((port) => port.hours && isPortOpen(port, site, Date.now())).map(({ name }) => name);
  const [day, now] = [dayOf(Date.now(), timeZone), localMoment(Date.now(), timeZone)];
  const sent = sentNow(box).map((ssid) => {
    const right = timedKeys(box, ssid.id).filter((key) => !isKeyEarly(key, now) && !isKeyOver(key, now));
    return `${ssid.id} ${isFormerValid(ssid, day)} ${right.map(({ id }) => id).join(' ')}`;
  });
  return [...sent, ...open].join();
}

/** The keys of a ring that are not always right. */
const timedKeys = ({ rings }: Box, ssidId: string) =>
  (rings.get(ssidId)?.keys ?? []).filter(({ from, until }) => from !== undefined || until !== undefined);
