import type { Band, SheetRadio } from '../hardware';
import type { BandFields } from '../intent';
import {
  bestPlan,
  CLIENT_DBM,
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

/** A plan for bands of a site, and how many clients have to join again. */
export interface SitePlan {
  readonly bands: readonly BandPlan[];
  readonly moved: number;
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
const USUAL_LOSS = 75;
/** How loud the third nearest AP is to hear an AP, in dBm, in the powers that are tried, the least first; null: all as strong as they may. */
const POWERS = [-83, -72, -62, null] as const;
/** Those of them that are tried with many radios. */
const FEW_POWERS = [-72, null] as const;
/** How much more, beside all, greater powers or widths have to bring. */
const MORE = 0.01;
/** Steps in which the least cost is to be proven. */
const MOST_PROOF = 100_000;
/** Radios up to which the least cost is proven, and up to which single moves are tried by the speed they bring. */
const [FEW, MANY] = [12, 60];
const MOST_POLISHED = 6;
/** How much more a move has to bring: a twentieth more speed of a radio with most clients. */
const WORTH_MOVING = 0.05;
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
  const widths = WIDTHS.filter((width) => width <= policy.width && choicesOf(country, band, policy, width).length > 0);
  if (radios.length === 0 || widths.length === 0) return null;
  const worth = worthOf(input, radios, lossOf);
  const ways = (radios.length > MANY ? FEW_POWERS : POWERS).map((overlap) =>
    radios.map((radio, i) => powerOf(radio, i, lossOf, policy, maxEirp(country, band, radio), overlap)),
  );
  // Powers that come to the same need not be tried twice.
  const powers = ways.filter((each, i) => ways.findIndex((other) => String(other) === String(each)) === i);
  let best: { readonly width: Width; readonly powers: readonly number[]; readonly worth: number } | null = null;
  const rounds = radios.length > MANY ? 0 : TRIAL_ROUNDS;
  for (const [n, width] of widths.entries())
    for (const [m, some] of powers.entries()) {
      if (radios.length > MANY && m > 0 && n > 0) continue;
      const made = problemAt(input, radios, width, some, lossOf);
      if (!made) continue;
      const { assignment } = searchPlan(made.problem, { seed: input.seed ?? 1, rounds });
      const brings = worth(assignment.map((choice, i) => tunedAt(made, radios[i]!, i, choice, some[i]!)));
      // Of nearly equal ones the narrower and the softer: they leave room to others.
      if (!best || brings > best.worth + MORE * radios.length) best = { width, powers: some, worth: brings };
      if (!going((0.39 * (n * powers.length + m + 1)) / (widths.length * powers.length))) return null;
    }
  if (!best) return null;
  const made = problemAt(input, radios, best.width, best.powers, lossOf)!;
  let left = false;
  const found = searchPlan(made.problem, {
    seed: input.seed ?? 1,
    going: (done) => {
      const on = going(0.4 + 0.45 * done);
      if (!on) left = true;
      return on;
    },
  });
  if (left) return null;
  const exact = radios.length <= FEW ? bestPlan(made.problem, MOST_PROOF) : null;
  const least = exact && exact.cost < found.cost ? exact : found;
  let after = least.assignment.map((choice, i) => tunedAt(made, radios[i]!, i, choice, best.powers[i]!));
  if (radios.length <= MANY) after = polished(made, radios, after, best.powers, worth);
  const now = radios.map((radio) => radio.now);
  // What brings nothing moves nobody.
  const moves = after.filter((tuned, i) => isMoved(now[i]!, tuned)).length;
  if (now.every((tuned) => tuned !== null) && worth(after) - worth(now) <= WORTH_MOVING * moves)
    after = now.map((tuned, i) => (isMoved(tuned, after[i]!) ? tuned : { ...after[i]!, power: tuned.power }));
  going(0.95);
  const [speedsBefore, speedsAfter] = [speedsOf(input, radios, now, lossOf), speedsOf(input, radios, after, lossOf)];
  const cost = costOfTuned(made, radios, after);
  return {
    band,
    width: best.width,
    radios: radios.map((radio, i): PlannedRadio => {
      const tuned = after[i]!;
      const moved = isMoved(radio.now, tuned);
      const block = blockOf(country, band, tuned);
      return {
        ...{ deviceId: radio.deviceId, name: radio.name, band, before: radio.now, after: tuned, moves: moved },
        ...{ speedBefore: speedsBefore[i]!, speedAfter: speedsAfter[i]!, clients: radio.clients.length },
        listens: moved ? (block?.duty.listenSeconds ?? 0) : 0,
      };
    }),
    wayBefore: inTheWay(input, radios, now, lossOf),
    wayAfter: inTheWay(input, radios, after, lossOf),
    cost,
    bound: Math.min(exact?.cost ?? lowerBound(made.problem), cost),
    unmeasured: radios.filter(({ heard }) => heard === null).map(({ name }) => name),
  };
}

const isMoved = (before: Tuned | null, { channel, width }: Tuned): boolean =>
  before === null || before.channel !== channel || before.width !== width;

const blockOf = (country: string, band: Band, { channel, width }: Tuned): LegalBlock | undefined =>
  allowedBlocks(country, band, width).find(({ members }) => members.includes(channel));

/** What where radios send is worth: the sum of how fast, each by its load; doubling one's speed counts alike for all. */
function worthOf(input: BandPlanInput, radios: readonly PlanRadio[], loss: LossTable) {
  return (tuned: readonly (Tuned | null)[]): number =>
    speedsOf(input, radios, tuned, loss).reduce(
      (sum, speed, i) => sum + loadOf(radios[i]!, radios) * Math.log(Math.max(speed, 0.1)),
      0,
    );
}

/** Moves single radios while that brings more than it costs: least interference is not yet most speed. */
function polished(
  { choices, problem, primaries }: Made,
  radios: readonly PlanRadio[],
  start: readonly Tuned[],
  powers: readonly number[],
  worth: (tuned: readonly Tuned[]) => number,
): Tuned[] {
  const tuned = [...start];
  let brings = worth(tuned);
  for (let going = true, round = 0; going && round < MOST_POLISHED; round++) {
    going = false;
    for (const [i, radio] of radios.entries())
      for (const choice of problem.allowed![i]!) {
        const before = tuned[i]!;
        tuned[i] = tunedAt({ choices, problem, primaries }, radio, i, choice, powers[i]!);
        const then = worth(tuned);
        const costs =
          (isMoved(radio.now, tuned[i]) ? WORTH_MOVING : 0) - (isMoved(radio.now, before) ? WORTH_MOVING : 0);
        if (then - brings > costs + 1e-6) {
          brings = then;
          going = true;
        } else tuned[i] = before;
      }
  }
  return tuned;
}

/** What a plan costs by the same measure that a bound is known of; of what is no choice there, the bound of it. */
function costOfTuned({ problem, choices }: Made, radios: readonly PlanRadio[], tuned: readonly Tuned[]): number {
  const assignment = radios.map((_, i) => choices.findIndex((each) => sameBlock(each, tuned[i]!)));
  return assignment.every((choice) => choice >= 0) ? costOf(problem, assignment) : lowerBound(problem);
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

/** Losses in dB between radios by their places in the list: of each those that heard it. */
type LossTable = readonly ReadonlyMap<number, number>[];
function lossTable(band: Band, radios: readonly PlanRadio[], losses: readonly MeasuredLoss[]): LossTable {
  const at = new Map(radios.map(({ deviceId }, i) => [deviceId, i]));
  const table = radios.map(() => new Map<number, number>());
  for (const { band: of, a, b, loss } of losses) {
    const [i, j] = [at.get(a), at.get(b)];
    if (of !== band || i === undefined || j === undefined) continue;
    table[i]!.set(j, loss);
    table[j]!.set(i, loss);
  }
  return table;
}

const maxEirp = (country: string, band: Band, { sheet }: PlanRadio): number => {
  const law = Math.max(0, ...allowedBlocks(country, band, 20).map(({ eirp }) => eirp));
  return Math.floor(Math.min(law, sheet.eirp ?? law));
};

/** Power at which the third nearest of ours still hears it well: a client between them is served by both. */
function powerOf(
  radio: PlanRadio,
  i: number,
  loss: LossTable,
  policy: BandFields,
  most: number,
  overlap: number | null,
): number {
  const top = Math.min(most, policy.most ?? most);
  if (radio.power !== null) return Math.min(radio.power, most);
  if (radio.stays && radio.now) return radio.now.power;
  const near = [...loss[i]!.values()].sort((a, b) => a - b);
  const third = near[2];
  return third === undefined || overlap === null
    ? top
    : Math.round(Math.min(top, Math.max(policy.least, overlap + third)));
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
      let lost = 0;
      if (others.length > 0) {
        const best = bestPrimary(wide, signal, pairing, others);
        const quiet = predictedSpeed({ ...pairing, width: wide, signal, primary: 0 });
        firsts[c] = best.primary;
        lost = quiet > 0 ? 1 - best.speed / quiet : 0;
      }
      const moved = radio.now !== null && sameBlock(choices[c]!, radio.now) ? 0 : MOVE;
      costs[c] = load * lost + moved + (block.duty.radar ? RADAR * load : 0);
    }
    ownCosts.push(costs);
    primaries.push(firsts);
  }
  const weights = radios.map((a, i) => {
    const row = new Array<number>(radios.length).fill(0);
    for (const [j, lost] of loss[i]!) {
      const heard = (powers[i]! + powers[j]!) / 2 - lost;
      row[j] = loadOf(a, radios) * loadOf(radios[j]!, radios) * nearness(heard);
    }
    return row;
  });
  // Only what somebody may choose: a bound counts what is side by side.
  const used = choices.flatMap((_, c) => (allowed.some((list) => list.includes(c)) ? [c] : []));
  const placeOf = new Map(used.map((c, place) => [c, place]));
  const shares = used.map((a) => used.map((b) => shareOf(band, choices[a]!, choices[b]!)));
  const kept = <T>(row: readonly T[]): T[] => used.map((c) => row[c]!);
  return {
    problem: {
      weights,
      shares,
      own: ownCosts.map(kept),
      allowed: allowed.map((list) => list.map((c) => placeOf.get(c)!)),
    },
    choices: kept(choices),
    primaries: primaries.map(kept),
  };
}

/** So far apart next to nothing of one channel of 20 MHz at 2.4 GHz falls into another: 1, 6 and 11 are 25 MHz apart. */
const APART_MHZ = 25;

/** How much two blocks are in each other's way. */
function shareOf(band: Band, a: Choice, b: Choice): number {
  const offset = Math.abs(a.block.centreMhz - b.block.centreMhz);
  if (band === '2.4' && a.width === 20 && b.width === 20)
    // A little beside is worse than the same: it is heard as noise and not waited for.
    return offset === 0 ? 1 : offset <= 15 ? 1.1 : offset < APART_MHZ ? maskLeak(offset) : 0;
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
  for (const [i, near] of loss.entries())
    for (const [j, lost] of near) {
      const [a, b] = [choices[i], choices[j]];
      if (j < i || !a || !b) continue;
      const heard = (tuned[i]!.power + tuned[j]!.power) / 2 - lost;
      sum += shareOf(band, a, b) * loadOf(radios[i]!, radios) * loadOf(radios[j]!, radios) * nearness(heard);
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
    for (const [j, lost] of loss[i]!) {
      const [there, theirs] = [tuned[j], blocks[j]];
      if (!there || !theirs || there.power - lost < WAITS) continue;
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
