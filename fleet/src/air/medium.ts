import type { Band } from '@iron-lattice/core/hardware';
import type { Phy, Width } from '@iron-lattice/core/radio';
import {
  aifs,
  airTime,
  answerTime,
  bestChoice,
  getsThrough,
  noiseMw,
  OCTETS,
  PAYLOAD,
  PIFS,
  SIFS,
  SLOT,
  togetherAtMost,
  WINDOW,
  type Choice,
} from './frames';
import { Seeded } from './seeded';

/** A radio on the air: an AP’s, a client’s, a stranger’s. */
export interface Station {
  readonly name: string;
  /** Centres in MHz of the 20 MHz parts of its channel, ascending, and which of them is its primary one. */
  readonly parts: readonly number[];
  readonly primary: number;
  /** EIRP in dBm. */
  readonly power: number;
  readonly phy: Phy;
  readonly streams: number;
}

/** What is sent: all that gets through, of TCP; or so much of the air, whatever is in it. */
export type Traffic =
  | { readonly kind: 'bulk'; readonly from: string; readonly to: string }
  | { readonly kind: 'load'; readonly from: string; readonly to: string; readonly share: number };

/** Signals that are taken for somebody sending, in dBm: a frame’s beginning on the primary part; bare power, there and on others. */
const [HEARD, POWER_HEARD, HEARD_BESIDE] = [-82, -62, -72];
/** What a station makes out of frames that are sent to it, in dBm. */
const HEARD_BY_PEER = -90;
/** How much louder than others a frame has to be for its beginning to be made out, in dB. */
const BEGINNING = 4;
/** How far one aggregate is from the mean of its way, in dB. */
const FADING = 1;
/** Packets under way that nobody has acknowledged yet. */
const UNDER_WAY = 1024;
/** Length of what strangers send, in microseconds. */
const STRANGERS_US = 1500;
/** How often the same is tried before it is left. */
const TRIES = 7;

interface Queue {
  readonly of: Sender;
  readonly to: Station;
  readonly octets: number;
  /** Frames that wait. */
  waiting: number;
  /** A stranger's: how long each goes on; null where it is data. */
  readonly length: number | null;
}

interface Sender {
  readonly station: Station;
  readonly queues: Queue[];
  /** Slots that are left to count down, and from when on they are counted. */
  backOff: number;
  from: number;
  window: number;
  tries: number;
  busyUntil: number;
  next: number;
}

interface OnAir {
  readonly by: Station;
  readonly to: Station;
  readonly parts: readonly number[];
  readonly start: number;
  /** End of the frames; the answer goes on until `over`. */
  readonly end: number;
  readonly over: number;
}

export interface Heard {
  /** Data of each bulk traffic in Mb/s, by its place in the list. */
  readonly speeds: readonly number[];
  /** Share of the time in which others are heard, by station and 20 MHz part. */
  readonly busy: ReadonlyMap<string, ReadonlyMap<number, number>>;
}

/**
 * Plays who sends when on one band, frame by frame: carrier sense with its thresholds, back-off, collisions, aggregates and what is
 * lost of them, channels that are as wide as is idle (IEEE 802.11-2020 §10.3, §10.23). Nothing in it is averaged beforehand.
 */
export class Medium {
  private readonly random: Seeded;
  private readonly senders: Sender[] = [];
  private readonly bulk: { readonly data: Queue; readonly back: Queue; underWay: number; bits: number }[] = [];
  private readonly loads: { readonly queue: Queue; readonly mean: number; at: number }[] = [];
  private onAir: OnAir[] = [];
  private readonly sent = new Map<OnAir, { sender: Sender; queue: Queue; frames: number; choice: Choice | null }>();
  /** What was on the air of late, as it may have been in the way of what still is. */
  private past: OnAir[] = [];
  private readonly signals = new Map<string, number>();
  private readonly choices = new Map<string, Choice | null>();
  private readonly heardFor = new Map<string, Map<number, { until: number; sum: number }>>();

