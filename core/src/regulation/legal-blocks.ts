import type { Band } from '../hardware';
import { blocksOf, eirpWithin, type Block, type Width } from '../radio';
import { radarDuty, type RadarDuty } from './radar';
import { COMMON_RULES, radioDomainOf, type RadioDomain, type RadioRule } from './radio-rules';

/** A channel that may be used, and how. */
export interface LegalBlock extends Block {
  /** Most EIRP in dBm. */
  readonly eirp: number;
  readonly duty: RadarDuty;
  readonly indoorOnly: boolean;
  /** Open to any short range device, with little power: nothing that is taken unasked. */
  readonly shortRange: boolean;
}

/** Channels so wide that a body of rules allows as a whole, from the lowest on; of two stretches that one spans the stricter stands. */
export function legalBlocks(
  { code, rules }: Pick<RadioDomain, 'code' | 'rules'>,
  band: Band,
  width: Width,
): LegalBlock[] {
  const ruleOf = (channel: number): RadioRule | undefined =>
    rules.find((rule) => rule.band === band && channel >= rule.channels[0] && channel <= rule.channels[1]);
  return blocksOf(band, width).flatMap((block) => {
    const over = block.members.map(ruleOf);
    if (!over.every((rule) => rule !== undefined)) return [];
    const eirp = Math.min(
      ...over.map(({ density, eirp: most }) => (density === undefined ? most : eirpWithin(density, most, width))),
    );
    const duty = radarDuty(code, block.centreMhz, width);
    return [
      {
        ...block,
        eirp,
        duty,
        indoorOnly: over.some((rule) => rule.indoorOnly),
        shortRange: over.some((rule) => rule.shortRange === true),
      },
    ];
  });
}

/** Rules of a country; of one that we have none of, what is legal nearly everywhere. */
export const rulesOfCountry = (country: string): Pick<RadioDomain, 'code' | 'rules'> =>
  radioDomainOf(country) ?? { code: 'ETSI', rules: COMMON_RULES };
