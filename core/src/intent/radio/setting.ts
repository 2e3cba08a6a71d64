import { sheetFor, type Band, type Modelled, type SheetRadio } from '../../hardware';
import { WIDTHS, type Width } from '../../radio';
import { allowedBlock, allowedBlocks, widestBlock, type LegalBlock } from '../../regulation';
import type { SitePart } from '../part';
import type { RosterDevice } from '../roster';
import { USUAL_BANDS, type BandFields, type RadioEntry, type RadioFields } from './radio';

/** A site as far as its radios go. */
export type RadioSite = Pick<SitePart, 'country' | 'bands' | 'radios'>;
type RadioDevice = Pick<RosterDevice, 'id' | 'model' | 'sheet'>;

/** The radio of a device for a band, if its model has one. */
export const sheetRadio = (device: Modelled, band: Band): SheetRadio | undefined =>
  sheetFor(device).radios.find((radio) => radio.band === band);

/** What a site says of a band, the usual where it says nothing. */
export const bandSetting = ({ bands }: Pick<SitePart, 'bands'>, band: Band): BandFields =>
  Object.assign({}, USUAL_BANDS[band], bands?.[band]);

/** A channel of a width, its number as the standards count it, and what it owes to the law. */
export interface TunedBlock {
  /** Primary channel of 20 MHz. */
  readonly channel: number;
  readonly width: Width;
  readonly block: LegalBlock;
}

/** What holds at one radio, once the law and the hardware have had their say. */
export interface RadioSetting extends RadioFields {
  /** Where it sends; null: it takes one of `choices` by itself, or has nowhere to send. */
  readonly at: TunedBlock | null;
  /** Where it may send by itself, in the order of the band: never where radar has the right of way. */
  readonly choices: readonly TunedBlock[];
  /** Where it goes when radar is heard. */
  readonly refuge: TunedBlock | null;
  /** EIRP in dBm; null where it has nowhere to send. */
  readonly eirp: number | null;
  /** Most EIRP that it could be set to there. */
  readonly mostEirp: number | null;
  /** Fields in which it differs from the site's band. */
  readonly own: readonly (keyof RadioFields)[];
}

/** What holds at a radio before anything is said of that one alone. */
export function radioBase(site: RadioSite, device: RadioDevice, band: Band): RadioFields {
  const radio = sheetRadio(device, band);
  if (!radio) throw new RangeError(`${device.model} has no radio for ${band} GHz`);
  const { on, width } = bandSetting(site, band);
  return { on, channel: null, width: atMost(width, radio.width), power: null, fixed: false };
}

/** The widest standard width that is neither above one nor above another. */
const atMost = (width: Width, most: number): Width =>
  width <= most ? width : (WIDTHS.findLast((each) => each <= most) ?? 20);

/** Settings that were worked out, by all that they follow from: most radios of an estate are told alike. */
const known = new Map<string, RadioSetting>();
/** So many are remembered. */
const MOST_KNOWN = 5000;

/** Of a radio of which nothing is said. */
const NOTHING: RadioEntry = {};
/** What is said as a text, once for each that says it: hundreds of radios are asked for after each edit. */
const texts = new WeakMap<object, string>();
function textOf(said: object | undefined): string {
  if (said === undefined) return '';
  let text = texts.get(said);
  if (text === undefined) texts.set(said, (text = JSON.stringify(said)));
  return text;
}

/** Everything intended for a radio. @throws RangeError for a band its model has no radio for. */
export function radioSetting(site: RadioSite, device: RadioDevice, band: Band): RadioSetting {
  const entry: RadioEntry = site.radios?.[device.id]?.[band] ?? NOTHING;
  // What somebody supplied for a model may be another thing under the same name.
  if (device.sheet) return settingOf(site, device, band, entry);
  const key = `${site.country} ${band} ${device.model} ${textOf(site.bands?.[band])} ${textOf(entry)}`;
  let setting = known.get(key);
  if (!setting) {
    setting = settingOf(site, device, band, entry);
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(key, setting);
  }
  return setting;
}

function settingOf(site: RadioSite, device: RadioDevice, band: Band, entry: RadioEntry): RadioSetting {
  const base = radioBase(site, device, band);
  const fields: RadioFields = { ...base, ...entry };
  const policy = bandSetting(site, band);
  const { channel, width } = fields;
  const tuned = (primary: number, most: Width): TunedBlock | null => {
    const found = widestBlock(site.country, band, primary, most);
    return found ? { channel: primary, ...found } : null;
  };
  const at = channel === null ? null : tuned(channel, width);
  const choices = channel === null ? freeChoices(site.country, band, policy, width) : [];
  const most = mostPower(site.country, device, band, at ? [at] : choices, policy);
  return {
    ...fields,
    at,
    choices,
    refuge: at?.block.duty.radar ? refugeOf(site.country, band, policy, at.width) : null,
    mostEirp: most,
    eirp: most === null ? null : Math.min(fields.power ?? most, most),
    own: (Object.keys(entry) as (keyof RadioFields)[]).filter((key) => entry[key] !== base[key]),
  };
}

/** Channels that a band's radios may use, as the law allows them. */
export function bandChannels(country: string, band: Band, { channels }: Pick<BandFields, 'channels'>): LegalBlock[] {
  const legal = allowedBlocks(country, band, 20);
  return legal.filter(({ centre, shortRange }) => (channels === 'legal' ? !shortRange : channels.includes(centre)));
}

/** Where a radio may send by itself: the channels said of the band, in the greatest width that any of them has. */
function freeChoices(country: string, band: Band, policy: BandFields, width: Width): readonly TunedBlock[] {
  const tuned = bandChannels(country, band, policy).flatMap(({ centre }): TunedBlock[] => {
    const found = widestFree(country, band, centre, width);
    return found ? [{ channel: centre, ...found }] : [];
  });
  const widest = Math.max(0, ...tuned.map((each) => each.width));
  return tuned.filter((each) => each.width === widest);
}

function refugeOf(country: string, band: Band, policy: BandFields, width: Width): TunedBlock | null {
  if (policy.refuge === null) return freeChoices(country, band, policy, width)[0] ?? null;
  const found = widestFree(country, band, policy.refuge, width);
  return found && { channel: policy.refuge, ...found };
}

/** The widest channel with a primary part that owes nothing to radar. */
function widestFree(country: string, band: Band, primary: number, most: Width) {
  for (const width of WIDTHS.filter((each) => each <= most).reverse()) {
    const block = allowedBlock(country, band, primary, width);
    if (block && !block.duty.radar) return { width, block };
  }
  return null;
}

/** Most EIRP in dBm that a radio may have wherever it may send: the least of what the law, the site and the hardware allow. */
function mostPower(
  country: string,
  device: RadioDevice,
  band: Band,
  where: readonly TunedBlock[],
  policy: BandFields,
): number | null {
  if (where.length === 0) return null;
  const law = Math.min(...where.map(({ block }) => block.eirp));
  return Math.floor(Math.min(law, policy.most ?? law, sheetRadio(device, band)?.eirp ?? law));
}
