import type { Band, SheetRadio } from '../hardware';
import type { BandFields } from '../intent';
import {
  costOf,
  lowerBound,
  maskLeak,
  predictedSpeed,
  searchPlan,
  WIDTHS,
  type ChannelProblem,
  type Other,
  type Width,
} from '../radio';
import { allowedBlocks, type LegalBlock } from '../regulation';
import type { MeasuredLoss } from './hearing';
import { bestPrimary, partsMet, strangersOn, type HeardAir } from './others';

/** Where a radio sends, and how strong, in dBm EIRP. */
export interface Tuned {
  readonly channel: number;
  readonly width: Width;
  readonly power: number;
}

/** A radio that a plan reckons with. */
export interface PlanRadio {
  readonly deviceId: string;
  readonly name: string;
  readonly sheet: SheetRadio;
  /** Whether it sends at all. */
  readonly on: boolean;
  /** Where it sends now; null: nowhere. */
  readonly now: Tuned | null;
  /** Whether it is to stay where it is: fixed, or not chosen. */
  readonly stays: boolean;
  /** Power that was said of it; null: the plan says. */
  readonly power: number | null;
  /** Signals of its clients in dBm. */
  readonly clients: readonly number[];
  /** What it heard; null: it was never asked. */
  readonly heard: HeardAir | null;
}

/** All that the plan of a band is worked out of. */
export interface BandPlanInput {
  readonly band: Band;
  readonly country: string;
  readonly policy: BandFields;
  readonly radios: readonly PlanRadio[];
  readonly losses: readonly MeasuredLoss[];
  /** Our networks, by their BSSID. */
  readonly ours: readonly string[];
  readonly seed?: number;
}

/** What a plan would have a radio do. */
export interface PlannedRadio {
  readonly deviceId: string;
  readonly name: string;
  readonly band: Band;
  readonly before: Tuned | null;
  readonly after: Tuned;
  /** TCP in Mb/s that a client in the middle of its own would get, in a busy hour. */
  readonly speedBefore: number;
  readonly speedAfter: number;
  readonly clients: number;
  /** Whether it is moved to another channel or width: its clients have to join again. */
  readonly moves: boolean;
  /** Whether listening for radar comes before it. */
  readonly listens: number;
}

/** A plan for the radios of a band. */
export interface BandPlan {
  readonly band: Band;
  readonly width: Width;
  readonly radios: readonly PlannedRadio[];
  /** How much radios of ours are in each other's way: the sum over pairs, each from 0 to 1; before and after. */
  readonly wayBefore: number;
  readonly wayAfter: number;
  /** What the plan costs, strangers, moves and radar included, and what no plan could go below. */
  readonly cost: number;
  readonly bound: number;
  /** APs that never scanned: what they hear is not known. */
  readonly unmeasured: readonly string[];
}

/** What moving a radio costs: few are moved where it brings little. */
const MOVE = 0.05;
/** What listening for radar, and having to leave, costs. */
const RADAR = 0.1;
/** Signal in dBm below which one AP is no burden for another, and over which range that grows to the whole. */
const [HEARD, RANGE] = [-92, 30];
/** Signal at which another of ours is waited for. */
const WAITS = -82;
/** Share of the air that a radio with as many clients as any takes in a busy hour. */
const BUSY_HOUR = 0.35;
/** What an AP takes that has no client, beside one that has the most. */
const LEAST_LOAD = 0.3;
/** EIRP of a client, and what is lost on the way to one of which nothing is known, in dB. */
const [CLIENT_DBM, USUAL_LOSS] = [15, 75];
/** How loud the third nearest AP is to hear an AP, in dBm: enough for a client between them. */
const OVERLAP_DBM = -68;
/** Rounds of shaking in which a width is tried, beside those of the plan itself. */
const TRIAL_ROUNDS = 4;

/**
 * Channels, width and powers for the radios of a band: width first, by the speed that is expected; then so that they are in each
 * other's way as little as may be, few changed; powers so that neighbours just overlap.
 * @param going told how far it is, from 0 to 1; says whether to go on. Null comes out when it was not to.
 * @returns null where there is nothing to plan: no radio that sends, or nothing that may be used.
 */
