import { rehearse, type Mishap, type Phase, type Rehearsed, type RehearsedGateway } from './rehearsal';
import { outcomeOf, type Outcome, type PathSpan } from './stream';
import { downMs, Vrrp, type Advertisement } from './vrrp';

/** One of a pair of gateways, as a rehearsal is told of it. */
export interface PairedGateway extends RehearsedGateway {
  /** RFC 9568 §5.2.4: while what it tracks is good, and while it is not. */
  readonly priority: number;
  readonly lowered: number;
  /** Ports of the uplinks that it tracks. */
  readonly tracks: readonly string[];
  /** Its own address as a number. */
  readonly address: bigint;
}

/** Two gateways that take turns. */
export interface RehearsedPair {
  readonly first: PairedGateway;
  readonly second: PairedGateway;
  /** Hundredths of a second between advertisements. */
  readonly advert: number;
  /** Whether one that tracks several is lowered when any of them fails; else once all have. */
  readonly any: boolean;
}

/** Who holds the segments’ addresses for a while, in seconds; null: nobody, or one without power. */
export interface Turn {
  readonly from: number;
  readonly to: number;
  readonly gatewayId: string | null;
}

/** What became of a pair. */
export interface PairOutcome extends Outcome {
  /** Who routes when. */
  readonly turns: readonly Turn[];
  /** Seconds for which nobody did: within the site nothing goes from one segment to another then. */
  readonly unrouted: number;
  /** What each of the two came to by itself. */
  readonly gateways: readonly Rehearsed[];
}

/** How soon after something happens the next advertisement would fall, in intervals: the sooner, the longer ago was the last that was heard. */
const AT: Readonly<Record<Phase, number>> = { best: 1e-6, mean: 0.5, worst: 1 - 1e-6 };

/**
 * What mishaps do to a pair of gateways: each by itself as `rehearse` has it, and who of the two routes by the very state machine that gateways go by (RFC 9568).
 * What leaves goes by the uplinks of whoever routes; a session that is moved to the other begins anew there, since it is known outside by another address.
 * @param seconds how long it goes on, up to a day. @param phase where checks and advertisements fall beside what happens.
 * @throws RangeError for a longer one.
 */
export function rehearsePair(
  pair: RehearsedPair,
  mishaps: readonly Mishap[],
  seconds: number,
  phase: Phase = 'mean',
): PairOutcome {
  const both = [pair.first, pair.second] as const;
  const gateways = both.map((gateway) => rehearse(gateway, mishaps, seconds, phase));
  const turns = takeTurns(pair, mishaps, seconds, phase, gateways);
  const spans: PathSpan[] = [];
  for (const { from, to, gatewayId } of turns) {
    const own = gateways.find((each) => each.gatewayId === gatewayId);
    if (!own) {
      put(spans, { from, to, used: [], served: 0 });
      continue;
    }
    for (const span of own.spans)
      if (span.to > from && span.from < to)
        put(spans, { ...span, from: Math.max(from, span.from), to: Math.min(to, span.to) });
  }
  let moved = 0;
  let last: string | null = null;
  for (const { gatewayId } of turns) {
    if (gatewayId !== null && last !== null && gatewayId !== last) moved++;
    last = gatewayId ?? last;
  }
  const broken = moved + (gateways.find(({ gatewayId }) => gatewayId === pair.first.id)?.broken ?? 0);
  const unrouted = turns.reduce((sum, each) => sum + (each.gatewayId === null ? each.to - each.from : 0), 0);
  return { ...outcomeOf(spans, broken), turns, unrouted, gateways };
}

/** Spans that say the same follow each other as one. */
function put(spans: PathSpan[], span: PathSpan): void {
  const last = spans.at(-1);
  if (last && last.served === span.served && JSON.stringify(last.used) === JSON.stringify(span.used))
    spans[spans.length - 1] = { ...last, to: span.to };
  else spans.push(span);
}

/** One of the two while they are played. */
interface Player {
  readonly gateway: PairedGateway;
  readonly vrrp: Vrrp;
  /** What it noticed of its uplinks, and is still to come. */
  readonly noticed: Rehearsed['noticed'][number][];
  readonly gone: Set<string>;
  on: boolean;
}

