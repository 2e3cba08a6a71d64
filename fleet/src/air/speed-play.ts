import type { Band } from '@iron-lattice/core/hardware';
import { centreMhzOf, type Phy } from '@iron-lattice/core/radio';
import { Medium, type Station, type Traffic } from './medium';

/** Somebody who sends while a speed is tried. */
export interface Neighbour {
  readonly name: string;
  readonly channel: number;
  readonly centre: number;
  readonly width: number;
  readonly power: number;
  /** Share of the time. */
  readonly share: number;
}

/** The link whose speed is tried. */
export interface Played {
  readonly band: Band;
  readonly at: { readonly channel: number; readonly centre: number; readonly width: number };
  readonly ap: { readonly name: string; readonly power: number; readonly phy: Phy; readonly streams: number };
  readonly client: {
    readonly name: string;
    readonly power: number;
    readonly phy: Phy;
    readonly streams: number;
    readonly width: number;
  };
  /** How many such clients ask at once, beside each other; absent: one. */
  readonly count?: number;
}

/** How long each way is played, in seconds of air. */
const SECONDS = 5;
/** What is lost between somebody else's two ends, in dB: they stand close by each other. */
const CLOSE = 50;

/** Centres in MHz of the 20 MHz parts of a channel; at 2.4 GHz of the one that there is. */
const partsOf = (band: Band, centre: number, width: number): number[] =>
  Array.from({ length: Math.max(1, width / 20) }, (_, i) => centreMhzOf(band, centre) - width / 2 + 10 + 20 * i);

/**
 * What gets through each way between an AP and a client while others send, in Mb/s of TCP: every frame of it is played. Of several
 * clients it is what one of them gets.
 * @param loss between two by their names, in dB.
 */
export function playSpeed(
  { band, at, ap, client, count = 1 }: Played,
  others: readonly Neighbour[],
  loss: (a: string, b: string) => number,
  seed: number,
): { readonly down: number; readonly up: number; readonly busy: number } {
  const width = Math.min(at.width, client.width);
  // Where the client does not do the whole width, frames go out around the primary channel.
  const whole = partsOf(band, at.centre, at.width);
  const primary = Math.max(0, whole.indexOf(centreMhzOf(band, at.channel)));
  const members = Math.max(1, width / 20);
  const first = Math.floor(primary / members) * members;
  const parts = whole.slice(first, first + members);
  const tuned = { parts, primary: primary - first };
  const clients = Array.from({ length: count }, (_, i): Station => ({
    ...client,
    ...tuned,
    name: named(client.name, i),
  }));
  const stations: Station[] = [{ ...ap, ...tuned }, ...clients];
  const loads: Traffic[] = [];
  for (const { name, channel, centre, width: wide, power, share } of others) {
    if (share <= 0) continue;
    const theirs = partsOf(band, centre, wide);
    const station = {
      parts: theirs,
      primary: Math.max(0, theirs.indexOf(centreMhzOf(band, channel))),
      power,
      phy: 'HE' as const,
      streams: 2,
    };
    stations.push({ name, ...station }, { name: `${name} peer`, ...station });
    loads.push({ kind: 'load', from: name, to: `${name} peer`, share });
  }
  const between = (a: Station, b: Station): number => {
    const [from, to] = [a, b].map(({ name }) => name.replace(/ peer$| beside \d+$/, '')) as [string, string];
    return from === to ? CLOSE : loss(from, to);
  };
  const play = (traffic: readonly Traffic[]) =>
    new Medium(band, stations, between, [...traffic, ...loads], seed).play(SECONDS);
  const down = play(clients.map(({ name }) => ({ kind: 'bulk', from: ap.name, to: name })));
  const up = play(clients.map(({ name }) => ({ kind: 'bulk', from: name, to: ap.name })));
  const heard = [...(down.busy.get(ap.name)?.values() ?? [0])];
  const mean = (speeds: readonly number[]): number =>
    speeds.slice(0, count).reduce((sum, each) => sum + each, 0) / count;
  return { down: mean(down.speeds), up: mean(up.speeds), busy: Math.max(0, ...heard) };
}

/** The name of one of several clients at a place: that of the first alone is plain. */
const named = (name: string, i: number): string => (i === 0 ? name : `${name} beside ${i}`);
