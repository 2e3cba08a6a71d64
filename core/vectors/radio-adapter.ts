import type { Band } from '../src/hardware';
import {
  allBest,
  beaconMicros,
  beaconShare,
  bestPlan,
  bestRate,
  blocksAround,
  busyOfLoad,
  centreMhzOf,
  contention,
  costOf,
  decibels,
  eirpWithin,
  expectedAt,
  FIRST_LOOKED_AT,
  GENERATIONS,
  leastOfClique,
  leastSignal,
  maskLeak,
  noiseFloor,
  overlapOf,
  phyRate,
  searchPlan,
  sharesOf,
  signalAt,
  signalOfIndicator,
  throughput,
  widthShares,
  worthMoving,
  type ChannelProblem,
  type Phy,
  type Width,
} from '../src/radio';
import { legalBlocks, radarDuty, RADIO_DOMAINS, type RadioDomain } from '../src/regulation';
import { MORE } from './vector-file';

/** Lets a function say what its vectors hold; the file's reader knows nothing of it. */
const on = <Input>(call: (input: Input) => unknown): ((input: never) => unknown) => call;

interface SendingIn {
  phy: Phy;
  width_mhz: Width;
  nss: number;
  mcs: number;
  gi_us: number;
}

/** Every rate that a generation has, as the vectors list them. */
function rateTable({ phy }: { phy: Phy }) {
  const { tones, nss, mcs, gis } = GENERATIONS[phy];
  const rows: (number | null)[][] = [];
  for (const width of Object.keys(tones).map(Number))
    for (let streams = 1; streams <= nss; streams++)
      for (const m of mcs)
        for (const gi of gis)
          rows.push([width, streams, m, gi, phyRate({ phy, width: width as Width, nss: streams, mcs: m, gi })]);
  return { rows };
}

function widthCompare(i: {
  phy: Phy;
  gi_us: number;
  rssi40_dbm: number;
  nf_db: number;
  max_nss: number;
  busy40: number;
  busy80: number;
  power_model: 'equal_eirp' | 'equal_psd';
}) {
  const pairing = { phy: i.phy, gi: i.gi_us, maxNss: i.max_nss, noiseFigure: i.nf_db };
  const held = i.power_model === 'equal_psd' ? 'density' : 'power';
  const at = (width: 40 | 80, busy: number) =>
    expectedAt(signalAt(i.rssi40_dbm, 40, width, held), width, busy, pairing);
  const [narrow, wide] = [at(40, i.busy40), at(80, i.busy80)];
  const said = ({ snr, best, tcp }: typeof narrow) => ({
    snr_db: snr,
    nss: best?.nss ?? null,
    mcs: best?.mcs ?? null,
    phy_mbps: best?.rate ?? null,
    tcp_mbps: tcp,
  });
  return { 40: said(narrow), 80: said(wide), ratio_tcp: narrow.tcp === 0 ? null : wide.tcp / narrow.tcp };
}

/** Channels alike for all: what two share is all or nothing, or goes by how far apart they are. */
function optimum(weights: number[][], channels: number, byDistance: readonly number[]) {
  const all = Array.from({ length: channels }, (_, c) => c);
  const shares = all.map((a) => all.map((b) => byDistance[Math.abs(a - b)] ?? 0));
  const problem: ChannelProblem = { weights, shares };
  const best = bestPlan(problem);
  if (!best) return { cost: searchPlan(problem, { rounds: 400 }).cost };
  const { count, first } = allBest(problem, best.cost);
  return { cost: costOf(problem, best.assignment), [MORE]: { optimal_count: count, lexmin_assignment: first } };
}

const domainOf = (code: string): RadioDomain => {
  const known = { CA: 'ISED', Canada: 'ISED', US: 'FCC', EU: 'ETSI', Japan: 'JP' } as Readonly<Record<string, string>>;
  const domain = RADIO_DOMAINS.find((each) => each.code === (known[code] ?? code));
  if (!domain) throw new Error(`no body of rules ${code}`);
  return domain;
};

/** Channels of a body of rules, without those that are open to any short range device. */
function channelSet({ domain, band, width }: { domain: string; band: Band; width: Width }) {
  const { code, rules } = domainOf(domain);
  const centres = legalBlocks({ code, rules: rules.filter((rule) => !rule.shortRange) }, band, width).map(
    ({ centre }) => centre,
  );
  return width === 20 ? { channels: centres } : { centers: centres };
}

