import type { UsedUplink } from './leaving';

/** A while in which nothing changes. Times in seconds. */
export interface PathSpan {
  readonly from: number;
  readonly to: number;
  /** Ports that new sessions leave by, with their shares from 0 to 1. */
  readonly used: readonly { readonly port: string; readonly share: number }[];
  /** Share of sessions that get through, those that began before included. */
  readonly served: number;
  /** Of a course: what it needs is not met. */
  readonly unmet?: true;
}

/** What became of sessions that leave alike. */
export interface Outcome {
  readonly spans: readonly PathSpan[];
  /** Seconds for which some session got nothing through, and for which none did. */
  readonly outage: number;
  readonly dark: number;
  /** Longest of these at a stretch: what somebody who sits there waits at the most. */
  readonly longest: number;
  /** Share of sessions that broke: those that an uplink took with it, or that were moved from one that was good. */
  readonly broken: number;
}

/** What spans come to that follow each other. @param broken share of sessions that broke. */
export function outcomeOf(spans: readonly PathSpan[], broken: number): Outcome {
  const dark = spans.filter(({ served }) => served <= 1e-6);
  const less = spans.filter(({ served }) => served < 1 - 1e-6);
  const total = (some: readonly PathSpan[]): number => some.reduce((sum, { from, to }) => sum + to - from, 0);
  let [longest, run, end] = [0, 0, -1];
  for (const { from, to } of less) {
    run = Math.abs(from - end) < 1e-9 ? run + to - from : to - from;
    end = to;
    longest = Math.max(longest, run);
  }
  return { spans, outage: total(less), dark: total(dark), longest, broken };
}

/** Mean length of a session in seconds, after which whoever stayed somewhere has begun anew elsewhere. */
const SESSION_S = 120;

/** Sessions that leave alike, spread over uplinks, while something happens to those. */
export class Stream {
  private readonly spans: PathSpan[] = [];
  private readonly sessions: Map<string, number>;
  private broken = 0;
  private before: PathSpan['used'] = [];
  private begun = false;
  private unmet = false;

  /** @param stay whether sessions stay where they began as long as that is good. */
  constructor(
    private readonly ports: readonly string[],
    private readonly stay: boolean,
  ) {
    this.sessions = new Map(ports.map((port) => [port, 0]));
  }

  /** Puts sessions where they leave now: those of uplinks that are gone, and all of them where they do not stay. */
  place(used: readonly UsedUplink[], isGood: (port: string) => boolean, unmet = false): void {
    const sum = used.reduce((total, { weight }) => total + weight, 0);
    const shares = used.map(({ port, weight }) => ({ port, share: weight / sum }));
    let loose = this.begun ? 0 : 1;
    for (const port of this.ports) {
      const now = this.sessions.get(port)!;
      const share = shareOf(shares, port);
      // What is more than its share moves where sessions do not stay.
      const kept = isGood(port) ? (this.stay ? now : Math.min(now, share)) : share > 0 ? now : 0;
      loose += now - kept;
      if (this.begun) this.broken += now - kept;
      this.sessions.set(port, kept);
    }
    const held = [...this.sessions.values()].reduce((total, each) => total + each, 0);
    loose = Math.max(loose, 1 - held);
    if (shares.length > 0) {
      const parts = this.ports.map((port) => loose * this.lack(port, shares));
      this.ports.forEach((port, i) => this.sessions.set(port, this.sessions.get(port)! + parts[i]!));
    }
    this.before = shares;
    this.begun = true;
    this.unmet = unmet;
  }

  /** Time passes. */
  pass(from: number, to: number, carries: (port: string) => boolean): void {
    if (to <= from) return;
    const served = this.ports.reduce((sum, port) => sum + (carries(port) ? this.sessions.get(port)! : 0), 0);
    const used = this.before;
    const span: PathSpan = { from, to, used, served, ...(this.unmet ? { unmet: true as const } : {}) };
    const last = this.spans.at(-1);
    if (last && same(last, span)) this.spans[this.spans.length - 1] = { ...last, to };
    else this.spans.push(span);
    if (used.length === 0) return;
    // Sessions end, and new ones begin where they are shared to now.
    const part = 1 - Math.exp(-(to - from) / SESSION_S);
    for (const port of this.ports) {
      const now = this.sessions.get(port)!;
      this.sessions.set(port, now + (shareOf(used, port) - now) * part);
    }
  }

  told = (): Outcome => outcomeOf(this.spans, this.broken);

  /** How much of what is loose an uplink takes: those that have less than their share first. */
  private lack(port: string, shares: PathSpan['used']): number {
    const share = shareOf(shares, port);
    if (this.stay) return share;
    const lacks = shares.map((one) => ({ ...one, lack: Math.max(0, one.share - this.sessions.get(one.port)!) }));
    const all = lacks.reduce((sum, { lack }) => sum + lack, 0);
    return all > 0 ? (lacks.find((one) => one.port === port)?.lack ?? 0) / all : share;
  }
}

const shareOf = (shares: PathSpan['used'], port: string): number =>
  shares.find((each) => each.port === port)?.share ?? 0;
const same = (a: PathSpan, b: PathSpan): boolean =>
  Math.abs(a.served - b.served) < 1e-6 &&
  a.unmet === b.unmet &&
  a.used.length === b.used.length &&
  a.used.every(({ port, share }, i) => port === b.used[i]!.port && Math.abs(share - b.used[i]!.share) < 1e-9);
