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
}

/** How long each way is played, in seconds of air. */
const SECONDS = 1;
/** What is lost between somebody else's two ends, in dB: they stand close by each other. */
const CLOSE = 50;

/** Centres in MHz of the 20 MHz parts of a channel; at 2.4 GHz of the one that there is. */
const partsOf = (band: Band, centre: number, width: number): number[] =>
  Array.from({ length: Math.max(1, width / 20) }, (_, i) => centreMhzOf(band, centre) - width / 2 + 10 + 20 * i);

/**
 * What gets through each way between an AP and a client while others send, in Mb/s of TCP: every frame of it is played.
 * @param loss between two by their names, in dB.
 */
export function playSpeed(
  { band, at, ap, client }: Played,
  others: readonly Neighbour[],
  loss: (a: string, b: string) => number,
  seed: number,
): { readonly down: number; readonly up: number; readonly busy: number } {
  const width = Math.min(at.width, client.width);
  // Where the client does not do the whole width, frames go out around the primary channel.
  const whole = partsOf(band, at.centre, at.width);
  const primary = Math.max(0, whole.indexOf(centreMhzOf(band, at.channel)));
  const count = Math.max(1, width / 20);
  const first = Math.floor(primary / count) * count;
  const parts = whole.slice(first, first + count);
  const tuned = { parts, primary: primary - first };
  const stations: Station[] = [
    { ...ap, ...tuned },
    { ...client, ...tuned },
  ];
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
    const [from, to] = [a, b].map(({ name }) => name.replace(/ peer$/, '')) as [string, string];
    return from === to ? CLOSE : loss(from, to);
  };
  const play = (from: string, to: string) =>
    new Medium(band, stations, between, [{ kind: 'bulk', from, to }, ...loads], seed).play(SECONDS);
  const [down, up] = [play(ap.name, client.name), play(client.name, ap.name)];
  const heard = [...(down.busy.get(ap.name)?.values() ?? [0])];
  return { down: down.speeds[0]!, up: up.speeds[0]!, busy: Math.max(0, ...heard) };
}
