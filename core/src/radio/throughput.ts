import type { Band } from '../hardware';
import { bitsOfSymbol, symbolUs, type Phy, type Sending } from './phy';

/** Times of the medium in microseconds (802.11-2020 §10.23.2, Tables 19-25, 21-28; best effort). */
const [SLOT, AIFSN, CW_MIN] = [9, 3, 15];
const SIFS = { '2.4': 10, '5': 16, '6': 16 } as const;
/** Silence after each frame at 2.4 GHz (signal extension). */
const EXTENSION = { '2.4': 6, '5': 0, '6': 0 } as const;

/** Octets around an IP packet: QoS header, cipher, LLC, its check and the frame's. */
const AROUND = 26 + 8 + 8 + 8 + 4;
const DELIMITER = 4;
/** Octets of IP and TCP with timestamps: what of a packet is no data, and all of an acknowledgement. */
const HEADERS = 52;
const SERVICE_AND_TAIL = 22;
/** Data bits of a symbol at 24 Mb/s, at which acknowledgements of blocks are sent. */
const ACK_BITS = 96;
/** Training symbols by streams. */
const TRAINING = [0, 1, 2, 4, 4, 6, 6, 8, 8];
const MOST_OCTETS: Readonly<Record<Phy, number>> = { HT: 65_535, VHT: 1_048_575, HE: 4_194_303, EHT: 15_523_200 };
/** Longest frame on the air in microseconds: what we reckon with, and what the standard allows. */
const [USUAL_PPDU, MOST_PPDU] = [2528, 5484];

export interface Traffic {
  readonly band?: Band;
  /** Frames that one block acknowledgement takes. */
  readonly window?: number;
  readonly longestPpduUs?: number;
  /** Share of frames that have to be sent again, from 0 to below 1. */
  readonly errors?: number;
  /** Octets of an IP packet. */
  readonly packet?: number;
}

export interface Throughput {
  /** Frames that are sent as one. */
  readonly together: number;
  /** All in Mb/s. */
  readonly phy: number;
  readonly udp: number;
  readonly tcp: number;
  /** Microseconds of the air that one lot of frames takes of TCP, with what comes back for it. */
  readonly lotUs: number;
}

/** Preamble in microseconds. */
function preamble({ phy, nss, gi }: Sending): number {
  const training = TRAINING[nss]!;
  if (phy === 'HT') return 32 + 4 * training;
  if (phy === 'VHT') return 36 + 4 * training;
  const long = gi === 0.8 ? 7.2 : gi === 1.6 ? 8 : 16;
  return (phy === 'HE' ? 36 : 44) + long * training;
}

/**
 * What one saturated sender gets through on a quiet channel: contention, aggregated frames, acknowledgement of blocks; of TCP the
 * acknowledgements come back as one such frame too (802.11-2020 §10.23.2, TXTIME of §19.4.3, §21.4.3 and 802.11ax §27.4.3).
 * @returns null for a way to send that the standard does not have. @throws RangeError outside of what it is known for.
 */
export function throughput(sending: Sending, traffic: Traffic = {}): Throughput | null {
  const { band = '5', window = 256, longestPpduUs = USUAL_PPDU, errors = 0.1, packet = 1500 } = traffic;
  if (!(errors >= 0 && errors < 1)) throw new RangeError(`a share of errors is from 0 to below 1, not ${errors}`);
  if (!(packet > HEADERS && packet <= 2304))
    throw new RangeError(`a packet has ${HEADERS + 1} to 2304 octets, not ${packet}`);
  if (!(window >= 1) || !(longestPpduUs > 0)) throw new RangeError('a window and a frame have a length');
  const bits = bitsOfSymbol(sending);
  if (bits === null) return null;
  const symbol = symbolUs(sending);
  const before = preamble(sending);
  const data = (octets: number, frames: number): number =>
    before + Math.ceil((SERVICE_AND_TAIL + 8 * frames * framed(octets)) / bits - 1e-9) * symbol;
  const ackOctets = window <= 64 ? 32 : window <= 256 ? 56 : 152;
  const ack = 20 + 4 * Math.ceil((SERVICE_AND_TAIL + 8 * ackOctets) / ACK_BITS);
  const cycle = (octets: number, frames: number): number =>
    SIFS[band] +
    (AIFSN + CW_MIN / 2) * SLOT +
    data(octets, frames) +
    EXTENSION[band] +
    SIFS[band] +
    ack +
    EXTENSION[band];
  const longest = Math.min(longestPpduUs, MOST_PPDU);
  let together = Math.min(Math.floor(window), Math.floor(MOST_OCTETS[sending.phy] / framed(packet)));
  const symbols = Math.floor((longest - before) / symbol + 1e-9);
  together = Math.min(together, Math.floor((symbols * bits - SERVICE_AND_TAIL) / (8 * framed(packet)) + 1e-9));
  together = Math.max(1, together);
  const carried = together * (1 - errors) * 8;
  const lotUs = cycle(packet, together) + cycle(HEADERS, Math.ceil(together / 2));
  return {
    ...{ together, phy: bits / symbol, lotUs },
    udp: (carried * packet) / cycle(packet, together),
    tcp: (carried * (packet - HEADERS)) / lotUs,
  };
}

/** Octets of a packet with all that is put around it, in a frame of many. */
const framed = (octets: number): number => DELIMITER + 4 * Math.ceil((octets + AROUND) / 4);
