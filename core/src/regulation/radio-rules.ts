import { BANDS, type Band } from '../hardware';

/** A stretch of spectrum that access points may use, with the most power. Broad: the operator's regulator decides. */
export interface RadioRule {
  readonly band: Band;
  /** 20 MHz channels, first and last of the stretch. */
  readonly channels: readonly [number, number];
  /** Most EIRP in dBm. */
  readonly eirp: number;
  /** Most EIRP of each MHz in dBm, where that is limited too: then a wider channel may send with more. */
  readonly density?: number;
  /** Open to any short range device, with little power. */
  readonly shortRange?: boolean;
  /** Whether radar has to be listened for first (DFS). */
  readonly radar: boolean;
  readonly indoorOnly: boolean;
}

/** One body of rules that several countries share. */
export interface RadioDomain {
  readonly code: 'ETSI' | 'UK' | 'FCC' | 'ISED' | 'JP';
  readonly title: string;
  /** Where the rules are written. */
  readonly source: string;
  /** Day the data was last gone over, YYYY-MM-DD. */
  readonly asOf: string;
  readonly rules: readonly RadioRule[];
}

const rule = (
  band: Band,
  first: number,
  last: number,
  eirp: number,
  more: { radar?: boolean; indoorOnly?: boolean; density?: number; shortRange?: boolean } = {},
): RadioRule => ({
  band,
  channels: [first, last],
  eirp,
  radar: more.radar ?? false,
  indoorOnly: more.indoorOnly ?? false,
  ...(more.density === undefined ? {} : { density: more.density }),
  ...(more.shortRange ? { shortRange: true } : {}),
});
const [radar, indoorOnly] = [true, true];
const asOf = '2026-11-01';

/** The bodies of rules we know. Where a regulator allows more with automatic power control, the lower figure stands. */
export const RADIO_DOMAINS: readonly RadioDomain[] = [
  {
    code: 'ETSI',
    title: 'Europe',
    source: 'EN 300 328, EN 301 893, EN 303 687; EU Decisions 2022/179 and 2021/1067',
    asOf,
    rules: [
      rule('2.4', 1, 13, 20),
      rule('5', 36, 48, 23, { indoorOnly }),
      rule('5', 52, 64, 20, { radar, indoorOnly }),
      rule('5', 100, 140, 27, { radar }),
      rule('5', 149, 165, 14, { shortRange: true }),
      rule('6', 1, 93, 23, { indoorOnly, density: 10 }),
    ],
  },
  {
    code: 'UK',
    title: 'United Kingdom',
    source: 'UK Interface Requirement 2030',
    asOf,
    rules: [
      rule('2.4', 1, 13, 20),
      rule('5', 36, 48, 23, { indoorOnly }),
      rule('5', 52, 64, 20, { radar, indoorOnly }),
      rule('5', 100, 140, 27, { radar }),
      rule('6', 1, 93, 24, { indoorOnly }),
    ],
  },
  {
    code: 'FCC',
    title: 'United States',
    source: '47 CFR 15.247 and 15.407',
    asOf,
    rules: [
      rule('2.4', 1, 11, 36),
      rule('5', 36, 48, 36),
      rule('5', 52, 64, 30, { radar }),
      rule('5', 100, 144, 30, { radar }),
      rule('5', 149, 165, 36),
      rule('6', 1, 233, 30, { indoorOnly, density: 5 }),
    ],
  },
  {
    code: 'ISED',
    title: 'Canada',
    source: 'RSS-247 and RSS-248',
    asOf,
    rules: [
      rule('2.4', 1, 11, 36),
      rule('5', 36, 48, 23, { indoorOnly }),
      rule('5', 52, 64, 23, { radar }),
      rule('5', 100, 116, 30, { radar }), // 5600 to 5650 MHz is forbidden
      rule('5', 132, 144, 30, { radar }),
      rule('5', 149, 165, 36),
      rule('6', 1, 233, 30, { indoorOnly, density: 5 }),
    ],
  },
  {
    code: 'JP',
    title: 'Japan',
    source: 'Ordinance Regulating Radio Equipment, articles 49.20 and 49.21',
    asOf,
    rules: [
      rule('2.4', 1, 13, 20),
      rule('5', 36, 48, 23, { indoorOnly }),
      rule('5', 52, 64, 20, { radar, indoorOnly }),
      rule('5', 100, 144, 27, { radar }),
      rule('6', 1, 93, 23, { indoorOnly }),
    ],
  },
];

/** Countries by the body of rules they follow: members of the EU and EEA, and states that took the same over. */
const COUNTRIES_OF: Readonly<Record<RadioDomain['code'], string>> = {
  ETSI: 'AD AL AT BA BE BG CH CY CZ DE DK EE ES FI FO FR GI GR HR HU IE IS IT LI LT LU LV MC MD ME MK MT NL NO PL PT RO RS SE SI SK SM TR UA VA XK',
  UK: 'GB GG IM JE',
  FCC: 'US PR VI GU AS MP',
  ISED: 'CA',
  JP: 'JP',
};
const byCountry = new Map(
  RADIO_DOMAINS.flatMap((domain) => COUNTRIES_OF[domain.code].split(' ').map((country) => [country, domain] as const)),
);

/**
 * What radios may do in a country.
 * @param country ISO 3166-1 alpha-2.
 * @returns null for a country we have no rules of: its radios keep to what is legal nearly everywhere
 * (`COMMON_RULES`) until somebody supplies them.
 */
export const radioDomainOf = (country: string): RadioDomain | null => byCountry.get(country.toUpperCase()) ?? null;

/** Legal in every body of rules we know. */
export const COMMON_RULES: readonly RadioRule[] = [rule('2.4', 1, 11, 20), rule('5', 36, 48, 23, { indoorOnly })];

/** Says a country's rules in one sentence, for people who choose one. */
export function radioWords(country: string): string {
  const domain = radioDomainOf(country);
  if (!domain) return 'We have no radio rules of this country: radios keep to channels legal nearly everywhere.';
  const of = (band: Band): string | null => {
    const rules = domain.rules.filter((each) => each.band === band);
    if (rules.length === 0) return null;
    const [first, last] = [rules[0]!.channels[0], rules[rules.length - 1]!.channels[1]];
    return `${band} GHz ${first}–${last} up to ${Math.max(...rules.map((each) => each.eirp))} dBm`;
  };
  return `${domain.title}: ${BANDS.map(of).filter(Boolean).join(', ')}.`;
}
