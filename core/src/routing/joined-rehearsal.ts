import { pathThrough, type JoinedEnd } from './joined-way';

/** What is done to joined sites on a timeline; times in seconds from the start. */
export interface JoinedMishap {
  /** `site`: its gateway is gone, with all its tunnels; `tunnel`: nothing gets through the one between two sites. */
  readonly what: 'site' | 'tunnel';
  readonly siteId: string;
  /** Of a tunnel its other end. */
  readonly otherId?: string;
  readonly from: number;
  /** Null: it lasts to the end. */
  readonly to: number | null;
}

/** A while in which nothing changes. Times in seconds. */
export interface JoinedSpan {
  readonly from: number;
  readonly to: number;
  /** Ids of the sites that packets are sent by, and their answers; null: whoever sends them knows no way. */
  readonly path: readonly string[] | null;
  readonly back: readonly string[] | null;
  /** Whether both get there. */
  readonly served: boolean;
}

/** What became of what two sites say to each other. */
export interface JoinedRehearsed {
  readonly spans: readonly JoinedSpan[];
  /** Seconds for which nothing came of it, in all and at a stretch. */
  readonly outage: number;
  readonly longest: number;
}

/** How gateways ask the other ends of their tunnels: every so many seconds, and how many questions without an answer make it one that is down. */
export interface TunnelWatch {
  readonly asks: number;
  readonly losses: number;
}

/** How a rehearsal across sites is played. */
export interface JoinedPlay extends TunnelWatch {
  readonly seconds: number;
  /** When questions fall beside the moment at which something happens; absent: as usual. */
  readonly phase?: JoinedPhase;
  /** Whether there can be no tunnel between two sites, since neither finds the other; absent: there can between all. */
  readonly never?: (a: string, b: string) => boolean;
}

/** When gateways ask the other ends of their tunnels, beside the moment at which something happens. */
export type JoinedPhase = 'best' | 'mean' | 'worst';
const AT: Readonly<Record<JoinedPhase, number>> = { best: 1e-6, mean: 0.5, worst: 1 - 1e-6 };
const TINY_S = 1e-9;
/** Most seconds of one. */
export const LONGEST_JOINED_S = 3600;

/**
 * What mishaps do to the way between two joined sites. Each gateway asks the other ends of its tunnels by itself, holds one for down after as many questions
 * without an answer as it is told, and for up with the first that is answered; one that was without power begins with none. What is sent before that is noticed is lost.
 * @throws RangeError for one that lasts too long, or between sites that are not joined.
 */
export function rehearseJoined(
  ends: readonly JoinedEnd[],
  { from, to }: { readonly from: string; readonly to: string },
  mishaps: readonly JoinedMishap[],
  { seconds, asks: interval, losses, phase = 'mean', never = () => false }: JoinedPlay,
): JoinedRehearsed {
  if (!(seconds > 0 && seconds <= LONGEST_JOINED_S)) throw new RangeError('it lasts up to an hour');
  const byId = new Map(ends.map((end) => [end.id, end]));
  const [start, target] = [byId.get(from), byId.get(to)];
  if (!start || !target || start === target) throw new RangeError('both have to be joined sites, and not the same');
  const isUnderWay = (mishap: JoinedMishap, at: number): boolean =>
    mishap.from <= at + TINY_S && (mishap.to === null || at < mishap.to - TINY_S);
  const isOff = (id: string, at: number): boolean =>
    mishaps.some((each) => each.what === 'site' && each.siteId === id && isUnderWay(each, at));
  const carries = (a: string, b: string, at: number): boolean =>
    !never(a, b) &&
    !isOff(a, at) &&
    !isOff(b, at) &&
    !mishaps.some(
      (each) =>
        each.what === 'tunnel' &&
        isUnderWay(each, at) &&
        [each.siteId, each.otherId].includes(a) &&
        [each.siteId, each.otherId].includes(b),
    );
  // Only these are on a way between the two.
  const near = ends.filter(
    ({ id, role }) => id === from || id === to || (role === 'hub' && [start, target].some((end) => isHubOf(id, end))),
  );
  const beliefs = new Map<string, { up: boolean; misses: number }>();
  const keyOf = (a: string, b: string): string => `${a} ${b}`;
  for (const a of near)
    for (const b of near) if (a !== b) beliefs.set(keyOf(a.id, b.id), { up: !never(a.id, b.id), misses: 0 });
  const believes = (a: string, b: string): boolean => beliefs.get(keyOf(a, b))?.up ?? false;
  const wayFrom = (one: JoinedEnd, other: JoinedEnd): readonly string[] | null =>
    // Whether a tunnel leads to who it is for is what the hub at its other end knows.
    pathThrough(ends, byId, (a, b) => (a === other.id ? believes(b, a) : believes(a, b)), one, other);
  const turns = [...new Set(mishaps.flatMap((each) => [each.from, ...(each.to === null ? [] : [each.to])]))].filter(
    (at) => at >= 0 && at < seconds,
  );
  const first = Math.min(...turns, seconds);
  let asks = (first + AT[phase] * interval) % interval;
  const off = new Set<string>();
  const spans: JoinedSpan[] = [];
  const note = (at: number, until: number): void => {
    if (until <= at) return;
    const [path, back] = [wayFrom(start, target), wayFrom(target, start)].map((way) => {
      return way && !isOff(way[0]!, at) ? way : null;
    }) as [JoinedSpan['path'], JoinedSpan['back']];
    const gets = (way: JoinedSpan['path']): boolean =>
      way !== null && way.slice(1).every((id, i) => carries(way[i]!, id, at));
    const span: JoinedSpan = { from: at, to: until, path, back, served: gets(path) && gets(back) };
    const last = spans.at(-1);
    if (last && last.served === span.served && String(last.path) === String(path) && String(last.back) === String(back))
      spans[spans.length - 1] = { ...last, to: until };
    else spans.push(span);
  };
  for (let now = 0; now < seconds;) {
    for (const { id } of near) {
      if (isOff(id, now) === off.has(id)) continue;
      if (isOff(id, now)) off.add(id);
      else off.delete(id);
      for (const other of near)
        if (other.id !== id) Object.assign(beliefs.get(keyOf(id, other.id))!, { up: false, misses: 0 });
    }
    if (asks <= now + TINY_S) {
      asks += interval;
      for (const [key, belief] of beliefs) {
        const [a, b] = key.split(' ') as [string, string];
        if (off.has(a)) continue;
        const answered = carries(a, b, now);
        belief.misses = answered ? 0 : belief.misses + 1;
        belief.up = answered || (belief.up && belief.misses < losses);
      }
    }
    const next = Math.min(seconds, asks, ...turns.filter((at) => at > now + TINY_S));
    note(now, next);
    now = next;
  }
  let [outage, longest, run] = [0, 0, 0];
  for (const span of spans) {
    run = span.served ? 0 : run + span.to - span.from;
    if (!span.served) outage += span.to - span.from;
    longest = Math.max(longest, run);
  }
  return { spans, outage, longest };
}

const isHubOf = (id: string, { role, hubs }: JoinedEnd): boolean => role === 'hub' || hubs.includes(id);
