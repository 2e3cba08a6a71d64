import { flaw, sameValue, type Flaw } from '../../base';
import type { Band } from '../../hardware';
import { basicRatesAt, WIDTHS } from '../../radio';
import { allowedBlock, allowedBlocks, allowedWidths, channelWords, COUNTRIES } from '../../regulation';
import { refuse, withSite, type EditContext, type Outcome } from '../edit';
import { siteGone } from '../kept-list';
import type { Intent, SitePart } from '../part';
import type { RosterDevice } from '../roster';
import { differing, withoutGaps } from '../said-fields';
import type { BandOperation, RadioOperation, RadioSetOperation } from './operations';
import { LEAST_POWER, USUAL_BANDS, type BandFields, type RadioEntry } from './radio';
import { bandSetting, radioBase, sheetRadio } from './setting';

/** Applies an edit of a site's bands and radios. What is not legal at the site's country is refused, and the refusal says what is. */
export function applyRadio(
  intent: Intent,
  operation: RadioOperation,
  { roster }: EditContext,
): Outcome<RadioOperation> {
  const site = intent.sites.get(operation.siteId);
  if (!site) return refuse(siteGone());
  return operation.type === 'radio.band'
    ? setBand(intent, site, operation, roster)
    : setRadio(intent, site, operation, roster);
}

function setBand(
  intent: Intent,
  site: SitePart,
  operation: BandOperation,
  roster: EditContext['roster'],
): Outcome<RadioOperation> {
  const { band } = operation;
  const now = site.bands?.[band] ?? null;
  if (!sameValue(now, operation.from))
    return refuse(flaw('radio.changed', `Somebody changed what is said of ${band} GHz here meanwhile.`));
  const fields: BandFields = { ...USUAL_BANDS[band], ...withoutGaps(operation.to) };
  const flaws = [...checkBand(site.country, band, fields), ...radiosInTheWay(site, band, fields, roster)];
  if (flaws.length > 0) return refuse(...flaws);
  const kept = differing(normalBand(fields), USUAL_BANDS[band]);
  const { [band]: _old, ...others } = site.bands ?? {};
  const bands = kept ? { ...others, [band]: kept } : others;
  const { bands: _bands, ...rest } = site;
  const next: SitePart = Object.keys(bands).length > 0 ? { ...rest, bands } : rest;
  return { ok: true, intent: withSite(intent, next), inverse: { ...operation, from: kept, to: operation.from } };
}

function setRadio(
  intent: Intent,
  site: SitePart,
  operation: RadioSetOperation,
  roster: EditContext['roster'],
): Outcome<RadioOperation> {
  const { band } = operation;
  const device = roster(operation.deviceId);
  if (!device || device.siteId !== site.id)
    return refuse(flaw('radio.device-unknown', 'This access point is no longer at the site.'));
  if (!sheetRadio(device, band)) return refuse(flaw('radio.none', `${device.name} has no radio for ${band} GHz.`));
  const mine = site.radios?.[device.id] ?? {};
  if (!sameValue(mine[band] ?? null, operation.from))
    return refuse(flaw('radio.changed', `Somebody changed the ${band} GHz radio of ${device.name} meanwhile.`));
  const entry = withoutGaps(operation.to);
  const flaws = checkRadio(site, device, band, entry);
  if (flaws.length > 0) return refuse(...flaws);
  const kept = saying(entry);
  const { [band]: _old, ...others } = mine;
  const radios = kept ? { ...others, [band]: kept } : others;
  const { [device.id]: _mine, ...devices } = site.radios ?? {};
  const all = Object.keys(radios).length > 0 ? { ...devices, [device.id]: radios } : devices;
  const { radios: _radios, ...rest } = site;
  const next: SitePart = Object.keys(all).length > 0 ? { ...rest, radios: all } : rest;
  return { ok: true, intent: withSite(intent, next), inverse: { ...operation, from: kept, to: operation.from } };
}

