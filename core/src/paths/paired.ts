import { parseIp } from '../address';
import {
  rehearseAlone,
  type CourseOutcome,
  type Mishap,
  type PairSelf,
  type Phase,
  type Rehearsed,
  type RehearsedGateway,
  type RehearsedPair,
  type Turn,
} from './rehearsal';
import { outcomeOf, type PathSpan } from './stream';
import { downMs, Vrrp, type Advertisement } from './vrrp';

/** How an uplink of the other gateway of a pair is called in what is told of one. */
export const portOfOther = (gatewayId: string, port: string): string => `${gatewayId}:${port}`;

/** How soon after something happens the next advertisement would fall, in intervals: the sooner, the longer ago was the last that was heard. */
const AT: Readonly<Record<Phase, number>> = { best: 1e-6, mean: 0.5, worst: 1 - 1e-6 };

/**
 * What mishaps do to a gateway, and to the site behind it where it is one of a pair: each of the two by itself, and who of them routes by the very state
 * machine that gateways go by (RFC 9568). What leaves goes by the uplinks of whoever routes; a session that is moved to the other begins anew there, since it
 * is known outside by another address.
 * @param seconds how long it goes on, up to a day. @param phase where checks and advertisements fall beside what happens.
 * @throws RangeError for a longer one.
 */
export function rehearse(
  { pair, ...gateway }: RehearsedGateway,
  mishaps: readonly Mishap[],
  seconds: number,
  phase: Phase = 'mean',
): Rehearsed {
  const own = rehearseAlone(gateway, mishaps, seconds, phase);
  if (!pair) return own;
  const other = rehearseAlone(pair.gateway, mishaps, seconds, phase);
  const turns = takeTurns({ gateway, pair, own, other }, mishaps, seconds, phase);
  const moved = turns
    .flatMap(({ gatewayId }) => gatewayId ?? [])
    .filter((id, i, all) => i > 0 && all[i - 1] !== id).length;
  // What broke with a gateway that lost its power is what is moved to the other.
  const died = mishaps.filter(({ what, gatewayId }) => what === 'off' && gatewayId === gateway.id).length;
  const broken = (by: { readonly broken: number }): number => Math.max(0, by.broken - died) + moved;
  const usual = joined(turns, own, other, (of) => of);
  const courses = (own.courses ?? []).map((course): CourseOutcome => {
    const spans = joined(turns, own, other, (of) => of.courses?.find(({ id }) => id === course.id) ?? of);
    const unmet = spans.reduce((sum, span) => sum + (span.unmet ? span.to - span.from : 0), 0);
    return { id: course.id, ...outcomeOf(spans, broken(course)), unmet };
  });
  return {
    ...{ gatewayId: gateway.id, ...outcomeOf(usual, broken(own)), noticed: own.noticed, turns },
    unrouted: turns.reduce((sum, each) => sum + (each.gatewayId === null ? each.to - each.from : 0), 0),
    ...(courses.length > 0 ? { courses } : {}),
  };
}

/** What somebody gets who leaves by whoever routes. */
function joined(
  turns: readonly Turn[],
  own: Rehearsed,
  other: Rehearsed,
  of: (played: Rehearsed) => { readonly spans: readonly PathSpan[] },
): PathSpan[] {
  const spans: PathSpan[] = [];
  const theirs = of(other).spans.map((span): PathSpan => ({
    ...span,
    used: span.used.map(({ port, share }) => ({ port: portOfOther(other.gatewayId, port), share })),
  }));
  for (const { from, to, gatewayId } of turns) {
    if (gatewayId === null) {
      put(spans, { from, to, used: [], served: 0 });
      continue;
    }
    for (const span of gatewayId === own.gatewayId ? of(own).spans : theirs)
      if (span.to > from && span.from < to)
        put(spans, { ...span, from: Math.max(from, span.from), to: Math.min(to, span.to) });
  }
  return spans;
}

/** Spans that say the same follow each other as one. */
function put(spans: PathSpan[], span: PathSpan): void {
  const last = spans.at(-1);
  const isSame =
    last &&
    last.served === span.served &&
    last.unmet === span.unmet &&
    JSON.stringify(last.used) === JSON.stringify(span.used);
  if (isSame) spans[spans.length - 1] = { ...last, to: span.to };
  else spans.push(span);
}

/** One of the two while they are played. */
interface Player {
  readonly id: string;
  readonly self: PairSelf;
  readonly address: bigint;
  readonly vrrp: Vrrp;
  /** What it noticed of its uplinks, and is still to come. */
  readonly noticed: Rehearsed['noticed'][number][];
  readonly gone: Set<string>;
  on: boolean;
}

