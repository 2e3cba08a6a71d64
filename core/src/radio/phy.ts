/** A generation of the radio's frames: IEEE 802.11-2020 clause 19 (HT) and 21 (VHT), 802.11ax-2021 clause 27 (HE), 802.11be-2024 clause 36 (EHT). */
export type Phy = 'HT' | 'VHT' | 'HE' | 'EHT';
/** Width of a channel in MHz. */
export type Width = 20 | 40 | 80 | 160 | 320;
export const WIDTHS: readonly Width[] = [20, 40, 80, 160, 320];

/** How frames are sent at one moment. */
export interface Sending {
  readonly phy: Phy;
  readonly width: Width;
  /** Spatial streams. */
  readonly nss: number;
  /** Modulation and coding of each stream; of HT also its index over all streams, 0 to 31. */
  readonly mcs: number;
  /** Guard interval in microseconds. */
  readonly gi: number;
  /** Each tone sent twice (dual carrier modulation). */
  readonly dcm?: boolean;
  /** Tones of a resource unit that is not the whole channel; 26, 52, 106, 242, … and their unions. */
  readonly ruTones?: number | null;
}

interface Generation {
  /** Length of a symbol without its guard interval, in microseconds. */
  readonly dft: number;
  readonly gis: readonly number[];
  /** Data tones by width. */
  readonly tones: Readonly<Partial<Record<Width, number>>>;
  readonly mcs: readonly number[];
  readonly nss: number;
}

const upTo = (last: number): number[] => Array.from({ length: last + 1 }, (_, i) => i);
const WIDE = { 20: 234, 40: 468, 80: 980, 160: 1960 } as const;
export const GENERATIONS: Readonly<Record<Phy, Generation>> = {
  HT: { dft: 3.2, gis: [0.8, 0.4], tones: { 20: 52, 40: 108 }, mcs: upTo(7), nss: 4 },
  VHT: { dft: 3.2, gis: [0.8, 0.4], tones: { 20: 52, 40: 108, 80: 234, 160: 468 }, mcs: upTo(9), nss: 8 },
  HE: { dft: 12.8, gis: [0.8, 1.6, 3.2], tones: WIDE, mcs: upTo(11), nss: 8 },
  EHT: { dft: 12.8, gis: [0.8, 1.6, 3.2], tones: { ...WIDE, 320: 3920 }, mcs: [...upTo(13), 15], nss: 8 },
};

/** Bits of a tone, and how many of them carry data (numerator and denominator), by MCS. */
const CODING: readonly (readonly [bits: number, of: number, rate: number])[] = [
  ...([
    [1, 1, 2],
    [2, 1, 2],
    [2, 3, 4],
    [4, 1, 2],
    [4, 3, 4],
    [6, 2, 3],
    [6, 3, 4],
  ] as const),
  ...([
    [6, 5, 6],
    [8, 3, 4],
    [8, 5, 6],
    [10, 3, 4],
    [10, 5, 6],
    [12, 3, 4],
    [12, 5, 6],
  ] as const),
];
/** BPSK, each tone twice: EHT MCS 15. */
const TWICE = 15;

/** Data tones of resource units by all their tones: 802.11ax Table 27-… and their unions in 802.11be. */
const HE_UNITS: Readonly<Record<number, number>> = {
  26: 24,
  52: 48,
  106: 102,
  242: 234,
  484: 468,
  996: 980,
  1992: 1960,
};
const EHT_UNITS: Readonly<Record<number, number>> = {
  ...HE_UNITS,
  ...{ 78: 72, 132: 126, 726: 702, 1480: 1448, 1722: 1682, 2476: 2428, 2988: 2940, 3472: 3408, 3984: 3920 },
};

/** VHT combinations whose bits are parted among more encoders than their rate alone asks for (802.11-2020 §21.5). */
const MORE_ENCODERS = new Set(['80 7 7', '80 7 8', '160 5 8', '160 7 7', '160 7 8', '160 7 9']);
/** Data bits of a symbol that one encoder takes. */
const BITS_OF_ENCODER = 2160;

/** Whether a VHT combination exists: coded and data bits must part evenly among its encoders (802.11-2020 §21.5). */
function exists({ width, nss }: Sending, mcs: number, tones: number): boolean {
  const [bits, of, rate] = CODING[mcs]!;
  const coded = tones * bits * nss;
  const data = (coded * of) / rate;
  const fits = (encoders: number): boolean =>
    Number.isInteger(data / encoders) && Number.isInteger(coded / encoders) && (coded / encoders) % rate === 0;
  const encoders = Math.ceil(data / BITS_OF_ENCODER);
  if (!MORE_ENCODERS.has(`${width} ${nss} ${mcs}`)) return fits(encoders);
  return [1, 2, 3].some((more) => fits(encoders + more));
}

/** MCS of each stream; null where an index over all streams is of other streams. */
function ofStream({ phy, mcs, nss }: Sending): number | null {
  if (phy !== 'HT' || mcs <= 7) return mcs;
  return Math.floor(mcs / 8) + 1 === nss ? mcs % 8 : null;
}

/** Data bits of a symbol; null for what the standard does not have. May be a fraction. */
export function bitsOfSymbol(sending: Sending): number | null {
  const { phy, width, nss, gi, dcm = false, ruTones = null } = sending;
  const generation = GENERATIONS[phy];
  const mcs = ofStream(sending);
  if (mcs === null || !generation.mcs.includes(mcs) || !generation.gis.includes(gi)) return null;
  if (!Number.isInteger(nss) || nss < 1 || nss > generation.nss) return null;
  const units = phy === 'HE' ? HE_UNITS : phy === 'EHT' ? EHT_UNITS : {};
  const tones = ruTones === null ? generation.tones[width] : units[ruTones];
  if (tones === undefined) return null;
  if (phy === 'EHT' && mcs === TWICE) return nss === 1 ? (tones * 1) / 2 / 2 : null;
  if (dcm && (phy !== 'HE' || nss > 2 || ![0, 1, 3, 4].includes(mcs))) return null;
  if (phy === 'VHT' && !exists(sending, mcs, tones)) return null;
  const [bits, of, rate] = CODING[mcs]!;
  return (tones * bits * of * nss) / rate / (dcm ? 2 : 1);
}

/** Length of a symbol in microseconds. */
export const symbolUs = ({ phy, gi }: Pick<Sending, 'phy' | 'gi'>): number => GENERATIONS[phy].dft + gi;

/** Rate on the air in Mb/s, unrounded (802.11-2020 §19.5, §21.5; 802.11ax §27.5; 802.11be §36.5); null for what the standard does not have. */
export function phyRate(sending: Sending): number | null {
  const bits = bitsOfSymbol(sending);
  return bits === null ? null : bits / symbolUs(sending);
}
