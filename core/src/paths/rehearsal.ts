import { randomFrom } from '../base';
import { Course, type CourseRule } from './course';
import { checked, healthy, unplugged, type Health } from './health';
import { Together, type TogetherRule, type TogetherUplink } from './leaving';
import { Rounds } from './rounds';
import { Stream, type Outcome } from './stream';
import type { Target } from './targets';
import type { Watch } from './watch';

/** An uplink of which a rehearsal is told. */
export interface RehearsedUplink extends TogetherUplink {
  readonly watch: Watch;
  /** Whether it had a link and an address when the rehearsal began. */
  readonly linked: boolean;
  /** Milliseconds there and back, and the share of packets that get lost, as it is while nothing is done to it. */
  readonly delay: number;
  readonly loss: number;
  /** Milliseconds by which answers vary as it is; absent: they do not. */
  readonly jitter?: number;
}

/** A gateway with its uplinks. */
export interface RehearsedGateway {
  readonly id: string;
  readonly uplinks: readonly RehearsedUplink[];
  readonly rule: TogetherRule;
  /** Whether sessions stay where they began as long as that is good. */
  readonly stay: boolean;
  /** Octets a second, both ways, that leave as usual; absent: not known. */
  readonly rate?: number;
  /** What leaves otherwise than the rest. */
  readonly courses?: readonly CourseRule[];
  /** Shares of what leaves that courses have, from 0 to 1, by their ids; absent: none. */
  readonly parts?: Readonly<Record<string, number>>;
  /** The other of its pair, and how they take turns; absent: it is alone. */
  readonly pair?: RehearsedPair;
}

/** What one of a pair goes by when it takes turns. */
export interface PairSelf {
  /** RFC 9568 §5.2.4: while what it tracks is good, and while it is not. */
  readonly priority: number;
  readonly lowered: number;
  /** Ports of the uplinks that it tracks, and whether it is lowered when any of them fails; else once all have. */
  readonly tracks: readonly string[];
  readonly any: boolean;
  /** Its own address. */
  readonly address: string;
}

/** The pair that a gateway is of. */
export interface RehearsedPair {
  readonly own: PairSelf;
  readonly other: PairSelf;
  readonly gateway: Omit<RehearsedGateway, 'pair'>;
  /** Whether the gateway itself is the one that usually routes. */
  readonly first: boolean;
  /** Hundredths of a second between advertisements. */
  readonly advert: number;
}

/** Who holds the segments’ addresses for a while, in seconds; null: nobody, or one without power. */
export interface Turn {
  readonly from: number;
  readonly to: number;
  readonly gatewayId: string | null;
}

/**
 * What is done to an uplink. `cut`: its link goes, which its gateway sees at once; `silent`: nothing gets through; `lossy` and `slow`:
 * less gets through, or later. `off` is done to the gateway itself: it is without power, and knows nothing of before afterwards.
 */
export const MISHAPS = ['cut', 'silent', 'lossy', 'slow', 'target', 'off'] as const;
export type MishapKind = (typeof MISHAPS)[number];

/** Something that happens at a moment, and ends at another. Times in seconds from the start. */
export interface Mishap {
  readonly what: MishapKind;
  readonly from: number;
  /** Null: it lasts to the end. */
  readonly to: number | null;
  readonly gatewayId: string;
  /** Of the uplink; of `target`: it does not answer through this one; of `off` empty. */
  readonly port: string;
  /** Of `lossy`: share of packets from 0 to 1; of `slow`: milliseconds more. */
  readonly amount?: number;
  /** Of `target`. */
  readonly target?: string;
}

/** When checks fall, beside the moment at which something happens: as lucky, as usual, or as unlucky as can be. */
export const PHASES = ['best', 'mean', 'worst'] as const;
export type Phase = (typeof PHASES)[number];

/** What a gateway notices of itself, and when; a port, or none where it started anew. */
export interface Noticed {
  readonly at: number;
  readonly port: string;
  readonly what: 'gone' | 'back' | 'started';
}

/** What became of one gateway, and of whatever leaves it as usual. */
export interface Rehearsed extends Outcome {
  readonly gatewayId: string;
  /** What it noticed, and when. */
  readonly noticed: readonly Noticed[];
  /** Octets that each uplink carries; absent: it is not known how much leaves. */
  readonly carried?: readonly { readonly port: string; readonly octets: number }[];
  /** The same of what leaves otherwise, in their order; absent where nothing does. */
  readonly courses?: readonly CourseOutcome[];
  /** Of one of a pair: who routes when. Ports of the other are called `ID:port`; see `portOfOther`. */
  readonly turns?: readonly Turn[];
  /** Seconds for which nobody did: within the site nothing goes from one segment to another then. */
  readonly unrouted?: number;
}

