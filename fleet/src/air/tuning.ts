import type { ApDocument, ChannelDocument, RadioDocument } from '@iron-lattice/core/document';
import type { Band } from '@iron-lattice/core/hardware';
import { radioSetting } from '@iron-lattice/core/intent';
import { blocksOf, type Width } from '@iron-lattice/core/radio';
import type { ApBox } from './ap-box';

/** What a radio does when nobody told it anything: what is usual, within what the country allows. */
export function usualRadio(device: ApBox, { site }: ApDocument, band: Band): RadioDocument {
  const { serial: id, model, sheet } = device;
  const asked = { id, model, ...(sheet ? { sheet } : {}) };
  const { choices, eirp } = radioSetting({ country: site.country }, asked, band);
  if (eirp === null) return { band, off: true };
  const told = choices.map(({ channel, width, block }): ChannelDocument => ({ channel, width, centre: block.centre }));
  return { band, choices: told, power: eirp };
}

/** What of a document a radio has to start anew for: where it sends, and what is heard of it. */
export function startsFor({ ssids }: ApDocument, radio: RadioDocument): string {
  const { power: _power, ...tuned } = radio;
  const heard = ssids
    .filter(({ bands }) => bands.includes(radio.band))
    .map(({ id, name, security, passphrase, former, hidden, roam }) => [
      ...[id, name, security, passphrase],
      ...[former, hidden, roam],
    ]);
  return JSON.stringify([tuned, heard]);
}

/** The channels of 20 MHz that a channel is made of. */
export const membersOf = (band: Band, { centre, width }: ChannelDocument): readonly number[] =>
  blocksOf(band, width as Width).find((block) => block.centre === centre)?.members ?? [];
