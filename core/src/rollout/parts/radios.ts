import type { ChannelDocument, RadioDocument } from '../../document';
import { sheetFor, type Band } from '../../hardware';
import {
  bandSetting,
  radioSetting,
  USUAL_BANDS,
  type RadioSetting,
  type SitePart,
  type TunedBlock,
} from '../../intent';
import { part } from '../part';

const channel = ({ channel, width, block }: TunedBlock): ChannelDocument => ({ channel, width, centre: block.centre });

/** What the radios of an AP do, where somebody said something of them: of the others it knows itself what is usual. */
export const radios = part({
  name: 'radios',
  kinds: ['ap'],
  reads: { site: ['country', 'bands'], device: ['id', 'model', 'sheet'], own: 'radios' },
  tells: ({ country, bands }, device) => {
    const site = { country, ...(bands ? { bands } : {}), radios: { [device.id]: device.radios } };
    const told = sheetFor(device).radios.flatMap(({ band }): RadioDocument[] =>
      bands?.[band] || device.radios[band]
        ? [{ band, ...settled(radioSetting(site, device, band), slowestOf(site, band)) }]
        : [],
    );
    return told.length > 0 ? { radios: told } : {};
  },
});

/** Slowest rate of a band, where it is not the usual. */
function slowestOf(site: Pick<SitePart, 'bands'>, band: Band): number | null {
  const { slowest } = bandSetting(site, band);
  return slowest === USUAL_BANDS[band].slowest ? null : slowest;
}

function settled({ on, at, choices, eirp, refuge }: RadioSetting, slowest: number | null): Omit<RadioDocument, 'band'> {
  if (!on || eirp === null) return { off: true };
  const duty = at?.block.duty;
  return {
    ...(at ? { at: channel(at) } : { choices: choices.map(channel) }),
    power: eirp,
    ...(slowest === null ? {} : { slowest }),
    ...(duty?.radar
      ? {
          radar: {
            listen: duty.listenSeconds,
            rest: duty.restSeconds,
            ...(refuge ? { refuge: channel(refuge) } : {}),
          },
        }
      : {}),
  };
}