/** What became of a course. */
export interface CourseOutcome extends Outcome {
  readonly id: string;
  /** Seconds for which no uplink of its own met what it needs. */
  readonly unmet: number;
}

/** Time goes on by as much at least, in seconds. */
const TINY_S = 1e-6;
/** Where a check falls within its interval after something happened. */
const AT: Readonly<Record<Phase, number>> = { best: 1e-6, mean: 0.5, worst: 1 - 1e-6 };

/** How an uplink is at a moment. */
interface Condition {
  readonly link: boolean;
  readonly carries: boolean;
  readonly loss: number;
  readonly delay: number;
  readonly gone: ReadonlySet<string>;
}

/** One uplink while it is rehearsed. */
interface Played {
  readonly uplink: RehearsedUplink;
  health: Health;
  nextCheck: number;
  condition: Condition;
  /** What the latest rounds came to; only kept where something is steered by them. */
  rounds: Rounds;
}
/** What leaves otherwise, while it is rehearsed. */
interface PlayedCourse {
  readonly course: Course;
  readonly stream: Stream;
}

/** What is to happen next of what was sent: an answer that came, or did not. */
interface Known {
  readonly at: number;
  readonly of: Played;
  readonly answered: boolean;
}

/**
 * What mishaps do to a gateway by itself, worked out event by event with the very health and choice that gateways use. Chance is the same each time.
 * @param seconds how long it goes on, up to a day. @param phase where checks fall beside what happens.
 * @throws RangeError for a longer one.
 */
export function rehearseAlone(
  gateway: RehearsedGateway,
  mishaps: readonly Mishap[],
  seconds: number,
  phase: Phase = 'mean',
): Rehearsed {
  if (!(seconds > 0 && seconds <= LONGEST_S)) throw new RangeError('a rehearsal lasts up to a day');
  return new Play(
    gateway,
    mishaps.filter(({ gatewayId }) => gatewayId === gateway.id),
    seconds,
    phase,
  ).run();
}
export const LONGEST_S = 86_400;

class Play {
  private readonly played: Played[];
  private together: Together;
  private readonly known: Known[] = [];
  private readonly turns: number[];
  private lookedAt = -1;
  private readonly usual: Stream;
  private courses: readonly PlayedCourse[];
  private readonly noticed: Noticed[] = [];
  private off = false;
  private readonly draw = randomFrom(7);
  /** Whether anything is steered by what is measured. */
  private readonly measures: boolean;

  constructor(
    private readonly gateway: RehearsedGateway,
    private readonly mishaps: readonly Mishap[],
    private readonly seconds: number,
    private readonly phase: Phase,
  ) {
    this.together = new Together(gateway.uplinks, gateway.rule);
    this.played = gateway.uplinks.map((uplink) => {
      const first = this.mishaps.find(({ port }) => port === uplink.port)?.from ?? 0;
      const { interval } = uplink.watch;
      const offset = (first + AT[phase] * interval) % interval;
      const condition = this.conditionOf({ uplink }, 0);
      return { uplink, health: healthy(0), nextCheck: offset, condition, rounds: new Rounds() };
    });
    const ports = gateway.uplinks.map(({ port }) => port);
    this.usual = new Stream(ports, gateway.stay);
    this.courses = (gateway.courses ?? []).map((rule) => ({
      course: new Course(rule),
      stream: new Stream(ports, gateway.stay),
    }));
    this.measures = (gateway.courses ?? []).some(({ needs }) => needs !== undefined);
    for (const one of this.played) if (!one.uplink.linked) this.beginWithout(one, 0);
    this.turns = [...new Set(this.mishaps.flatMap(({ from, to }) => [from, ...(to === null ? [] : [to])]))]
      .filter((at) => at >= 0 && at < seconds)
      .sort((a, b) => a - b);
  }

  run(): Rehearsed {
    let now = 0;
    this.place(0);
    this.happen(0);
    while (now < this.seconds) {
      const next = Math.min(this.nextEvent(now), this.seconds);
      this.pass(now, next);
      now = next;
      if (now < this.seconds) this.happen(now);
    }
    return this.told();
  }

  /** When something happens next: a mishap, a check, an answer, or an uplink that may be used again. */
  private nextEvent(now: number): number {
    const due = this.off ? null : this.together.due(now * 1000);
    const next = Math.min(
      this.turns.find((at) => at > now) ?? Infinity,
      ...this.played.map((one) => (one.nextCheck > now && !this.isCalm(one) ? one.nextCheck : Infinity)),
      ...this.known.map(({ at }) => (at > now ? at : Infinity)),
      due === null ? Infinity : due / 1000,
    );
    // What is due at this very moment may be a little later as numbers go.
    return Math.max(next, now + TINY_S);
  }

