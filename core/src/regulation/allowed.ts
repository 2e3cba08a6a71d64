import type { Band } from '../hardware';
import { WIDTHS, type Width } from '../radio';
import { legalBlocks, rulesOfCountry, type LegalBlock } from './legal-blocks';
import type { RadioRule } from './radio-rules';

/** What was found, by the rules and then by band and width. */
const known = new WeakMap<readonly RadioRule[], Map<string, readonly LegalBlock[]>>();

/** Channels so wide that a country allows, from the lowest on; see `legalBlocks`. @param country ISO 3166-1 alpha-2. */
export function allowedBlocks(country: string, band: Band, width: Width): readonly LegalBlock[] {
  const { code, rules } = rulesOfCountry(country);
  let found = known.get(rules);
  if (!found) known.set(rules, (found = new Map<string, readonly LegalBlock[]>()));
  const key = `${band} ${width}`;
  let blocks = found.get(key);
  if (!blocks) found.set(key, (blocks = legalBlocks({ code, rules }, band, width)));
  return blocks;
}

/** Widths that a country allows at a band, the narrowest first. */
export const allowedWidths = (country: string, band: Band): readonly Width[] =>
  WIDTHS.filter((width) => allowedBlocks(country, band, width).length > 0);

/** The channel of that width with a primary part; of two the one that reaches upwards. Undefined where none is allowed. */
export function allowedBlock(country: string, band: Band, primary: number, width: Width): LegalBlock | undefined {
  const having = allowedBlocks(country, band, width).filter(({ members }) => members.includes(primary));
  return having.find(({ members }) => members[0] === primary) ?? having[0];
}

/** The widest channel with a primary part that a country allows. @param most in MHz. */
export function widestBlock(
  country: string,
  band: Band,
  primary: number,
  most: Width,
): { readonly width: Width; readonly block: LegalBlock } | undefined {
  for (const width of [...WIDTHS].reverse()) {
    const block = width <= most ? allowedBlock(country, band, primary, width) : undefined;
    if (block) return { width, block };
  }
  return undefined;
}

/** How far channels of 20 MHz that follow each other are numbered apart. */
const stepOf = (band: Band): number => (band === '2.4' ? 1 : 4);

/** Channels of 20 MHz in short: `36–48, 100`. Those that follow each other in the band are one stretch. */
export function channelWords(band: Band, channels: readonly number[]): string {
  const step = stepOf(band);
  const stretches: [number, number][] = [];
  for (const channel of [...channels].sort((a, b) => a - b)) {
    const last = stretches.at(-1);
    if (last && channel === last[1] + step) last[1] = channel;
    else stretches.push([channel, channel]);
  }
  return stretches.map(([a, b]) => (a === b ? `${a}` : `${a}–${b}`)).join(', ');
}

/**
 * Channels as people write them: `1, 6, 11` or `36–48 100`; of a stretch at 5 and 6 GHz every fourth.
 * @returns null where it is no list of channels.
 */
export function readChannels(band: Band, text: string): number[] | null {
  const step = stepOf(band);
  const found: number[] = [];
  for (const each of text.replace(/\s*[-–]\s*/g, '-').split(/[\s,;]+/)) {
    if (each === '') continue;
    const [, from, to] = /^(\d{1,3})(?:-(\d{1,3}))?$/.exec(each) ?? [];
    if (from === undefined) return null;
    const [first, last] = [Number(from), Number(to ?? from)];
    if (last < first) return null;
    for (let channel = first; channel <= last; channel += step) found.push(channel);
  }
  return found;
}