/**
 * What is said of a radio as it is kept: what says nothing is left out. A width or being on is kept though the band says the
 * same now, since the band may be told otherwise.
 */
function saying(entry: RadioEntry): RadioEntry | null {
  const usual: RadioEntry = { channel: null, power: null, fixed: false };
  return differing({ ...usual, ...entry }, usual);
}

const normalBand = (fields: BandFields): BandFields => ({
  ...fields,
  channels: fields.channels === 'legal' ? 'legal' : [...new Set(fields.channels)].sort((a, b) => a - b),
});

const nameOf = (country: string): string => COUNTRIES.find(({ code }) => code === country)?.name ?? country;

/** Where one may send in a country, to follow a refusal. */
function legalWords(country: string, band: Band): string {
  const legal = allowedBlocks(country, band, 20).map(({ centre }) => centre);
  if (legal.length === 0) return `No channel of ${band} GHz is legal in ${nameOf(country)} as far as we know.`;
  return `Legal in ${nameOf(country)} at ${band} GHz: channels ${channelWords(band, legal)}.`;
}

function checkBand(country: string, band: Band, fields: BandFields): Flaw[] {
  const flaws: Flaw[] = [];
  const { channels, width, radar, least, most, refuge, slowest } = fields;
  const legal = allowedBlocks(country, band, 20);
  if (channels !== 'legal') {
    if (channels.length === 0)
      flaws.push(flaw('radio.no-channel', 'Name at least one channel, or switch the band off.', 'channels'));
    const wrong = channels.filter((channel) => !legal.some(({ centre }) => centre === channel));
    if (wrong.length > 0) {
      const text = `${wrong.length === 1 ? 'Channel' : 'Channels'} ${channelWords(band, wrong)} cannot be used at ${band} GHz. ${legalWords(country, band)}`;
      flaws.push(flaw('radio.not-legal', text, 'channels'));
    }
  }
  flaws.push(...checkWidth(country, band, width));
  const law = Math.max(
    LEAST_POWER,
    ...allowedWidths(country, band).flatMap((each) => allowedBlocks(country, band, each).map(({ eirp }) => eirp)),
  );
  for (const [field, value] of [
    ['least', least],
    ['most', most],
  ] as const)
    if (value !== null && !(value >= LEAST_POWER && value <= law)) {
      const text = `Power lies between ${LEAST_POWER} and ${law} dBm at ${band} GHz in ${nameOf(country)}.`;
      flaws.push(flaw('radio.power', text, field));
    }
  if (flaws.length === 0 && most !== null && most < least)
    flaws.push(flaw('radio.power-order', `The most, ${most} dBm, is below the least, ${least} dBm.`, 'most'));
  if (refuge !== null) {
    const block = legal.find(({ centre }) => centre === refuge);
    if (!block)
      flaws.push(flaw('radio.not-legal', `Channel ${refuge} cannot be used. ${legalWords(country, band)}`, 'refuge'));
    else if (block.duty.radar)
      flaws.push(
        flaw(
          'radio.refuge',
          `Channel ${refuge} is shared with radar itself. Name one that is not, such as 36.`,
          'refuge',
        ),
      );
  }
  if (!basicRatesAt(band).includes(slowest)) {
    const text = `${slowest} Mb/s is no rate of ${band} GHz. Possible: ${basicRatesAt(band).join(', ')}.`;
    flaws.push(flaw('radio.slowest', text, 'slowest'));
  }
  if (radar && band !== '5')
    flaws.push(flaw('radio.no-radar', `No channel of ${band} GHz is shared with radar.`, 'radar'));
  return flaws;
}

function checkWidth(country: string, band: Band, width: number): Flaw[] {
  const widths = allowedWidths(country, band);
  if (widths.some((each) => each === width)) return [];
  const text = `A channel of ${width} MHz cannot be used at ${band} GHz in ${nameOf(country)}. ${
    widths.length > 0 ? `Possible: ${widths.join(', ')} MHz.` : legalWords(country, band)
  }`;
  return [flaw('radio.width', text, 'width')];
}

