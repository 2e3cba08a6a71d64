import { parseIp } from '../src/address';
import {
  blockedShare,
  effectiveImpairment,
  expectedShares,
  fromSamples,
  jitters,
  noticedAfter,
  opinionOf,
  PathChoice,
  pickUplink,
  plainDelayImpairment,
  ratingOf,
  smoothTrips,
  smoothTurns,
  waitingShare,
  watchingCost,
  wronglyGoneEvery,
  type Flow,
  type SharingUplink,
} from '../src/paths';

const on = <Input>(call: (input: Input) => unknown): ((input: never) => unknown) => call;

interface SaidFlow {
  readonly proto: number;
  readonly src: string;
  readonly dst: string;
  readonly sport: number;
  readonly dport: number;
}
const flowOf = ({ proto, src, dst, sport, dport }: SaidFlow): Flow => ({
  ...{ protocol: proto, source: parseIp(src)!, destination: parseIp(dst)! },
  ...{ sourcePort: sport, port: dport },
});
/** The flows that vectors speak of in words. */
const manyFlows = (): Flow[] =>
  Array.from({ length: 10_000 }, (_, i) =>
    flowOf({
      ...{ proto: 6, src: `10.0.${(i >> 8) & 255}.${i & 255}`, dst: `198.51.100.${i % 251}` },
      ...{ sport: 1024 + ((i * 7919) % 60_000), dport: 443 },
    }),
  );

type Window = Readonly<Record<string, { loss_pct: number; latency_ms: number; jitter_ms: number } | null>>;

/** Functions of uplinks and paths, by the names of their vectors. */
export const PATHS_ADAPTER = {
  'wan.flow_pick': on((i: { flow: SaidFlow; uplinks: readonly SharingUplink[] }) => {
    const picked = pickUplink(flowOf(i.flow), i.uplinks);
    return { uplink: picked?.id ?? null, score: picked?.score ?? null };
  }),
  'wan.flow_histogram': on((i: { uplinks: readonly SharingUplink[] }) => {
    const counts: Record<string, number> = Object.fromEntries(i.uplinks.map(({ id }) => [`${id}`, 0]));
    for (const flow of manyFlows()) {
      const id = pickUplink(flow, i.uplinks)?.id;
      if (id !== undefined) counts[`${id}`]!++;
    }
    return { counts };
  }),
  'wan.failover_moved': on((i: { uplinks: readonly SharingUplink[]; down: number }) => {
    const after = i.uplinks.map((each) => (each.id === i.down ? { ...each, down: true } : each));
    const moves = manyFlows().flatMap((flow) => {
      const [from, to] = [i.uplinks, after].map((uplinks) => pickUplink(flow, uplinks)?.id);
      return from === to ? [] : [from];
    });
    return { moved: moves.length, moved_wrongly: moves.filter((from) => from !== i.down).length };
  }),
  'wan.smooth_wrr': on((i: { weights: number[]; n: number }) => ({ sequence: smoothTurns(i.weights, i.n) })),
  'wan.expected_share': on((i: { weights: number[]; flows: number }) => {
    const shares = expectedShares(i.weights, i.flows);
    return { mean: shares.map(({ mean }) => mean), sigma: shares.map(({ sigma }) => sigma) };
  }),
  'wan.detect_time': on((i: { interval_s: number; fail_count: number; timeout_s: number }) => {
    const { best, mean, worst } = noticedAfter({ interval: i.interval_s, losses: i.fail_count, timeout: i.timeout_s });
    return { best_s: best, mean_s: mean, worst_s: worst };
  }),
  'wan.false_trip': on((i: { probe_loss: number; fail_count: number; interval_s: number }) => ({
    mean_time_between_s: wronglyGoneEvery({ interval: i.interval_s, losses: i.fail_count }, i.probe_loss),
  })),
  'wan.probe_cost': on((i: { interval_s: number; bytes_per_exchange: number; targets: number }) => {
    const { bitsASecond, megabytesAMonth } = watchingCost(i.interval_s, i.targets, i.bytes_per_exchange);
    return { bits_per_s: bitsASecond, MB_per_30d: megabytesAMonth };
  }),
  'wan.sla_select': on(
    (i: {
      paths: string[];
      threshold: { loss_pct?: number; latency_ms?: number; jitter_ms?: number };
      recover_margin: number;
      n_bad: number;
      n_good: number;
      windows: Window[];
    }) => {
      const { loss_pct: loss, latency_ms: latency, jitter_ms: jitter } = i.threshold;
      const needs = {
        ...(loss === undefined ? {} : { loss }),
        ...(latency === undefined ? {} : { latency }),
        ...(jitter === undefined ? {} : { jitter }),
      };
      const choice = new PathChoice(i.paths.length, needs, { bad: i.n_bad, good: i.n_good, margin: i.recover_margin });
      const selected = i.windows.map((window) => {
        const at = choice.next(
          i.paths.map((path) => {
            const of = window[path] ?? null;
            return of && { loss: of.loss_pct, latency: of.latency_ms, jitter: of.jitter_ms };
          }),
        );
        return at === null ? null : i.paths[at]!;
      });
      return { selected };
    },
  ),
  'wan.mos': on((i: { one_way_ms: number; loss_pct: number; ie: number; bpl: number; burst_r: number }) => {
    const codec = { impairment: i.ie, robustness: i.bpl };
    const path = { delay: i.one_way_ms, loss: i.loss_pct, burst: i.burst_r };
    const [plain, full] = [ratingOf(codec, path, plainDelayImpairment), ratingOf(codec, path)];
    return {
      ...{ ie_eff: effectiveImpairment(codec, path), R_simple: plain, mos_simple: opinionOf(plain) },
      ...{ R_g107: full, mos_g107: opinionOf(full) },
    };
  }),
  'wan.r_to_mos': on((i: { R: number }) => ({ mos: opinionOf(i.R) })),
  'wan.erlang_b': on((i: { erlangs: number; channels: number }) => ({
    blocking: blockedShare(i.erlangs, i.channels),
  })),
  'wan.erlang_c': on((i: { erlangs: number; servers: number }) => ({ p_wait: waitingShare(i.erlangs, i.servers) })),
  'wan.rfc3550_jitter': on((i: { transit_delta_ms: number[] }) => ({ jitter_ms: jitters(i.transit_delta_ms) })),
  'wan.rfc6298_rtt': on((i: { samples_ms: number[] }) => ({
    srtt_rttvar: smoothTrips(i.samples_ms).map(({ smooth, varies }) => [smooth, varies]),
  })),
  'wan.sflow_estimate': on((i: { sampling_n: number; samples: number; sample_bytes: number }) => {
    const { packets, octets, error } = fromSamples(i.sampling_n, i.samples, i.sample_bytes);
    return { packets, bytes: octets, err95_pct: error };
  }),
};