interface Both {
  readonly gateway: Omit<RehearsedGateway, 'pair'>;
  readonly pair: RehearsedPair;
  readonly own: Rehearsed;
  readonly other: Rehearsed;
}

function takeTurns(
  { gateway, pair: { own: self, other: otherSelf, gateway: mate, first, advert }, own, other }: Both,
  mishaps: readonly Mishap[],
  seconds: number,
  phase: Phase,
): Turn[] {
  const waiting: { readonly from: string; readonly said: Advertisement }[] = [];
  const player = (of: Omit<RehearsedGateway, 'pair'>, by: PairSelf, { noticed }: Rehearsed): Player => {
    const address = parseIp(by.address)?.value ?? 0n;
    const vrrp = new Vrrp({ priority: by.priority, advert, address }, (said) => waiting.push({ from: of.id, said }));
    const gone = new Set(of.uplinks.flatMap(({ port, linked }) => (linked ? [] : [port])));
    return { id: of.id, self: by, address, vrrp, noticed: [...noticed], gone, on: true };
  };
  const [mine, theirs] = [player(gateway, self, own), player(mate, otherSelf, other)];
  const players = first ? [mine, theirs] : [theirs, mine];
  const settle = ({ self: { tracks, any, priority, lowered }, gone, address, vrrp }: Player): void => {
    const lost = tracks.filter((port) => gone.has(port)).length;
    const isLow = tracks.length > 0 && (any ? lost > 0 : lost === tracks.length);
    vrrp.be({ priority: isLow ? lowered : priority, advert, address });
  };
  const deliver = (at: number): void => {
    for (let next = waiting.shift(); next; next = waiting.shift())
      for (const each of players) if (each.id !== next.from && each.on) each.vrrp.hear(next.said, at);
  };
  // They have been at it for a while, so that the first advertisement after something happened falls as it is asked for.
  const ids = players.map(({ id }) => id);
  const happens = mishaps.find(({ gatewayId }) => ids.includes(gatewayId))?.from ?? 0;
  const interval = advert * 10;
  const start = ((happens * 1000 + AT[phase] * interval) % interval) - interval * BEFORE;
  for (const each of players) settle(each);
  players[0]!.vrrp.start(start - downMs(players[0]!.self.priority, advert));
  players[0]!.vrrp.pass(start);
  players[1]!.vrrp.start(start);
  deliver(start);
  const offs = mishaps.filter(({ what, gatewayId }) => what === 'off' && ids.includes(gatewayId));
  const isOff = (id: string, at: number): boolean =>
    offs.some(
      ({ gatewayId, from, to }) => gatewayId === id && from <= at + TINY_S && (to === null || at < to - TINY_S),
    );
  const powers = [...new Set(offs.flatMap(({ from, to }) => [from, ...(to === null ? [] : [to])]))];
  const turns: Turn[] = [];
  const note = (from: number, to: number): void => {
    if (to <= Math.max(0, from)) return;
    const gatewayId = players.find(({ on, vrrp }) => on && vrrp.state === 'active')?.id ?? null;
    const last = turns.at(-1);
    if (last && last.gatewayId === gatewayId) turns[turns.length - 1] = { ...last, to };
    else turns.push({ from: Math.max(0, from), to, gatewayId });
  };
  for (let now = start / 1000; now < seconds;) {
    const next = Math.min(
      seconds,
      ...players.map(({ vrrp: { due } }) => (due === null ? Infinity : Math.max(now, due / 1000))),
      ...players.map(({ noticed: [soon] }) => (soon ? Math.max(now, soon.at) : Infinity)),
      ...powers.filter((at) => at > now),
    );
    note(now, next);
    now = next;
    for (const each of players) {
      const off = isOff(each.id, now);
      if (off === each.on) {
        each.on = !off;
        if (off) each.vrrp.stop(true);
        else each.vrrp.start(now * 1000);
      }
      while (each.noticed[0] && each.noticed[0].at <= now + TINY_S) {
        const { port, what } = each.noticed.shift()!;
        if (what === 'started') each.gone.clear();
        else if (what === 'gone') each.gone.add(port);
        else each.gone.delete(port);
      }
      settle(each);
    }
    for (const { on, vrrp } of players) if (on) vrrp.pass((now + TINY_S) * 1000);
    deliver(now * 1000);
  }
  return turns;
}

/** Advertisements that are played before a rehearsal begins; what is the same moment as numbers go, in seconds. */
const [BEFORE, TINY_S] = [20, 1e-9];