  /** Whether questions can tell nothing new until something happens: all is well and every one is answered, or it is gone and none is. */
  private isCalm({ uplink, health, condition, rounds }: Played): boolean {
    if (this.measures && !(rounds.settled && this.courses.every(({ course }) => course.isSettled(uplink.port))))
      return false;
    const { carries, loss, delay, gone } = condition;
    const { watch } = uplink;
    if (health.run > 0) return false;
    const inTime = carries && delay <= watch.timeout * 1000;
    const asked = gone.size === 0 || watch.targets.some((each) => !gone.has(nameOf(each)));
    return health.good ? inTime && asked && loss === 0 : health.clear === null && !(inTime && asked);
  }

  private happen(now: number): void {
    // Something may have happened a moment ago: what is due soon after another thing is done a little later.
    const isTurn = now === 0 || this.turns.some((at) => at > this.lookedAt && at <= now + 1e-9);
    this.lookedAt = now + 1e-9;
    if (isTurn) this.switchPower(now);
    if (this.off) return this.place(now);
    for (const one of this.played) {
      if (isTurn) one.condition = this.conditionOf(one, now);
      // Rounds that could tell nothing new were left out.
      const { interval } = one.uplink.watch;
      if (one.nextCheck < now - 1e-9) one.nextCheck += Math.ceil((now - one.nextCheck - 1e-9) / interval) * interval;
      const { link } = one.condition;
      const { port } = one.uplink;
      if (!link && (one.health.good || one.nextCheck !== Infinity)) {
        one.nextCheck = Infinity;
        this.together.link(port, false);
        this.put(one, unplugged(one.health, now * 1000), now);
      } else if (link && one.nextCheck === Infinity && one.uplink.linked) {
        one.nextCheck = now + one.uplink.watch.interval;
        this.together.link(port, true);
        this.check(one, now);
      } else if (one.nextCheck <= now + 1e-9) {
        one.nextCheck = now + one.uplink.watch.interval;
        this.check(one, now);
      }
    }
    for (const answer of this.known.filter(({ at }) => at <= now + 1e-9)) {
      this.known.splice(this.known.indexOf(answer), 1);
      if (!answer.of.condition.link) continue;
      this.measure(answer);
      this.put(answer.of, checked(answer.of.health, answer.answered, now * 1000, answer.of.uplink.watch), now);
    }
    this.place(now);
  }

  /** An uplink has no link when its gateway begins: nothing is noticed of it until it has one. */
  private beginWithout(one: Played, now: number): void {
    one.health = unplugged(one.health, now * 1000);
    one.nextCheck = Infinity;
    this.together.told(one.uplink.port, false, now * 1000);
    this.together.link(one.uplink.port, false);
  }

  /** The gateway loses its power, or has it again: then it takes its uplinks for good until it learns otherwise. */
  private switchPower(now: number): void {
    const off = this.mishaps.some((each) => each.what === 'off' && isUnderWay(each, now));
    if (off === this.off) return;
    this.off = off;
    this.known.length = 0;
    for (const one of this.played) {
      one.nextCheck = off ? Infinity : now + AT[this.phase] * one.uplink.watch.interval;
      one.condition = this.conditionOf(one, now);
      one.rounds = new Rounds();
      one.health = healthy(now * 1000);
    }
    if (off) return;
    this.together = new Together(this.gateway.uplinks, this.gateway.rule);
    this.courses = this.courses.map(({ course: { rule }, stream }) => ({ course: new Course(rule), stream }));
    for (const one of this.played) if (!one.condition.link) this.beginWithout(one, now);
    this.noticed.push({ at: now, port: '', what: 'started' });
  }

  private put(one: Played, health: Health, now: number): void {
    const before = one.health;
    one.health = health;
    if (before.good === health.good) return;
    this.together.told(one.uplink.port, health.good, now * 1000);
    this.noticed.push({ at: now, port: one.uplink.port, what: health.good ? 'back' : 'gone' });
  }

  /** A round of questions: when it is known whether any was answered. */
  private check(one: Played, now: number): void {
    const { watch } = one.uplink;
    const { carries, loss, delay, gone } = one.condition;
    const answered =
      carries &&
      delay <= watch.timeout * 1000 &&
      watch.targets.some((target) => !gone.has(nameOf(target)) && this.draw(1e6) >= loss * 1e6);
    this.known.push({ at: now + (answered ? delay / 1000 : watch.timeout), of: one, answered });
  }

