import type { Band } from '../../hardware';
import type { BasicRate, Width } from '../../radio';

/** What a site says of a band, for all its radios. */
export interface BandFields {
  readonly on: boolean;
  /** Widest channel in MHz. */
  readonly width: Width;
  /** Channels of 20 MHz that radios may take by themselves, or that a plan may give them; `legal`: every one that is, but for those of short range devices. */
  readonly channels: 'legal' | readonly number[];
  /** Whether channels that are shared with radar may be used (DFS). */
  readonly radar: boolean;
  /** Least EIRP in dBm that a plan may give a radio. */
  readonly least: number;
  /** Most EIRP in dBm; null: as much as the law and the radio allow. */
  readonly most: number | null;
  /** Channel of 20 MHz that is taken when radar is heard; null: the first that owes nothing to radar. */
  readonly refuge: number | null;
  /** Slowest rate in Mb/s: beacons go out at it, and who is not heard at it is not taken in. */
  readonly slowest: BasicRate;
}

/** What is kept of it: what differs from the usual. */
export type BandEntry = Partial<BandFields>;

/** What is said of one radio. */
export interface RadioFields {
  readonly on: boolean;
  /** Primary channel of 20 MHz; null: it takes one by itself. */
  readonly channel: number | null;
  readonly width: Width;
  /** EIRP in dBm; null: the most there is. */
  readonly power: number | null;
  /** Whether plans leave it as it is. */
  readonly fixed: boolean;
}

/** What is kept of it: what differs from the site's band. */
export type RadioEntry = Partial<RadioFields>;

/** Bands of a site, and radios by device id and band. */
export type SiteBands = Readonly<Partial<Record<Band, BandEntry>>>;
export type SiteRadios = Readonly<Record<string, Readonly<Partial<Record<Band, RadioEntry>>>>>;

const band = (more: Partial<BandFields> & Pick<BandFields, 'width'>): BandFields => ({
  on: true,
  slowest: 6,
  channels: 'legal',
  radar: false,
  least: 8,
  most: null,
  refuge: null,
  ...more,
});

/**
 * How a band is when nobody says otherwise. At 2.4 GHz 20 MHz: of 40 only one would fit beside others, and everything that
 * is near shares the air with it; 1, 6 and 11 are what three radios can use side by side (802.11-2020 §17.3.9.3).
 */
export const USUAL_BANDS: Readonly<Record<Band, BandFields>> = {
  '2.4': band({ width: 20, channels: [1, 6, 11], slowest: 1 }),
  '5': band({ width: 40 }),
  '6': band({ width: 80 }),
};

/** Least EIRP in dBm that a radio is set to. */
export const LEAST_POWER = 1;
