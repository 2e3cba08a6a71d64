import type { Band } from '@iron-lattice/core/hardware';
import { centreMhzOf } from '@iron-lattice/core/radio';
import type { AirFile, Stranger } from './air-file';
import { pathLoss, type Place } from './path-loss';
import { Seeded, seedOf } from './seeded';

/** Signal in dBm of 20 MHz at which others wait for a sender; and at which a network is still made out in a scan. */
export const [HEARD, MADE_OUT] = [-82, -92];
/** Metres between APs that nobody placed, along a row and between rows; and how many are in a row. */
const [APART, ROWS, IN_A_ROW] = [17, 14, 6];
/** Height of an AP and of a client in metres. */
const [CEILING, HAND] = [3, 1.2];
/** How far from its AP a client stands that nobody placed, in metres. */
const [NEAREST, FARTHEST] = [2, 14];
/** Far apart: nothing of it is heard. */
const NOTHING = 300;

/** Somebody that sends: a stretch of a band, with the number of its middle. */
export interface OnAir {
  readonly band: Band;
  readonly centre: number;
  readonly width: number;
}

/** Whether two stretches of spectrum meet. */
export function meets(a: OnAir, b: OnAir): boolean {
  const middle = ({ band, centre }: OnAir): number => centreMhzOf(band, centre);
  return a.band === b.band && Math.abs(middle(a) - middle(b)) < (a.width + b.width) / 2;
}

/** Where everybody stands, and what of a signal is lost between them. */
export class Air {
  private readonly places = new Map<string, { readonly group: string; readonly at: Place }>();
  private readonly losses = new Map<string, number>();
  private readonly filled = new Map<string, number>();
  /** What part of the times that are asked for is really waited: below 1 for tests alone. */
  hurry: number;

  constructor(private readonly file: AirFile = {}) {
    this.hurry = file.hurry ?? 1;
    for (const { bssid, near, at } of file.strangers ?? []) this.places.set(bssid, { group: near, at });
  }

  /** Puts an AP where it is drawn, else beside those before it. @param group of whom it hears. */
  putAp(serial: string, group: string): void {
    const n = this.filled.get(group) ?? 0;
    this.filled.set(group, n + 1);
    const at: Place = this.file.places?.[serial] ?? [(n % IN_A_ROW) * APART, Math.floor(n / IN_A_ROW) * ROWS, CEILING];
    this.places.set(serial, { group, at });
  }

  /** Puts a client where it is drawn, else somewhere around the AP that it stands near. */
  putClient(mac: string, near: string): void {
    const ap = this.places.get(near);
    if (!ap) return;
    const random = new Seeded(seedOf(mac, near));
    const [far, angle] = [NEAREST + random.next() * (FARTHEST - NEAREST), random.next() * 2 * Math.PI];
    const beside: Place = [ap.at[0] + far * Math.cos(angle), ap.at[1] + far * Math.sin(angle), HAND];
    this.places.set(mac, { group: ap.group, at: this.file.places?.[mac] ?? beside });
    this.forgetLosses(mac);
  }

  /** Puts somebody so far from an AP, always in the same direction. */
  putBeside(name: string, serial: string, metres: number): void {
    const ap = this.places.get(serial);
    if (!ap || this.places.has(name)) return;
    const angle = new Seeded(seedOf(serial)).next() * 2 * Math.PI;
    this.places.set(name, {
      group: ap.group,
      at: [ap.at[0] + metres * Math.cos(angle), ap.at[1] + metres * Math.sin(angle), HAND],
    });
  }

  /** Where somebody stands, in metres. */
  placeOf = (name: string): Place | null => this.places.get(name)?.at ?? null;

  /** Puts somebody elsewhere. */
  move(name: string, at: Place): void {
    const known = this.places.get(name);
    if (!known) return;
    this.places.set(name, { ...known, at });
    this.forgetLosses(name);
  }

  private forgetLosses(name: string): void {
    for (const key of this.losses.keys()) if (key.includes(name)) this.losses.delete(key);
  }

  /** Strangers that may be heard where an AP stands. */
  strangersNear(serial: string): readonly Stranger[] {
    const group = this.groupOf(serial);
    return (this.file.strangers ?? []).filter(({ near }) => this.groupOf(near) === group);
  }

  /** What of a signal is lost between two, in dB; nothing of it arrives where they do not stand in one drawing. */
  loss(band: Band, a: string, b: string): number {
    const key = a < b ? `${band} ${a} ${b}` : `${band} ${b} ${a}`;
    let known = this.losses.get(key);
    if (known === undefined) this.losses.set(key, (known = this.lossOf(band, a, b)));
    return known;
  }

  private lossOf(band: Band, a: string, b: string): number {
    const [from, to] = [this.places.get(a), this.places.get(b)];
    const group = this.groupOf(a);
    if (!from || !to || group !== this.groupOf(b)) return NOTHING;
    const walls = (this.file.walls ?? []).filter(({ near }) => this.groupOf(near) === group);
    return pathLoss(band, { name: a, at: from.at }, { name: b, at: to.at }, walls);
  }

  /** The drawing that somebody stands in: a stranger's is that of the AP it is near. */
  private groupOf(name: string): string | undefined {
    const known = this.places.get(name);
    return known && known.group !== name && this.places.has(known.group) ? this.groupOf(known.group) : known?.group;
  }
}

/** Share of the time in which a stranger sends at a moment, in milliseconds since 1970. */
export const busyAt = ({ busy }: Pick<Stranger, 'busy'>, now: number): number =>
  typeof busy === 'number' ? busy : busy[new Date(now).getUTCHours()]!;