/** Test vector name → our function, of the radio. */
export const RADIO_ADAPTER: Readonly<Record<string, (input: never) => unknown>> = {
  'phy.rate_table': on(rateTable),
  'phy.rate': on((i: SendingIn & { dcm: boolean; ru_tones: number | null }) => ({
    rate_mbps: phyRate({ ...sending(i), dcm: i.dcm, ruTones: i.ru_tones }),
  })),
  'rf.noise_floor': on((i: { width_mhz: number; nf_db: number }) => ({ dbm: noiseFloor(i.width_mhz, i.nf_db) })),
  'phy.min_sensitivity': on((i: { mcs: number }) => ({ dbm: leastSignal(i.mcs) })),
  'rf.best_rate': on(
    (i: { snr_db: number; phy: Phy; width_mhz: Width; max_nss: number; gi_us: number; margin_db: number }) => {
      const ability = { phy: i.phy, width: i.width_mhz, maxNss: i.max_nss, gi: i.gi_us, margin: i.margin_db };
      const best = bestRate(i.snr_db, ability);
      return {
        best: best && { nss: best.nss, mcs: best.mcs, rate_mbps: best.rate, snr_req_db: best.requiredSnr },
      };
    },
  ),
  'mac.throughput': on((i: SendingIn & { band: Band; ba_window: number; ppdu_max_us: number; per: number }) => {
    const traffic = { band: i.band, window: i.ba_window, longestPpduUs: i.ppdu_max_us, errors: i.per };
    const got = throughput(sending(i), traffic);
    if (!got) return { n_mpdu: null, phy_mbps: null, udp_mbps: null, tcp_mbps: null, tcp_over_phy: null };
    const { together, phy, udp, tcp } = got;
    return { n_mpdu: together, phy_mbps: phy, udp_mbps: udp, tcp_mbps: tcp, tcp_over_phy: tcp / phy };
  }),
  'mac.width_compare': on(widthCompare),
  'mac.bonding_prob': on((i: { busy20: number[]; primary: number; correlation: 'independent' | 'same' }) => {
    const shares = widthShares(i.busy20, i.primary, i.correlation === 'same');
    return { p20: shares[20], p40: shares[40], p80: shares[80], p_defer: shares.deferred };
  }),
  'mac.dcf_share': on((i: { txop_ms: number[] }) => ({ share: sharesOf(i.txop_ms) })),
  'mac.bianchi': on((i: { n: number; W: number; m: number }) => {
    const { starts, collides } = contention(i.n, i.W, i.m);
    return { tau: starts, p_collision: collides };
  }),
  'mac.bss_load': on((i: { channel_utilization_octet: number }) => ({
    fraction: busyOfLoad(i.channel_utilization_octet),
  })),
  'mac.rcpi': on((i: { rcpi: number }) => ({ dbm: signalOfIndicator(i.rcpi) })),
  'chan.center_mhz': on((i: { band: Band; channel: number }) => ({ mhz: centreMhzOf(i.band, i.channel) })),
  'chan.bonds_of': on((i: { band: Band; primary: number }) =>
    Object.fromEntries(
      Object.entries(blocksAround(i.band, i.primary)).map(([width, blocks]) => [
        width,
        blocks.map(({ centre, centreMhz, members }) => ({ center: centre, center_mhz: centreMhz, members })),
      ]),
    ),
  ),
  'chan.dfs': on((i: { domain: string; center: number; width_mhz: number }) => {
    const duty = radarDuty(domainOf(i.domain).code, centreMhzOf('5', i.center), i.width_mhz);
    return { dfs: duty.radar, cac_s: duty.listenSeconds, nop_s: duty.restSeconds };
  }),
  'chan.overlap_rect': on((i: { tx_mhz: number; tx_width: number; rx_mhz: number; rx_width: number }) => ({
    fraction_of_tx: overlapOf({ centreMhz: i.tx_mhz, width: i.tx_width }, { centreMhz: i.rx_mhz, width: i.rx_width }),
  })),
  'chan.mask_leak': on((i: { offset_channels: number; rx_half_width_mhz: number }) => {
    const fraction = maskLeak(5 * i.offset_channels, i.rx_half_width_mhz);
    return { fraction, db: decibels(fraction) };
  }),
  'chan.eirp_limit': on((i: { psd_dbm_mhz: number; eirp_cap_dbm: number; width_mhz: number }) => ({
    eirp_dbm: eirpWithin(i.psd_dbm_mhz, i.eirp_cap_dbm, i.width_mhz),
  })),
  'chan.set': on(channelSet),
  'chan.psc': on(() => ({ channels: FIRST_LOOKED_AT })),
  'beacon.time_us': on((i: { bytes: number; rate_mbps: number; band: Band; short_preamble: boolean }) => ({
    us: beaconMicros(i.bytes, i.rate_mbps, i.band, i.short_preamble),
  })),
  'beacon.overhead_pct': on(beaconOverhead),
  'plan.clique_lower_bound': on((i: { aps: number; channels: number; weight: number }) => ({
    cost: leastOfClique(i.aps, i.channels, i.weight),
  })),
  'plan.optimum': on((i: { weights: number[][]; channels: number }) => optimum(i.weights, i.channels, [1])),
  'plan.optimum_partial': on((i: { weights: number[][]; channels: number; rho_by_distance: number[] }) =>
    optimum(i.weights, i.channels, i.rho_by_distance),
  ),
  'plan.should_switch': on(
    (i: {
      current_cost: number;
      new_cost: number;
      aps_changed: number;
      switch_cost: number;
      min_gain_frac: number;
    }) => ({
      switch: worthMoving(i.current_cost, i.new_cost, i.aps_changed, i.switch_cost, i.min_gain_frac),
    }),
  ),
};

function beaconOverhead(i: {
  bytes: number;
  rate_mbps: number;
  band: Band;
  bss_per_ap: number;
  cochannel_aps: number;
  interval_tu: number;
  access_us: number;
}) {
  const micros = beaconMicros(i.bytes, i.rate_mbps, i.band);
  if (micros === null) return { pct: null, saturated: null };
  const setting = { interval: i.interval_tu, access: i.access_us };
  const { share, saturated } = beaconShare(micros, i.bss_per_ap, i.cochannel_aps, setting);
  return { pct: 100 * share, saturated };
}

const sending = (i: SendingIn) => ({ phy: i.phy, width: i.width_mhz, nss: i.nss, mcs: i.mcs, gi: i.gi_us });
