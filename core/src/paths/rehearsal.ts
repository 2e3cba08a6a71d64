import { randomFrom } from '../base';
import { checked, healthy, unplugged, type Health } from './health';
import { Together, type TogetherRule, type TogetherUplink } from './leaving';
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
}

/** A gateway with its uplinks. */
export interface RehearsedGateway {
  readonly id: string;
  readonly uplinks: readonly RehearsedUplink[];
  readonly rule: TogetherRule;
  /** Whether sessions stay where they began as long as that is good. */
  readonly stay: boolean;
}

/** What is done to an uplink. `cut`: its link goes, which its gateway sees at once; `silent`: nothing gets through; `lossy` and `slow`: less gets through, or later. */
export const MISHAPS = ['cut', 'silent', 'lossy', 'slow', 'target'] as const;
export type MishapKind = (typeof MISHAPS)[number];

/** Something that happens at a moment, and ends at another. Times in seconds from the start. */
export interface Mishap {
  readonly what: MishapKind;
  readonly from: number;
  /** Null: it lasts to the end. */
  readonly to: number | null;
  readonly gatewayId: string;
  /** Of the uplink; of `target`: it does not answer through this one. */
  readonly port: string;
  /** Of `lossy`: share of packets from 0 to 1; of `slow`: milliseconds more. */
  readonly amount?: number;
  /** Of `target`. */
  readonly target?: string;
}

/** When checks fall, beside the moment at which something happens: as lucky, as usual, or as unlucky as can be. */
export const PHASES = ['best', 'mean', 'worst'] as const;
export type Phase = (typeof PHASES)[number];

/** A while in which nothing changes. Times in seconds. */
export interface PathSpan {
  readonly from: number;
  readonly to: number;
  /** Ports that new sessions leave by, with their shares from 0 to 1. */
  readonly used: readonly { readonly port: string; readonly share: number }[];
  /** Share of sessions that get through, those that began before included. */
  readonly served: number;
}

/** What became of one gateway. */
export interface Rehearsed {
  readonly gatewayId: string;
  readonly spans: readonly PathSpan[];
  /** What it noticed, and when. */
  readonly noticed: readonly { readonly at: number; readonly port: string; readonly what: 'gone' | 'back' }[];
  /** Seconds for which some session got nothing through, and for which none did. */
  readonly outage: number;
  readonly dark: number;
  /** Longest of these at a stretch: what somebody who sits there waits at the most. */
  readonly longest: number;
  /** Share of sessions that broke: those that an uplink took with it, or that were moved from one that was good. */
  readonly broken: number;
}

/** Mean length of a session in seconds, after which whoever stayed somewhere has begun anew elsewhere. */
const SESSION_S = 120;
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
  /** Share of all sessions that are on it. */
  sessions: number;
}

/** What is to happen next of what was sent: an answer that came, or did not. */
interface Known {
  readonly at: number;
  readonly of: Played;
  readonly answered: boolean;
}

/**
 * What mishaps do to a gateway, worked out event by event with the very health and choice that gateways use. Chance is the same each time.
 * @param seconds how long it goes on, up to a day. @param phase where checks fall beside what happens.
 * @throws RangeError for a longer one.
 */
