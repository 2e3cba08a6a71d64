import { isSsidLength, keyKind, keyName, pairwiseKey } from '../src/wireless';
import {
  categoryOf,
  groupShares,
  maxMin,
  mostOctets,
  octetOfMark,
  PATIENCE,
  plainPriorityOf,
  priorityOf,
  readMark,
  singleRateColours,
  tokenBucket,
  twoRateColours,
  waitsOf,
  type Category,
  type Packet,
} from '../src/traffic';

/** Lets a function say what its vectors hold; the file's reader knows nothing of it. */
const on = <Input>(call: (input: Input) => unknown): ((input: never) => unknown) => call;

/** A category of the air as vectors name it. */
const named = (category: Category): string => `AC_${category}`;

/** Functions of limits and shares, of marks, and of keys, by the names of their vectors. */
export const TRAFFIC_ADAPTER = {
  'psk.pmk': on((i: { passphrase: string; ssid_hex: string }) => ({
    pmk: pairwiseKey(i.passphrase, octets(i.ssid_hex)),
  })),
  'psk.validate': on((i: { text: string }) => {
    const kind = keyKind(i.text);
    return { valid: kind !== null, kind: kind === 'key' ? 'hex' : kind };
  }),
  'psk.ssid_valid': on((i: { ssid_bytes: number }) => ({ valid: isSsidLength(i.ssid_bytes) })),
  'psk.pmkid': on((i: { pmk: string; aa: string; spa: string }) => ({ pmkid: keyName(i.pmk, i.aa, i.spa) })),
  'qos.dscp_value': on((i: { name: string }) => {
    const dscp = readMark(i.name);
    return { dscp, tos_byte: dscp === null ? null : octetOfMark(dscp) };
  }),
  'qos.downstream': on((i: { dscp: number }) => {
    const [up, plain] = [priorityOf(i.dscp), plainPriorityOf(i.dscp)];
    return { up, ac: named(categoryOf(up)), naive_up_3msb: plain, naive_ac: named(categoryOf(plain)) };
  }),
  'qos.up_to_ac': on((i: { up: number }) => ({ ac: named(categoryOf(i.up)) })),
  'qos.edca_defaults': on((i: { ac: string; sifs_us: number; slot_us: number }) => {
    const category = i.ac.slice('AC_'.length) as Category;
    const { aifsn, least, greatest } = PATIENCE[category];
    const { gap, mean } = waitsOf(category, i.sifs_us, i.slot_us);
    return { aifsn, cwmin: least, cwmax: greatest, aifs_us: gap, mean_first_backoff_us: mean };
  }),
  'rate.token_bucket': on((i: { rate_bps: number; burst_bytes: number; packets_us_bytes: Packet[] }) => {
    const { passed, left } = tokenBucket(i.rate_bps, i.burst_bytes, i.packets_us_bytes);
    return { pass: passed, tokens_end_bytes: left };
  }),
  'rate.max_bytes': on((i: { rate_bps: number; burst_bytes: number; window_s: number }) => ({
    bytes: mostOctets(i.rate_bps, i.burst_bytes, i.window_s),
  })),
  'rate.srtcm_blind': on((i: { cir_Bps: number; cbs: number; ebs: number; packets_us_bytes: Packet[] }) => ({
    colors: singleRateColours(i.cir_Bps, i.cbs, i.ebs, i.packets_us_bytes),
  })),
  'rate.trtcm_blind': on(
    (i: { cir_Bps: number; cbs: number; pir_Bps: number; pbs: number; packets_us_bytes: Packet[] }) => ({
      colors: twoRateColours(i.cir_Bps, i.cbs, i.pir_Bps, i.pbs, i.packets_us_bytes),
    }),
  ),
  'rate.max_min': on((i: { capacity: number; demand: number[]; weight: number[] | null }) => ({
    share: maxMin(i.capacity, i.demand, i.weight),
  })),
  'rate.hierarchical': on(
    (i: {
      capacity: number;
      groups: { cap: number | null; client_cap: number | null; demand: number[]; weight?: number }[];
    }) => ({
      share: groupShares(
        i.capacity,
        i.groups.map(({ cap, client_cap: clientCap, demand: demands, weight = 1 }) => {
          return { cap: cap ?? Infinity, clientCap: clientCap ?? Infinity, demands, weight };
        }),
      ),
    }),
  ),
};

const octets = (hex: string): Uint8Array => Uint8Array.from(hex.match(/../g) ?? [], (pair) => parseInt(pair, 16));
