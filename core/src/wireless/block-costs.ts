import type { Band } from '../hardware';
import { WIDTHS, type Width } from '../radio';
import { allowedBlocks, type LegalBlock } from '../regulation';
import { bestPrimary, strangersOn, type HeardAir } from './others';

/** Signal in dBm of a client that stands neither near nor far. */
export const MIDDLE_DBM = -60;

/** A channel that could be taken, and what others leave of it. */
export interface BlockCost {
  readonly band: Band;
  readonly width: Width;
  readonly block: LegalBlock;
  /** The primary channel of 20 MHz at which it is best. */
  readonly channel: number;
  /** Share of what the channel could bring that others take. */
  readonly cost: number;
  /** TCP in Mb/s for a client neither near nor far. */
  readonly speed: number;
  /** Whether the site lets its radios use it, and the radio can. */
  readonly free: boolean;
}

/** What decides which blocks a radio may take. */
export interface BlockLimits {
  readonly country: string;
  readonly band: Band;
  /** Widest that the radio does. */
  readonly most: Width;
  readonly streams: number;
  /** Channels of 20 MHz that may be used, and whether those shared with radar may. */
  readonly channels: ReadonlySet<number>;
  readonly radar: boolean;
  /** Widest that the site says. */
  readonly widest: Width;
}

/** Every channel of 20 MHz and wider that the law allows at a band, with what it would cost where an AP heard the air. */
export function blockCosts(air: HeardAir, limits: BlockLimits, isOurs: (bssid: string) => boolean): BlockCost[] {
  const { country, band, most, streams, channels, radar, widest } = limits;
  const pairing = { phy: 'HE', maxNss: streams, band } as const;
  return WIDTHS.filter((width) => width <= most).flatMap((width) =>
    allowedBlocks(country, band, width).map((block): BlockCost => {
      const others = strangersOn(band, block, air, isOurs);
      const { primary, speed } = bestPrimary(width, MIDDLE_DBM, pairing, others);
      const quiet = bestPrimary(width, MIDDLE_DBM, pairing, []).speed;
      const named = block.members.every((member) => channels.has(member) || band !== '2.4');
      const free =
        width <= widest &&
        named &&
        channels.has(block.members[primary]!) &&
        (radar || !block.duty.radar) &&
        !block.shortRange;
      return {
        band,
        width,
        block,
        channel: block.members[primary]!,
        cost: quiet > 0 ? 1 - speed / quiet : 1,
        speed,
        free,
      };
    }),
  );
}

/** The one of those that may be taken which brings the most; of equal ones the narrower, then the lower. */
export function cheapest(costs: readonly BlockCost[]): BlockCost | null {
  let best: BlockCost | null = null;
  for (const each of costs) if (each.free && (!best || each.speed > best.speed * 1.001)) best = each;
  return best;
}