export function planBand(input: BandPlanInput, going: (done: number) => boolean = () => true): BandPlan | null {
  const { band, country, policy, losses } = input;
  const radios = input.radios.filter(({ on }) => on);
  const lossOf = lossTable(band, radios, losses);
  const powers = radios.map((radio, i) => powerOf(radio, i, radios, lossOf, policy, maxEirp(country, band, radio)));
  const widths = WIDTHS.filter((width) => width <= policy.width && choicesOf(country, band, policy, width).length > 0);
  if (radios.length === 0 || widths.length === 0) return null;
  const tried: { readonly width: Width; readonly score: number }[] = [];
  for (const [n, width] of widths.entries()) {
    const made = problemAt(input, radios, width, powers, lossOf);
    if (!made) continue;
    const rounds = radios.length > 40 ? 0 : TRIAL_ROUNDS;
    const { assignment } = searchPlan(made.problem, { seed: input.seed ?? 1, rounds });
    const tuned = assignment.map((choice, i) => tunedAt(made, radios[i]!, i, choice, powers[i]!));
    const speeds = speedsOf(input, radios, tuned, lossOf);
    tried.push({ width, score: speeds.reduce((sum, speed) => sum + Math.log(Math.max(speed, 0.1)), 0) });
    if (!going((0.4 * (n + 1)) / widths.length)) return null;
  }
  // Of equal ones the narrower: it leaves room to others.
  const best = tried.reduce((a, b) => (b.score > a.score + 1e-6 ? b : a));
  const made = problemAt(input, radios, best.width, powers, lossOf)!;
  let left = false;
  const { assignment } = searchPlan(made.problem, {
    seed: input.seed ?? 1,
    going: (done) => {
      const on = going(0.4 + 0.55 * done);
      if (!on) left = true;
      return on;
    },
  });
  if (left) return null;
  const after = assignment.map((choice, i) => tunedAt(made, radios[i]!, i, choice, powers[i]!));
  const [speedsBefore, speedsAfter] = [
    speedsOf(
      input,
      radios,
      radios.map(({ now }) => now),
      lossOf,
    ),
    speedsOf(input, radios, after, lossOf),
  ];
  return {
    band,
    width: best.width,
    radios: radios.map((radio, i): PlannedRadio => {
      const tuned = after[i]!;
      const moves = radio.now === null || radio.now.channel !== tuned.channel || radio.now.width !== tuned.width;
      return {
        ...{ deviceId: radio.deviceId, name: radio.name, band, before: radio.now, after: tuned, moves },
        ...{ speedBefore: speedsBefore[i]!, speedAfter: speedsAfter[i]!, clients: radio.clients.length },
        listens: moves ? made.choices[assignment[i]!]!.block.duty.listenSeconds : 0,
      };
    }),
    wayBefore: inTheWay(
      input,
      radios,
      radios.map(({ now }) => now),
      lossOf,
    ),
    wayAfter: inTheWay(input, radios, after, lossOf),
    cost: costOf(made.problem, assignment),
    bound: Math.min(lowerBound(made.problem), costOf(made.problem, assignment)),
    unmeasured: radios.filter(({ heard }) => heard === null).map(({ name }) => name),
  };
}

interface Choice {
  readonly width: Width;
  readonly block: LegalBlock;
}
const sameBlock = ({ width, block }: Choice, now: Tuned): boolean =>
  width === now.width && block.members.includes(now.channel);

/** Blocks of a width that a site lets its radios use. */
function choicesOf(country: string, band: Band, { channels, radar }: BandFields, width: Width): Choice[] {
  return allowedBlocks(country, band, width)
    .filter(({ members, duty, shortRange }) => {
      const named =
        channels === 'legal'
          ? !shortRange
          : band === '2.4'
            ? channels.includes(members[0]!)
            : members.some((each) => channels.includes(each));
      return named && (radar || !duty.radar);
    })
    .map((block) => ({ width, block }));
}

/** Losses between radios by their places in the list; undefined where they did not hear each other. */
type LossTable = (i: number, j: number) => number | undefined;
function lossTable(band: Band, radios: readonly PlanRadio[], losses: readonly MeasuredLoss[]): LossTable {
  const at = new Map(radios.map(({ deviceId }, i) => [deviceId, i]));
  const table = new Map<number, number>();
  for (const { band: of, a, b, loss } of losses) {
    const [i, j] = [at.get(a), at.get(b)];
    if (of !== band || i === undefined || j === undefined) continue;
    table.set(i * radios.length + j, loss);
    table.set(j * radios.length + i, loss);
  }
  return (i, j) => table.get(i * radios.length + j);
}

const maxEirp = (country: string, band: Band, { sheet }: PlanRadio): number => {
  const law = Math.max(0, ...allowedBlocks(country, band, 20).map(({ eirp }) => eirp));
  return Math.floor(Math.min(law, sheet.eirp ?? law));
};

