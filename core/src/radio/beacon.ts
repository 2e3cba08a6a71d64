import type { Band } from '../hardware';

/** A rate of the oldest frames, in Mb/s: those of 802.11b (clauses 15 and 16), then those of clauses 17 and 18. */
export type BasicRate = 1 | 2 | 5.5 | 11 | 6 | 9 | 12 | 18 | 24 | 36 | 48 | 54;

/** Data bits of a symbol by rate (IEEE 802.11-2020 Table 17-4). */
const OFDM_BITS: Readonly<Partial<Record<BasicRate, number>>> = {
  ...{ 6: 24, 9: 36, 12: 48, 18: 72, 24: 96, 36: 144, 48: 192, 54: 216 },
};
const DSSS: readonly BasicRate[] = [1, 2, 5.5, 11];
/** Every rate that beacons may have, the slowest first. */
export const BASIC_RATES: readonly BasicRate[] = [1, 2, 5.5, 6, 9, 11, 12, 18, 24, 36, 48, 54];

/** Least signal in dBm at which a frame is made out, by its rate (IEEE 802.11-2020 Table 17-18; 802.11b as its slowest of OFDM). */
const SENSITIVITY: Readonly<Partial<Record<BasicRate, number>>> = {
  ...{ 9: -81, 12: -79, 18: -77, 24: -74, 36: -70, 48: -66, 54: -65 },
};
/** Least signal in dBm at which every receiver makes out a frame of a rate. */
export const leastForRate = (rate: BasicRate): number => SENSITIVITY[rate] ?? -82;

/** A time unit in microseconds (IEEE 802.11-2020 §3.1). */
const TIME_UNIT = 1024;
/** Usual time from beacon to beacon, in time units. */
export const BEACON_INTERVAL = 100;

/** Rates that beacons may have at a band, the slowest first: those of 802.11b are 2.4 GHz alone's. */
export const basicRatesAt = (band: Band): readonly BasicRate[] =>
  BASIC_RATES.filter((rate) => band === '2.4' || !DSSS.includes(rate));

/**
 * Time of one frame at a rate of old, in microseconds (IEEE 802.11-2020 §15.2, §16.2, §17.4.3, §18.5).
 * @param octets of the frame with its check. @param short whether the preamble is short, where the rate has one.
 * @returns null for a rate that the band does not have. @throws RangeError for no frame, or no rate.
 */
export function beaconMicros(octets: number, rate: number, band: Band, short = false): number | null {
  if (!(octets >= 60 && octets <= 2304)) throw new RangeError(`a beacon has 60 to 2304 octets, not ${octets}`);
  if (!BASIC_RATES.some((each) => each === rate)) throw new RangeError(`beacons are not sent at ${rate} Mb/s`);
  const bits = OFDM_BITS[rate as BasicRate];
  if (bits === undefined) {
    if (band !== '2.4') return null;
    return (short && rate > 1 ? 96 : 192) + Math.ceil((8 * octets) / rate);
  }
  return 20 + 4 * Math.ceil((22 + 8 * octets) / bits) + (band === '2.4' ? 6 : 0);
}

/** Share of the air that beacons take on a channel. */
export interface BeaconShare {
  /** From 0; 1 and more: nothing else gets through. */
  readonly share: number;
  readonly saturated: boolean;
}

/**
 * Share of the air that beacons take.
 * @param micros of one. @param networks that each AP sends. @param aps heard on the channel, itself included.
 * @param access waiting before each, in microseconds. @throws RangeError outside of what the standard knows.
 */
export function beaconShare(
  micros: number,
  networks: number,
  aps: number,
  { interval = BEACON_INTERVAL, access = 0 }: { readonly interval?: number; readonly access?: number } = {},
): BeaconShare {
  if (!(interval >= 1 && interval <= 65_535))
    throw new RangeError(`beacons come every 1 to 65535 units, not ${interval}`);
  if (!(networks >= 1 && networks <= 32)) throw new RangeError(`an AP sends 1 to 32 networks, not ${networks}`);
  const share = (networks * aps * (micros + access)) / (interval * TIME_UNIT);
  return { share, saturated: share >= 1 };
}

/**
 * Octets of the beacon of a network, as a usual AP fills it: header and check (§9.3.3.1), fixed fields, and elements by band (§9.4.2):
 * name, rates, TIM, country, RSN, capabilities and operation of HT, VHT and HE, extended capabilities, load, and parameters of WMM.
 * @param name octets of the SSID. @param rsn whether it has an RSN element: any but an open network.
 */
export function beaconOctets(band: Band, name: number, rsn = true): number {
  const fixed = 24 + 4 + 12;
  const common = 2 + name + 10 + 6 + 14 + (rsn ? 26 : 0) + 12 + 7 + 26 + 60;
  // DS parameters, ERP and the second list of rates are 2.4 GHz alone's; HT is not 6 GHz's, VHT is 5 GHz's.
  const own = { '2.4': 3 + 3 + 6 + 28 + 24, '5': 28 + 24 + 14 + 7, '6': 9 + 5 };
  return fixed + common + own[band];
}