export function rehearse(
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
  private readonly together: Together;
  private readonly known: Known[] = [];
  private readonly turns: number[];
  private readonly spans: PathSpan[] = [];
  private readonly noticed: { at: number; port: string; what: 'gone' | 'back' }[] = [];
  private readonly draw = randomFrom(7);
  private broken = 0;
  private usedBefore: readonly { readonly port: string; readonly share: number }[] = [];

  constructor(
    private readonly gateway: RehearsedGateway,
    private readonly mishaps: readonly Mishap[],
    private readonly seconds: number,
    phase: Phase,
  ) {
    this.together = new Together(gateway.uplinks, gateway.rule);
    this.played = gateway.uplinks.map((uplink) => {
      const first = this.mishaps.find(({ port }) => port === uplink.port)?.from ?? 0;
      const { interval } = uplink.watch;
      const offset = (first + AT[phase] * interval) % interval;
      const condition = this.conditionOf({ uplink }, 0);
      return { uplink, health: healthy(0), nextCheck: offset, condition, sessions: 0 };
    });
    for (const one of this.played)
      if (!one.uplink.linked) {
        one.health = unplugged(one.health, 0);
        one.nextCheck = Infinity;
        this.together.told(one.uplink.port, false, 0);
        this.together.link(one.uplink.port, false);
      }
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
      this.add(now, next);
      now = next;
      if (now < this.seconds) this.happen(now);
    }
    return this.told();
  }

  /** When something happens next: a mishap, a check, an answer, or an uplink that may be used again. */
  private nextEvent(now: number): number {
    const due = this.together.due(now * 1000);
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
  private isCalm({ uplink, health, condition }: Played): boolean {
    const { carries, loss, delay, gone } = condition;
    const { watch } = uplink;
    if (health.run > 0) return false;
    const inTime = carries && delay <= watch.timeout * 1000;
    const asked = gone.size === 0 || watch.targets.some((each) => !gone.has(nameOf(each)));
    return health.good ? inTime && asked && loss === 0 : health.clear === null && !(inTime && asked);
  }

  private happen(now: number): void {
    const isTurn = now === 0 || this.turns.some((at) => Math.abs(at - now) < 1e-9);
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
      this.put(answer.of, checked(answer.of.health, answer.answered, now * 1000, answer.of.uplink.watch), now);
    }
    this.place(now);
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
      ({ port, from, to }) => port === uplink.port && from <= now + 1e-9 && (to === null || now < to - 1e-9),
    );
    const amount = (what: MishapKind): number =>
      mine.filter((each) => each.what === what).reduce((sum, each) => sum + (each.amount ?? 0), 0);
    const link = uplink.linked && !mine.some(({ what }) => what === 'cut');
    const loss = Math.min(1, uplink.loss + amount('lossy'));
    return {
      link,
      carries: link && loss < 1 && !mine.some(({ what }) => what === 'silent'),
      loss,
      delay: uplink.delay + amount('slow'),
      gone: new Set(mine.flatMap(({ what, target }) => (what === 'target' && target ? [target] : []))),
    };
  }

  /** Puts sessions where they leave now: those of uplinks that are gone, and all of them where they do not stay. */
  private place(now: number): void {
    const used = this.together.used(now * 1000);
    const sum = used.reduce((total, { weight }) => total + weight, 0);
    const shares = used.map(({ port, weight }) => ({ port, share: weight / sum }));
    const first = this.usedBefore.length === 0 && now === 0;
    let loose = first ? 1 : 0;
    for (const one of this.played) {
      const share = shares.find(({ port }) => port === one.uplink.port)?.share ?? 0;
      // What is more than its share moves where sessions do not stay.
      const kept = one.health.good
        ? this.gateway.stay
          ? one.sessions
          : Math.min(one.sessions, share)
        : share > 0
          ? one.sessions
          : 0;
      loose += one.sessions - kept;
      if (!first) this.broken += one.sessions - kept;
      one.sessions = kept;
    }
    const held = this.played.reduce((total, { sessions }) => total + sessions, 0);
    loose = Math.max(loose, 1 - held);
    if (shares.length > 0) {
      const parts = this.played.map((one) => {
        const share = shares.find(({ port }) => port === one.uplink.port)?.share ?? 0;
        return loose * this.lack(one, share, shares);
      });
      this.played.forEach((one, i) => (one.sessions += parts[i]!));
    }
    this.usedBefore = shares;
  }

  /** How much of what is loose an uplink takes: those that have less than their share first. */
  private lack(
    one: Played,
    share: number,
    shares: readonly { readonly port: string; readonly share: number }[],
  ): number {
    if (this.gateway.stay) return share;
    const lacks = shares.map(({ port, share: wanted }) => {
      const has = this.played.find(({ uplink }) => uplink.port === port)!.sessions;
      return { port, lack: Math.max(0, wanted - has) };
    });
    const all = lacks.reduce((sum, { lack }) => sum + lack, 0);
    return all > 0 ? (lacks.find(({ port }) => port === one.uplink.port)?.lack ?? 0) / all : share;
  }

  private add(from: number, to: number): void {
    if (to <= from) return;
    const served = this.played.reduce((sum, one) => sum + (one.condition.carries ? one.sessions : 0), 0);
    const used = this.usedBefore;
    const last = this.spans.at(-1);
    if (last && same(last, { used, served })) this.spans[this.spans.length - 1] = { ...last, to };
    else this.spans.push({ from, to, used, served });
    // Sessions end, and new ones begin where they are shared to now.
    const part = 1 - Math.exp(-(to - from) / SESSION_S);
    for (const one of this.played) {
      const share = used.find(({ port }) => port === one.uplink.port)?.share ?? 0;
      if (used.length > 0) one.sessions += (share - one.sessions) * part;
    }
  }

  private told(): Rehearsed {
    const dark = this.spans.filter(({ served }) => served <= 1e-6);
    const less = this.spans.filter(({ served }) => served < 1 - 1e-6);
    const total = (spans: readonly PathSpan[]): number => spans.reduce((sum, { from, to }) => sum + to - from, 0);
    let [longest, run, end] = [0, 0, -1];
    for (const { from, to } of less) {
      run = Math.abs(from - end) < 1e-9 ? run + to - from : to - from;
      end = to;
      longest = Math.max(longest, run);
    }
    const { id } = this.gateway;
    return {
      ...{ gatewayId: id, spans: this.spans, noticed: this.noticed },
      ...{ outage: total(less), dark: total(dark), longest, broken: this.broken },
    };
  }
}

const nameOf = ({ to }: Target): string => to;
const same = (a: Pick<PathSpan, 'used' | 'served'>, b: Pick<PathSpan, 'used' | 'served'>): boolean =>
  Math.abs(a.served - b.served) < 1e-6 &&
  a.used.length === b.used.length &&
  a.used.every(({ port, share }, i) => port === b.used[i]!.port && Math.abs(share - b.used[i]!.share) < 1e-9);
