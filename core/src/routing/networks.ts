import { parsePrefix, prefixOf, type IpVersion, type Prefix } from '../address';
import { better, type Route } from './route-table';
import { PREFERENCE, wordsOf, type LineKind, type TableLine } from './table-line';

/** What is said of a line beside its kind and prefix. */
export interface Made {
  readonly name: string;
  readonly nextHop: string;
  readonly metric?: number;
  readonly up?: boolean;
  readonly to?: string;
  readonly by?: string;
  readonly peer?: string;
  /** What its route tracks does not answer. */
  readonly unheard?: boolean;
}

/** Where a line belongs: IPv4 by its network and length in one number, which is found and put in order quicker than anything else. */
type Key = number | string;

/** A line of a table; what it beats is put into words where somebody asks. A hub’s table has tens of thousands: each is one object. */
class Line implements TableLine {
  readonly preference: number;
  counts = false;
  readonly name: string;
  readonly nextHop: string;
  readonly metric: number;
  declare readonly up?: boolean;
  declare readonly to?: string;
  declare readonly by?: string;
  declare readonly peer?: string;
  #group: readonly Line[] | null = null;
  readonly #made: Made;
  readonly #networks: Networks;
  readonly #key: Key;
  /** What tells what it follows from, where that may stay; and when it last did. */
  readonly #from: string | null;
  #seen: number;
  /** Whether somebody was given it, counted. */
  #given = false;

  constructor(
    readonly kind: LineKind,
    readonly prefix: Prefix,
    made: Made,
    at: { readonly key: Key; readonly from: string | null; readonly seen: number; readonly networks: Networks },
  ) {
    const { name, nextHop, metric = 0, up, to, by, peer } = made;
    this.preference = PREFERENCE[kind];
    this.name = name;
    this.nextHop = nextHop;
    this.metric = metric;
    if (up !== undefined) this.up = up;
    if (to !== undefined) this.to = to;
    if (by !== undefined) this.by = by;
    if (peer !== undefined) this.peer = peer;
    this.#made = made;
    this.#key = at.key;
    this.#from = at.from;
    this.#seen = at.seen;
    this.#networks = at.networks;
  }

  get key(): Key {
    return this.#key;
  }
  get from(): string | null {
    return this.#from;
  }
  get seen(): number {
    return this.#seen;
  }

  get given(): boolean {
    return this.#given;
  }

  /** It follows once more from what it did. */
  stays(seen: number): void {
    this.#seen = seen;
  }

