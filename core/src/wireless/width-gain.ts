import type { Band } from '../hardware';
import { signalAt, WIDTHS, type Width } from '../radio';
import { allowedBlock } from '../regulation';
import { bestPrimary, partsMet, strangersOn, type HeardAir } from './others';

/** Where clients stand that are reckoned with: their signal in dBm at the power of today. */
export const STANDS = [
  { name: 'near', signal: -45 },
  { name: 'middle', signal: -60 },
  { name: 'far', signal: -74 },
] as const;

/** What a width would bring a radio's clients, and whom it would be in the way of. */
export interface WidthGain {
  readonly width: Width;
  /** Channels of 20 MHz that it takes. */
  readonly members: readonly number[];
  /** TCP in Mb/s by client, in the order they were given; behind those near, middle and far. */
  readonly speeds: readonly number[];
  /** APs of ours that would share the air with it then. */
  readonly ours: readonly string[];
  /** Strangers that would. */
  readonly strangers: number;
}

/** A radio of which it is asked. */
export interface WidthAsked {
  readonly country: string;
  readonly band: Band;
  readonly channel: number;
  /** Width it has now, in MHz: signals are those of it. */
  readonly now: Width;
  readonly most: Width;
  readonly streams: number;
  /** Clients that it has: signal in dBm, and the streams they do. */
  readonly clients: readonly { readonly signal: number; readonly streams: number }[];
  /** APs of ours that it hears at −82 dBm or more, and where they send. */
  readonly near: readonly { readonly name: string; readonly centre: number; readonly width: number }[];
}

/** Speeds at each width around a channel. With the same power of the whole the signal over the noise falls as the width grows. */
export function widthGains(asked: WidthAsked, air: HeardAir, isOurs: (bssid: string) => boolean): WidthGain[] {
  const { country, band, channel, now, most, streams, clients, near } = asked;
  const whom = [...STANDS.map(({ signal }) => ({ signal, streams: 2 })), ...clients];
  return WIDTHS.filter((width) => width <= most).flatMap((width): WidthGain[] => {
    const block = allowedBlock(country, band, channel, width);
    if (!block) return [];
    const others = strangersOn(band, block, air, isOurs);
    const speeds = whom.map((client) => {
      const maxNss = Math.min(streams, client.streams);
      return bestPrimary(width, signalAt(client.signal, now, width, 'power'), { phy: 'HE', maxNss, band }, others)
        .speed;
    });
    return [
      {
        width,
        members: block.members,
        speeds,
        ours: near.filter((each) => partsMet(band, block, each).length > 0).map(({ name }) => name),
        strangers: air.networks.filter(
          (each) => each.band === band && !isOurs(each.bssid) && partsMet(band, block, each).length > 0,
        ).length,
      },
    ];
  });
}