/** Power at which the third nearest of ours still hears it well: a client between them is served by both. */
function powerOf(
  radio: PlanRadio,
  i: number,
  radios: readonly PlanRadio[],
  loss: LossTable,
  policy: BandFields,
  most: number,
): number {
  const top = Math.min(most, policy.most ?? most);
  if (radio.power !== null) return Math.min(radio.power, most);
  if (radio.stays && radio.now) return radio.now.power;
  const near = radios.flatMap((_, j) => (j === i ? [] : (loss(i, j) ?? []))).sort((a, b) => a - b);
  const third = near[2];
  return third === undefined ? top : Math.round(Math.min(top, Math.max(policy.least, OVERLAP_DBM + third)));
}

interface Made {
  readonly problem: ChannelProblem;
  readonly choices: readonly Choice[];
  /** The best primary part of each choice, by radio. */
  readonly primaries: readonly (readonly number[])[];
}

function problemAt(
  input: BandPlanInput,
  radios: readonly PlanRadio[],
  width: Width,
  powers: readonly number[],
  loss: LossTable,
): Made | null {
  const { band, country, policy, ours } = input;
  const choices = WIDTHS.filter((each) => each <= width).flatMap((each) => choicesOf(country, band, policy, each));
  // Where a radio stays is a choice too, be it one that nobody else may make.
  const stays = radios.flatMap(({ stays, now }) => {
    const block =
      stays && now
        ? allowedBlocks(country, band, now.width).find(({ members }) => members.includes(now.channel))
        : undefined;
    return block && !choices.some((each) => sameBlock(each, now!)) ? [{ width: now!.width, block }] : [];
  });
  for (const each of stays)
    if (!choices.some(({ block, width: wide }) => wide === each.width && block.centre === each.block.centre))
      choices.push(each);
  const isOurs = (bssid: string): boolean => own.has(bssid);
  const own = new Set(ours);
  const allowed: number[][] = [];
  const ownCosts: number[][] = [];
  const primaries: number[][] = [];
  for (const [i, radio] of radios.entries()) {
    const most = Math.min(width, radio.sheet.width);
    const fits = choices.flatMap((each, c) => (each.width <= most && !stays.includes(each) ? [c] : []));
    const widest = Math.max(0, ...fits.map((c) => choices[c]!.width));
    const kept = radio.stays && radio.now ? choices.findIndex((each) => sameBlock(each, radio.now!)) : -1;
    const may = kept >= 0 ? [kept] : fits.filter((c) => choices[c]!.width === widest);
    if (may.length === 0) return null;
    allowed.push(may);
    const load = loadOf(radio, radios);
    const costs = new Array<number>(choices.length).fill(0);
    const firsts = new Array<number>(choices.length).fill(0);
    for (const c of may) {
      const { block, width: wide } = choices[c]!;
      const pairing = pairingOf(radio, band);
      const signal = middleSignal(radio, powers[i]!);
      const others = radio.heard ? strangersOn(band, block, radio.heard, isOurs) : [];
      const best = bestPrimary(wide, signal, pairing, others);
      const quiet = bestPrimary(wide, signal, pairing, []).speed;
      firsts[c] = best.primary;
      const lost = quiet > 0 ? 1 - best.speed / quiet : 0;
      const moved = radio.now !== null && sameBlock(choices[c]!, radio.now) ? 0 : MOVE;
      costs[c] = load * lost + moved + (block.duty.radar ? RADAR * load : 0);
    }
    ownCosts.push(costs);
    primaries.push(firsts);
  }
  const weights = radios.map((a, i) =>
    radios.map((b, j) => {
      const lost = i === j ? undefined : loss(i, j);
      if (lost === undefined) return 0;
      const heard = (powers[i]! + powers[j]!) / 2 - lost;
      return loadOf(a, radios) * loadOf(b, radios) * nearness(heard);
    }),
  );
  const shares = choices.map((a) => choices.map((b) => shareOf(band, a, b)));
  return { problem: { weights, shares, own: ownCosts, allowed }, choices, primaries };
}

/** How much two blocks are in each other's way. */
function shareOf(band: Band, a: Choice, b: Choice): number {
  const offset = Math.abs(a.block.centreMhz - b.block.centreMhz);
  if (band === '2.4' && a.width === 20 && b.width === 20)
    // A little beside is worse than the same: it is heard as noise and not waited for.
    return offset === 0 ? 1 : offset <= 15 ? 1.1 : maskLeak(offset);
  const met = Math.max(0, (a.width + b.width) / 2 - offset);
  return Math.min(1, met / Math.min(a.width, b.width));
}

