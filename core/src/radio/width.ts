import type { Band } from '../hardware';
import { bestRate, noiseFloor, NOISE_FIGURE_DB, type BestRate } from './link';
import type { Phy, Width } from './phy';
import { throughput, type Throughput } from './throughput';

/** What a client and its radio can do together. */
export interface Pairing {
  readonly phy: Phy;
  readonly maxNss: number;
  readonly gi?: number;
  readonly band?: Band;
  /** Of the receiver, in dB. */
  readonly noiseFigure?: number;
}

/** What a client is expected to get. */
export interface Expected {
  /** Signal over noise in dB. */
  readonly snr: number;
  /** How frames are sent; null when nothing gets through. */
  readonly best: BestRate | null;
  /** TCP in Mb/s, in the share of the air that others leave. */
  readonly tcp: number;
  /** Microseconds of the air that one lot of frames takes; 0 when nothing gets through. */
  readonly lotUs: number;
}

/** What a client gets at a width. @param signal in dBm, of the whole width. @param busy share of the air that others take. */
export function expectedAt(signal: number, width: Width, busy: number, pairing: Pairing): Expected {
  const { phy, maxNss, gi = 0.8, band = '5', noiseFigure = NOISE_FIGURE_DB } = pairing;
  if (!(busy >= 0 && busy <= 1)) throw new RangeError(`a busy share is from 0 to 1, not ${busy}`);
  const snr = signal - noiseFloor(width, noiseFigure);
  const best = bestRate(snr, { phy, width, maxNss, gi });
  const { tcp, lotUs } = best ? aloneAt(phy, width, gi, best.nss, best.mcs, band) : NOTHING;
  return { snr, best, tcp: tcp * (1 - busy), lotUs };
}

type Alone = Pick<Throughput, 'tcp' | 'lotUs'>;
const NOTHING: Alone = { tcp: 0, lotUs: 0 };
const known = new Map<string, Alone>();
/** Ways to send that are remembered. */
const MOST_KNOWN = 5000;

/** What somebody alone on the air gets, by how frames are sent. */
function aloneAt(phy: Phy, width: Width, gi: number, nss: number, mcs: number, band: Band): Alone {
  const key = `${phy} ${width} ${gi} ${nss} ${mcs} ${band}`;
  let alone = known.get(key);
  if (!alone) {
    alone = throughput({ phy, width, gi, nss, mcs }, { band }) ?? NOTHING;
    if (known.size >= MOST_KNOWN) known.clear();
    known.set(key, alone);
  }
  return alone;
}

/**
 * Signal at another width, in dBm.
 * @param held what the law limits: the power as a whole (it is spread thinner), or the power of each MHz (as for low power indoors at 6 GHz).
 */
export const signalAt = (signal: number, from: Width, to: Width, held: 'power' | 'density'): number =>
  held === 'power' ? signal : signal + 10 * Math.log10(to / from);