function takeTurns(
  { first, second, advert, any }: RehearsedPair,
  mishaps: readonly Mishap[],
  seconds: number,
  phase: Phase,
  played: readonly Rehearsed[],
): Turn[] {
  const waiting: { readonly from: Player; readonly said: Advertisement }[] = [];
  const players = [first, second].map((gateway, i): Player => {
    const self = { priority: gateway.priority, advert, address: gateway.address };
    const vrrp: Vrrp = new Vrrp(self, (said) => waiting.push({ from: players[i]!, said }));
    const gone = new Set(gateway.uplinks.flatMap(({ port, linked }) => (linked ? [] : [port])));
    return { gateway, vrrp, noticed: [...played[i]!.noticed], gone, on: true };
  });
  const settle = (player: Player): void => {
    const { tracks, priority, lowered, address } = player.gateway;
    const lost = tracks.filter((port) => player.gone.has(port)).length;
    const isLow = tracks.length > 0 && (any ? lost > 0 : lost === tracks.length);
    player.vrrp.be({ priority: isLow ? lowered : priority, advert, address });
  };
  const deliver = (at: number): void => {
    for (let next = waiting.shift(); next; next = waiting.shift())
      for (const player of players) if (player !== next.from && player.on) player.vrrp.hear(next.said, at);
  };
  // They have been at it for a while, so that the first advertisement after something happened falls as it is asked for.
  const happens = mishaps.find(({ gatewayId }) => gatewayId === first.id || gatewayId === second.id)?.from ?? 0;
  const interval = advert * 10;
  const beat = (happens * 1000 + AT[phase] * interval) % interval;
  const start = beat - interval * 20;
  for (const player of players) settle(player);
  const [one, other] = [players[0]!.vrrp, players[1]!.vrrp];
  one.start(start - downMs(first.priority, advert));
  one.pass(start);
  other.start(start);
  deliver(start);
  const isOff = (id: string, at: number): boolean =>
    mishaps.some(
      ({ what, gatewayId, from, to }) =>
        what === 'off' && gatewayId === id && from <= at + 1e-9 && (to === null || at < to - 1e-9),
    );
  const powers = [
    ...new Set(mishaps.flatMap(({ what, from, to }) => (what === 'off' ? [from, ...(to === null ? [] : [to])] : []))),
  ];
  const turns: Turn[] = [];
  const note = (from: number, to: number): void => {
    if (to <= Math.max(0, from)) return;
    const holder = players.find(({ on, vrrp }) => on && vrrp.state === 'active');
    const gatewayId = holder?.gateway.id ?? null;
    const last = turns.at(-1);
    if (last && last.gatewayId === gatewayId) turns[turns.length - 1] = { ...last, to };
    else turns.push({ from: Math.max(0, from), to, gatewayId });
  };
  let now = start / 1000;
  while (now < seconds) {
    const next = Math.min(
      seconds,
      ...players.flatMap(({ vrrp }) => (vrrp.due === null ? [] : [Math.max(now, vrrp.due / 1000)])),
      ...players.flatMap(({ noticed }) => (noticed[0] ? [Math.max(now, noticed[0].at)] : [])),
      ...powers.filter((at) => at > now),
    );
    note(now, next);
    now = next;
    if (now >= seconds) break;
    for (const player of players) {
      const off = isOff(player.gateway.id, now);
      if (off === player.on) {
        player.on = !off;
        if (off) player.vrrp.stop(true);
        else player.vrrp.start(now * 1000);
      }
      while (player.noticed[0] && player.noticed[0].at <= now + 1e-9) {
        const { port, what } = player.noticed.shift()!;
        if (what === 'started') player.gone.clear();
        else if (what === 'gone') player.gone.add(port);
        else player.gone.delete(port);
      }
      settle(player);
    }
    for (const { on, vrrp } of players) if (on) vrrp.pass(now * 1000 + 1e-6);
    deliver(now * 1000);
  }
  return turns;
}