  /** @param loss between two stations in dB. */
  constructor(
    private readonly band: Band,
    private readonly stations: readonly Station[],
    private readonly loss: (a: Station, b: Station) => number,
    traffic: readonly Traffic[],
    seed: number,
  ) {
    this.random = new Seeded(seed);
    const byName = new Map(stations.map((station) => [station.name, station]));
    const senders = new Map<string, Sender>();
    const queueOf = (from: string, to: string, octets: number, length: number | null): Queue => {
      const station = byName.get(from)!;
      let of = senders.get(from);
      if (!of) {
        of = {
          station,
          queues: [],
          backOff: -1,
          from: 0,
          window: WINDOW.least,
          tries: 0,
          busyUntil: 0,
          next: Infinity,
        };
        senders.set(from, of);
        this.senders.push(of);
      }
      const queue: Queue = { of, to: byName.get(to)!, octets, waiting: 0, length };
      of.queues.push(queue);
      return queue;
    };
    for (const each of traffic)
      if (each.kind === 'bulk') {
        const data = queueOf(each.from, each.to, OCTETS.data, null);
        this.bulk.push({ data, back: queueOf(each.to, each.from, OCTETS.acknowledgement, null), underWay: 0, bits: 0 });
      } else if (each.share > 0) {
        const mean = STRANGERS_US / each.share;
        const queue = queueOf(each.from, each.to, 0, STRANGERS_US);
        this.loads.push({ queue, mean, at: this.random.wait(mean) });
      }
    for (const { name, parts } of stations)
      this.heardFor.set(name, new Map(parts.map((part) => [part, { until: 0, sum: 0 }])));
  }

  /** @param seconds of the air's own time. */
  play(seconds: number): Heard {
    const end = seconds * 1e6;
    for (const flow of this.bulk) this.refill(flow, 0);
    for (;;) {
      const arrival = Math.min(...this.loads.map(({ at }) => at), Infinity);
      const start = Math.min(...this.senders.map(({ next }) => next), Infinity);
      const over = Math.min(...this.onAir.map((each) => each.over), Infinity);
      const now = Math.min(arrival, start, over);
      if (now >= end) break;
      if (over <= now) this.finish(over);
      else if (arrival <= now) this.arrive(now);
      else this.begin(now);
    }
    const busy = new Map(
      [...this.heardFor].map(([name, parts]) => [
        name,
        new Map([...parts].map(([part, { sum }]) => [part, sum / end])),
      ]),
    );
    return { speeds: this.bulk.map(({ bits }) => bits / end), busy };
  }

  private arrive(now: number): void {
    for (const load of this.loads) {
      if (load.at > now) continue;
      load.queue.waiting++;
      load.at = now + this.random.wait(load.mean);
      this.want(load.queue.of, now);
    }
  }

  private refill(flow: (typeof this.bulk)[number], now: number): void {
    flow.data.waiting = UNDER_WAY - flow.underWay;
    if (flow.data.waiting > 0) this.want(flow.data.of, now);
  }

  /** A sender that has something to send draws how long it waits, unless it waits already. */
  private want(sender: Sender, now: number): void {
    if (!sender.queues.some(({ waiting }) => waiting > 0)) {
      sender.next = Infinity;
      return;
    }
    if (sender.backOff < 0) sender.backOff = this.random.below(sender.window + 1);
    if (Number.isFinite(sender.next)) return;
    this.count(sender, now);
  }

  /** Counting goes on once the air has been idle for long enough. */
  private count(sender: Sender, now: number): void {
    sender.from = Math.max(now, sender.busyUntil) + aifs(this.band);
    sender.next = sender.from + sender.backOff * SLOT;
  }