  private conditionOf({ uplink }: Pick<Played, 'uplink'>, now: number): Condition {
    const mine = this.mishaps.filter(
      (each) => (each.what === 'off' || each.port === uplink.port) && isUnderWay(each, now),
    );
    const amount = (what: MishapKind): number =>
      mine.filter((each) => each.what === what).reduce((sum, each) => sum + (each.amount ?? 0), 0);
    const link = uplink.linked && !mine.some(({ what }) => what === 'cut' || what === 'off');
    const loss = Math.min(1, uplink.loss + amount('lossy'));
    return {
      link,
      carries: link && loss < 1 && !mine.some(({ what }) => what === 'silent'),
      loss,
      delay: uplink.delay + amount('slow'),
      gone: new Set(mine.flatMap(({ what, target }) => (what === 'target' && target ? [target] : []))),
    };
  }

  /** What a round came to, for whatever is steered by it. */
  private measure({ of, answered }: Known): void {
    if (!this.measures) return;
    const { uplink, condition, rounds } = of;
    // Answers come now earlier, now later, by as much as was measured.
    const varies = (uplink.jitter ?? 0) * (rounds.count % 2 === 0 ? 0.5 : -0.5);
    rounds.add(answered ? condition.delay + varies : null);
    for (const { course } of this.courses) course.measured(uplink.port, rounds.measure());
  }

  /** Puts sessions where they leave now. */
  private place(now: number): void {
    if (this.off) {
      this.usual.place([], () => false);
      for (const { course, stream } of this.courses) stream.place([], () => false, course.rule.needs !== undefined);
      return;
    }
    const used = this.together.used(now * 1000);
    const isGood = (port: string): boolean => this.of(port).health.good;
    this.usual.place(used, isGood);
    for (const { course, stream } of this.courses) {
      const view = {
        isUsable: (port: string) => this.has(port) && this.together.isUsable(port, now * 1000),
        weightOf: (port: string) => this.of(port).uplink.weight || 1,
        usual: used,
      };
      const use = course.use(view);
      // What may not leave otherwise does not stay where it may not be.
      const mayStay = (port: string): boolean => isGood(port) && (use.usual || course.rule.ports.includes(port));
      stream.place(use.used, mayStay, !use.meets);
    }
  }

  private has = (port: string): boolean => this.played.some(({ uplink }) => uplink.port === port);
  private of = (port: string): Played => this.played.find(({ uplink }) => uplink.port === port)!;

  private pass(from: number, to: number): void {
    const carries = (port: string): boolean => this.of(port).condition.carries;
    for (const stream of [this.usual, ...this.courses.map((each) => each.stream)]) stream.pass(from, to, carries);
  }

  /** What each uplink carries: of what leaves as usual, and of each course. @param rate octets a second of all of it. */
  private carried(rate: number): { port: string; octets: number }[] {
    const { parts = {} } = this.gateway;
    const courses = this.courses.map(({ course, stream }) => ({ stream, part: parts[course.rule.id] ?? 0 }));
    const rest = Math.max(0, 1 - courses.reduce((sum, { part }) => sum + part, 0));
    return this.played.flatMap(({ uplink: { port } }) => {
      const shareOf = (stream: Stream): number =>
        stream.told().spans.reduce((sum, { from, to, used }) => {
          return sum + (used.find((each) => each.port === port)?.share ?? 0) * (to - from);
        }, 0);
      const seconds = courses.reduce((sum, each) => sum + each.part * shareOf(each.stream), rest * shareOf(this.usual));
      return seconds > 0 ? [{ port, octets: Math.round(seconds * rate) }] : [];
    });
  }

  private told(): Rehearsed {
    const courses = this.courses.map(({ course, stream }): CourseOutcome => {
      const outcome = stream.told();
      const unmet = outcome.spans.reduce((sum, span) => sum + (span.unmet ? span.to - span.from : 0), 0);
      return { id: course.rule.id, ...outcome, unmet };
    });
    return {
      ...{ gatewayId: this.gateway.id, ...this.usual.told(), noticed: this.noticed },
      ...(this.gateway.rate === undefined ? {} : { carried: this.carried(this.gateway.rate) }),
      ...(courses.length > 0 ? { courses } : {}),
    };
  }
}

const isUnderWay = ({ from, to }: Mishap, now: number): boolean =>
  from <= now + 1e-9 && (to === null || now < to - 1e-9);
const nameOf = ({ to }: Target): string => to;