/** How much radios are in each other's way where they send. */
function inTheWay(
  { band, country }: BandPlanInput,
  radios: readonly PlanRadio[],
  tuned: readonly (Tuned | null)[],
  loss: LossTable,
): number {
  const choices = tuned.map((at): Choice | null => {
    const block = at && allowedBlocks(country, band, at.width).find(({ members }) => members.includes(at.channel));
    return at && block ? { width: at.width, block } : null;
  });
  let sum = 0;
  for (let i = 0; i < radios.length; i++)
    for (let j = i + 1; j < radios.length; j++) {
      const [a, b, lost] = [choices[i], choices[j], loss(i, j)];
      if (!a || !b || lost === undefined) continue;
      const heard = (tuned[i]!.power + tuned[j]!.power) / 2 - lost;
      const share = shareOf(band, a, b);
      sum += share * loadOf(radios[i]!, radios) * loadOf(radios[j]!, radios) * nearness(heard);
    }
  return sum;
}

/** How near an AP is by how it is heard, from 0 to 1. */
const nearness = (heard: number): number => Math.min(1, Math.max(0, (heard - HEARD) / RANGE));

const loadOf = ({ clients }: PlanRadio, radios: readonly PlanRadio[]): number => {
  const most = mostClients(radios);
  return most === 0 ? 1 : LEAST_LOAD + ((1 - LEAST_LOAD) * clients.length) / most;
};
const counted = new WeakMap<readonly PlanRadio[], number>();
function mostClients(radios: readonly PlanRadio[]): number {
  let most = counted.get(radios);
  if (most === undefined) counted.set(radios, (most = Math.max(0, ...radios.map(({ clients }) => clients.length))));
  return most;
}

const pairingOf = ({ sheet }: PlanRadio, band: Band) =>
  ({ phy: sheet.phy ?? 'HE', maxNss: Math.min(2, sheet.streams), band }) as const;

/** Signal in dBm at which a client in the middle of a radio's own hears it. */
function middleSignal({ clients }: PlanRadio, power: number): number {
  const sorted = [...clients].sort((a, b) => a - b);
  const middle = sorted[Math.floor(sorted.length / 2)];
  return power - (middle === undefined ? USUAL_LOSS : CLIENT_DBM - middle);
}

function tunedAt({ choices, primaries }: Made, radio: PlanRadio, i: number, choice: number, power: number): Tuned {
  const { block, width } = choices[choice]!;
  // A radio that stays on its block keeps its primary channel too.
  const channel =
    radio.now && sameBlock(choices[choice]!, radio.now) ? radio.now.channel : block.members[primaries[i]![choice]!]!;
  return { channel, width, power: Math.min(power, Math.floor(block.eirp)) };
}

/** TCP in Mb/s that a client in the middle of each radio's own gets in a busy hour, when all send where they are said to. */
function speedsOf(
  input: BandPlanInput,
  radios: readonly PlanRadio[],
  tuned: readonly (Tuned | null)[],
  loss: LossTable,
): number[] {
  const { band, country, ours } = input;
  const own = new Set(ours);
  const blocks = tuned.map((at) =>
    at ? allowedBlocks(country, band, at.width).find(({ members }) => members.includes(at.channel)) : undefined,
  );
  return radios.map((radio, i) => {
    const [at, block] = [tuned[i], blocks[i]];
    if (!at || !block) return 0;
    const others: Other[] = radio.heard ? strangersOn(band, block, radio.heard, (bssid) => own.has(bssid)) : [];
    for (let j = 0; j < radios.length; j++) {
      const [there, theirs, lost] = [tuned[j], blocks[j], loss(i, j)];
      if (j === i || !there || !theirs || lost === undefined || there.power - lost < WAITS) continue;
      const parts = partsMet(band, block, { centre: theirs.centre, width: there.width });
      if (parts.length > 0) others.push({ parts, share: BUSY_HOUR * loadOf(radios[j]!, radios) });
    }
    const primary = Math.max(0, block.members.indexOf(at.channel));
    return speedAt(at.width, middleSignal(radio, at.power), primary, pairingOf(radio, band), others);
  });
}

const speedAt = (
  width: Width,
  signal: number,
  primary: number,
  pairing: ReturnType<typeof pairingOf>,
  others: readonly Other[],
): number => predictedSpeed({ ...pairing, width, signal, primary, others });