  /** Somebody's wait is over: all whose wait ends in the same slot send too, for they cannot hear it in time. */
  private begin(now: number): void {
    const starting = this.senders.filter(({ next }) => next < now + SLOT / 2);
    const sent = starting.flatMap((sender) => this.send(sender, now) ?? []);
    for (const each of sent) this.note(each);
    this.onAir.push(...sent);
    for (const sender of this.senders) {
      if (starting.includes(sender)) continue;
      const heard = sent.filter(({ by, to, parts }) =>
        this.hears(sender.station, by, parts, to === sender.station ? HEARD_BY_PEER : HEARD),
      );
      if (heard.length === 0) continue;
      if (Number.isFinite(sender.next)) {
        const counted = Math.floor(Math.max(0, now - sender.from) / SLOT);
        sender.backOff = Math.max(0, sender.backOff - counted);
      }
      sender.busyUntil = Math.max(sender.busyUntil, ...heard.map(({ over }) => over));
      if (Number.isFinite(sender.next)) this.count(sender, now);
    }
  }

  private send(sender: Sender, now: number): OnAir | null {
    const { station } = sender;
    sender.next = Infinity;
    sender.backOff = -1;
    const queue = sender.queues.find(({ waiting }) => waiting > 0);
    if (!queue) return null;
    const parts = this.idleAround(station, queue.to, now);
    let end: number;
    let frames = 1;
    let choice: Choice | null = null;
    if (queue.length !== null) end = now + queue.length;
    else {
      const width = (parts.length * 20) as Width;
      choice = this.choiceOf(station, queue.to, width);
      if (!choice) return null;
      const sending = { phy: phyOf(station, queue.to), width, ...choice, gi: 0.8 };
      frames = togetherAtMost(sending, queue.waiting, queue.octets, this.band);
      end = now + airTime(sending, frames, queue.octets, this.band);
    }
    const over = end + SIFS[this.band] + answerTime(this.band);
    const sent: OnAir = { by: station, to: queue.to, parts, start: now, end, over };
    this.sent.set(sent, { sender, queue, frames, choice });
    sender.busyUntil = Math.max(sender.busyUntil, over);
    return sent;
  }

  /** What of it came, and what follows. */
  private finish(over: number): void {
    const done = this.onAir.filter((each) => each.over <= over);
    this.onAir = this.onAir.filter((each) => each.over > over);
    for (const each of done) {
      const { sender, queue, frames, choice } = this.sent.get(each)!;
      this.sent.delete(each);
      const came = this.cameOf(each, frames, choice, [...this.onAir, ...done, ...this.past]);
      const lost = came === 0;
      sender.tries = lost ? sender.tries + 1 : 0;
      sender.window = lost && sender.tries < TRIES ? Math.min(WINDOW.most, 2 * sender.window + 1) : WINDOW.least;
      if (sender.tries >= TRIES) sender.tries = 0;
      queue.waiting -= queue.length === null ? came : 1;
      const flow = this.bulk.find(({ data, back }) => data === queue || back === queue);
      if (flow && queue === flow.data) {
        flow.underWay += came;
        flow.bits += came * PAYLOAD * 8;
        flow.back.waiting += Math.ceil(came / 2); // every second packet is acknowledged
        this.want(flow.back.of, over);
      } else if (flow) flow.underWay = flow.back.waiting === 0 ? 0 : Math.max(0, flow.underWay - 2 * came);
      if (flow) this.refill(flow, over);
      this.want(sender, over);
    }
    const oldest = Math.min(...this.onAir.map(({ start }) => start), over);
    this.past = [...this.past, ...done].filter((each) => each.over > oldest);
  }

