import type { SsidDocument } from '@iron-lattice/core/document';
import type { Band } from '@iron-lattice/core/hardware';
import { shareToAll, shareToEach, type BasicRate, type ToAll } from '@iron-lattice/core/radio';

/** A client that an AP has, as far as its share of the air goes. */
export interface OnRadio {
  readonly ssid: string;
  readonly band: Band;
  readonly rate: number;
}

/** Frames to all that a segment sees a second: what is always there, and what each client adds by asking around. */
const [ALWAYS, EACH, OCTETS] = [2, 0.5, 180];

/** What comes for the clients of a network from everybody in it. @param clients that its place has of it. */
export const chatter = (clients: number): ToAll => ({ perSecond: ALWAYS + EACH * clients, octets: OCTETS });

/** The share of the air that an AP takes to pass it on, by what it was told. @param here its own clients there. */
export function chatterShare(
  frames: ToAll,
  { multicast }: Pick<SsidDocument, 'multicast'>,
  { rate, band }: { readonly rate: number; readonly band: Band },
  here: readonly OnRadio[],
): number {
  if (multicast === 'none') return 0;
  if (multicast !== 'each') return shareToAll(frames, rate as BasicRate, band);
  return shareToEach(
    frames,
    here.map((client) => client.rate),
    band,
  );
}