/** Radios that were put on a channel which the band would not allow any more. */
function radiosInTheWay(site: SitePart, band: Band, { radar }: BandFields, roster: EditContext['roster']): Flaw[] {
  if (radar || !bandSetting(site, band).radar) return [];
  const names = Object.entries(site.radios ?? {}).flatMap(([deviceId, radios]) => {
    const [device, channel] = [roster(deviceId), radios[band]?.channel];
    if (!device || device.siteId !== site.id || channel === undefined || channel === null) return [];
    return allowedBlock(site.country, band, channel, 20)?.duty.radar ? [`${device.name} (${channel})`] : [];
  });
  if (names.length === 0) return [];
  const more = names.length > 3 ? ` and ${names.length - 3} more` : '';
  const text = `${names.slice(0, 3).join(', ')}${more} ${names.length === 1 ? 'is' : 'are'} on channels shared with radar. Give ${names.length === 1 ? 'it another' : 'them others'} first.`;
  return [flaw('radio.on-radar', text, 'radar')];
}

function checkRadio(site: SitePart, device: RosterDevice, band: Band, entry: RadioEntry): Flaw[] {
  const flaws: Flaw[] = [];
  const { country } = site;
  const base = radioBase(site, device, band);
  const { channel, width, power } = { ...base, ...entry };
  const radio = sheetRadio(device, band)!;
  const widthFlaws = entry.width === undefined ? [] : checkWidth(country, band, entry.width);
  flaws.push(...widthFlaws);
  if (widthFlaws.length === 0 && width > radio.width)
    flaws.push(flaw('radio.width', `${device.name} does ${radio.width} MHz at most at ${band} GHz.`, 'width'));
  const one = channel === null ? undefined : allowedBlock(country, band, channel, 20);
  if (channel !== null) {
    if (!one)
      flaws.push(
        flaw(
          'radio.not-legal',
          `Channel ${channel} cannot be used at ${band} GHz. ${legalWords(country, band)}`,
          'channel',
        ),
      );
    else if (one.duty.radar && !bandSetting(site, band).radar) {
      const text = `Channel ${channel} is shared with radar, which ${site.name} does not use at ${band} GHz. Allow radar channels for the band first, or take another.`;
      flaws.push(flaw('radio.radar', text, 'channel'));
    } else if (flaws.length === 0 && entry.width !== undefined && !allowedBlock(country, band, channel, width)) {
      const fits = WIDTHS.filter((each) => each <= radio.width && allowedBlock(country, band, channel, each));
      const text = `Channel ${channel} cannot be ${width} MHz wide in ${nameOf(country)}. With it fit ${fits.join(', ')} MHz.`;
      flaws.push(flaw('radio.no-fit', text, 'width'));
    }
  }
  if (power !== null && entry.power !== undefined) {
    const at = channel === null ? undefined : (allowedBlock(country, band, channel, width) ?? one);
    const law = at?.eirp ?? Math.max(LEAST_POWER, ...allowedBlocks(country, band, 20).map(({ eirp }) => eirp));
    const most = Math.floor(Math.min(law, radio.eirp ?? law));
    if (!(power >= LEAST_POWER && power <= most)) {
      const where = channel === null ? `at ${band} GHz` : `on channel ${channel}`;
      const whose = (radio.eirp ?? law) < law ? `what ${device.name} can do` : `the law of ${nameOf(country)}`;
      flaws.push(flaw('radio.power', `Power lies between ${LEAST_POWER} and ${most} dBm ${where}: ${whose}.`, 'power'));
    }
  }
  return flaws;
}

/** An edit of a band or a radio in words. */
export const radioWords = (operation: RadioOperation): string =>
  operation.type === 'radio.band' ? `the ${operation.band} GHz band changed` : `a ${operation.band} GHz radio changed`;