  private cameOf(sent: OnAir, frames: number, choice: Choice | null, others: readonly OnAir[]): number {
    if (!choice) return 1;
    const { by, to, parts, start, end } = sent;
    const width = parts.length * 20;
    const signal = this.signal(by, to) + this.random.normal(FADING);
    let disturbed = 0;
    let interference = 0;
    for (const other of others) {
      if (other === sent || other.by === by || other.by === to) continue;
      const shared = parts.filter((part) => other.parts.includes(part)).length;
      const [from, until] = [Math.max(start, other.start), Math.min(end, other.end)];
      if (shared === 0 || until <= from) continue;
      const power = 10 ** (this.signal(other.by, to) / 10) * (shared / other.parts.length);
      // Its beginning is not made out: all of it is lost.
      if (other.start <= start && signal - 10 * Math.log10(power) < BEGINNING) return 0;
      const share = (until - from) / (end - start);
      disturbed = Math.max(disturbed, share);
      interference = Math.max(interference, power);
    }
    // Whoever sends itself hears nothing.
    if (others.some((other) => other.by === to && other.start < end && other.end > start)) return 0;
    const quality = (noise: number): number => signal - 10 * Math.log10(noise);
    const [clear, dim] = [quality(noiseMw(width)), quality(noiseMw(width) + interference)];
    let came = 0;
    const [good, bad] = [getsThrough(clear, choice), getsThrough(dim, choice)];
    for (let i = 0; i < frames; i++) if (this.random.next() < (this.random.next() < disturbed ? bad : good)) came++;
    return came;
  }

  /** Parts of a station's channel around its primary one that both ends have and that are idle, as wide as they make a channel. */
  private idleAround({ parts, primary, name }: Station, to: Station, now: number): readonly number[] {
    const station = this.stations.find((each) => each.name === name)!;
    let wide: readonly number[] = [parts[primary]!];
    for (let count = 2; count <= parts.length; count *= 2) {
      const first = Math.floor(primary / count) * count;
      const next = parts.slice(first, first + count);
      if (next.length < count || !next.every((part) => to.parts.includes(part))) break;
      const busy = [...this.onAir, ...this.past].some(
        (each) =>
          each.over > now - PIFS[this.band] &&
          each.start < now &&
          next.some((part) => !wide.includes(part) && each.parts.includes(part)) &&
          this.signal(each.by, station) - 10 * Math.log10(each.parts.length) >= HEARD_BESIDE,
      );
      if (busy) break;
      wide = next;
    }
    return wide;
  }

  /** Whether a station takes the air for busy while another sends on some parts. @param least signal in dBm at which it makes frames out. */
  private hears(station: Station, by: Station, parts: readonly number[], least: number): boolean {
    const spread = this.signal(by, station) - 10 * Math.log10(parts.length);
    const mine = station.parts[station.primary]!;
    if (parts.includes(mine)) return spread >= least;
    return parts.some((part) => Math.abs(part - mine) < 20) && spread >= POWER_HEARD;
  }

  private choiceOf(from: Station, to: Station, width: Width): Choice | null {
    const key = `${from.name} ${to.name} ${width}`;
    let choice = this.choices.get(key);
    if (choice === undefined) {
      const snr = this.signal(from, to) - 10 * Math.log10(noiseMw(width));
      choice = bestChoice(phyOf(from, to), width, Math.min(from.streams, to.streams), snr);
      this.choices.set(key, choice);
    }
    return choice;
  }

  /** Signal of one at another in dBm, of its whole width. */
  private signal(from: Station, to: Station): number {
    const key = `${from.name} ${to.name}`;
    let signal = this.signals.get(key);
    if (signal === undefined) this.signals.set(key, (signal = from.power - this.loss(from, to)));
    return signal;
  }

  /** Counts at which stations it keeps which parts busy. */
  private note({ by, to, parts, start, over }: OnAir): void {
    for (const station of this.stations) {
      if (station === by || station === to) continue;
      const spread = this.signal(by, station) - 10 * Math.log10(parts.length);
      if (spread < HEARD) continue;
      const heard = this.heardFor.get(station.name)!;
      for (const part of parts) {
        const of = heard.get(part);
        if (!of || over <= of.until) continue;
        of.sum += over - Math.max(start, of.until);
        of.until = over;
      }
    }
  }
}

/** The newest that both can. */
function phyOf(a: Station, b: Station): Phy {
  const order: readonly Phy[] = ['HT', 'VHT', 'HE', 'EHT'];
  return order[Math.min(order.indexOf(a.phy), order.indexOf(b.phy))]!;
}