  /** The same, to be counted anew: whoever was given this one keeps it as it was. */
  again(): Line {
    const [key, from, seen, networks] = [this.#key, this.#from, this.#seen, this.#networks];
    return new Line(this.kind, this.prefix, this.#made, { key, from, seen, networks });
  }

  /** Says whether it counts among those to its prefix; null: it is alone. */
  among(group: readonly Line[] | null, counts: boolean): void {
    this.#group = group;
    this.counts = counts;
    this.#given = true;
  }

  get beats(): readonly string[] {
    if (!this.counts) return [];
    const after = (this.#group ?? []).filter((other) => better(this, other) < 0);
    // The next shorter one, all that share it.
    const shorter = this.#networks.around(this.prefix);
    return [...after.map((other) => wordsOf([other])), ...(shorter.length > 0 ? [wordsOf(shorter)] : [])];
  }

  get beaten(): string | undefined {
    if (this.counts) return undefined;
    if (isUp(this) && this.#group) return `${wordsOf([this.#group[0]!])} comes first`;
    if (this.#made.unheard) return 'what it tracks does not answer';
    return this.peer === undefined ? `${this.by} is not good` : `the tunnel to ${this.peer} is down`;
  }
}

const isUp = ({ up }: Pick<Route, 'up'>): boolean => up !== false;

/** Of lines to one prefix: those that are there before those that are not, then the better ones; which of those that are alike is first nobody else decides. */
const firstFirst = (a: Line, b: Line): number =>
  Number(a.up === false) - Number(b.up === false) ||
  better(a, b) ||
  inLetters(a.nextHop, b.nextHop) ||
  inLetters(a.name, b.name);
const inLetters = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

/** Lines by the network that they are for; of most networks there is one, or a few. What nothing came to or left stays as it is. */
export class Networks {
  private readonly groups = new Map<Key, Line | Line[]>();
  private readonly lengths: Record<IpVersion, Set<number>> = { 4: new Set(), 6: new Set() };
  /** Networks in their order; null: others came, or some are gone. */
  private order: readonly Key[] | null = null;
  private table: readonly Line[] = [];
  private readonly byFrom = new Map<string, Line>();
  private readonly touched = new Set<Key>();
  private time = 0;

  /** What there is is said once more. */
  begin(): void {
    this.time++;
  }

  /** Whether a line follows from something as it did the last time. @param from what tells that from all else. */
  stays(from: string, up: boolean | undefined): boolean {
    const line = this.byFrom.get(from);
    if (!line || line.up !== up || line.seen === this.time) return false;
    line.stays(this.time);
    return true;
  }

  /** A line follows from something. @param from what tells that from all else, where it may be asked for again; see `stays`. */
  add(kind: LineKind, prefix: string, made: Made, from: string | null = null): void {
    const at = read(prefix);
    if (!at) return;
    const { key } = at;
    const line = new Line(kind, at.prefix, made, { key, from, seen: this.time, networks: this });
    const known = this.groups.get(key);
    if (known === undefined) {
      this.groups.set(key, line);
      this.lengths[line.prefix.version].add(line.prefix.length);
      this.order = null;
    } else if (Array.isArray(known)) known.push(line);
    else this.groups.set(key, [known, line]);
    this.touched.add(key);
    if (from !== null) this.byFrom.set(from, line);
  }

  /** All lines in their order, each with what it is worth: by network, the wider first. */
  inTable(): TableLine[] {
    this.leave();
    for (const key of this.touched) this.count(key);
    this.touched.clear();
    this.order ??= inOrder(this.groups);
    const table: Line[] = [];
    for (const key of this.order) {
      const group = this.groups.get(key)!;
      if (!Array.isArray(group)) table.push(group);
      else for (const line of group) table.push(line);
    }
    this.table = table;
    return [...table];
  }

  /** Those go that nothing led to this time. */
  private leave(): void {
    for (const line of this.table) {
      if (line.seen === this.time) continue;
      const left = listed(this.groups.get(line.key)).filter((each) => each !== line);
      if (left.length > 0) this.groups.set(line.key, left);
      else {
        this.groups.delete(line.key);
        this.order = null;
      }
      this.touched.add(line.key);
      if (line.from !== null && this.byFrom.get(line.from) === line) this.byFrom.delete(line.from);
    }
  }

  /** Counts those to one prefix anew. */
  private count(key: Key): void {
    const known = this.groups.get(key);
    if (known === undefined) return;
    const group = listed(known)
      .map((line) => (line.given ? this.anew(line) : line))
      .sort(firstFirst);
    const [best] = group;
    if (group.length === 1) best!.among(null, isUp(best!));
    else for (const line of group) line.among(group, isUp(best!) && isUp(line) && better(line, best!) === 0);
    this.groups.set(key, group.length === 1 ? best! : group);
  }

  private anew(line: Line): Line {
    const again = line.again();
    if (line.from !== null && this.byFrom.get(line.from) === line) this.byFrom.set(line.from, again);
    return again;
  }

  /** The best of those to the next wider prefix in which anything is up. */
  around({ version, length, network }: Prefix): readonly Line[] {
    for (const wider of [...this.lengths[version]].sort((a, b) => b - a)) {
      if (wider >= length) continue;
      const [first, ...more] = listed(this.groups.get(keyOf(prefixOf({ version, value: network }, wider)))).filter(
        isUp,
      );
      if (first) return [first, ...more.filter((other) => better(other, first) === 0)];
    }
    return [];
  }
}

const listed = (group: Line | readonly Line[] | undefined): readonly Line[] =>
  group === undefined ? [] : group instanceof Line ? [group] : group;

/** Networks by address, the wider first. */
function inOrder(groups: ReadonlyMap<Key, Line | Line[]>): readonly Key[] {
  const [four, six]: [number[], { readonly key: string; readonly prefix: Prefix }[]] = [[], []];
  for (const [key, group] of groups)
    if (typeof key === 'number') four.push(key);
    else six.push({ key, prefix: listed(group)[0]!.prefix });
  six.sort(
    ({ prefix: a }, { prefix: b }) =>
      (a.network < b.network ? -1 : a.network > b.network ? 1 : 0) || a.length - b.length,
  );
  return [...Float64Array.from(four).sort(), ...six.map(({ key }) => key)];
}

const keyOf = ({ version, network, length }: Prefix): Key =>
  version === 4 ? Number(network) * 64 + length : `${network.toString(36)}/${length}`;

/** Prefixes that were read, with where they belong: tables are made anew with nearly the same ones. */
interface Read {
  readonly prefix: Prefix;
  readonly key: Key;
}
const known = new Map<string, Read | null>();
const MOST_KNOWN = 50_000;
function read(text: string): Read | null {
  let found = known.get(text);
  if (found !== undefined) return found;
  if (known.size >= MOST_KNOWN) known.clear();
  const prefix = parsePrefix(text);
  found = prefix && { prefix, key: keyOf(prefix) };
  known.set(text, found);
  return found;
}
