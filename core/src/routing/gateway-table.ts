import { contains, formatPrefix, parsePrefix, prefixOf, type IpAddress, type IpVersion, type Prefix } from '../address';
import { better, DISCARD, type Route } from './route-table';

/** What a gateway’s table is made of: its links, ways that are said, and uplinks. */
export interface TableSource {
  /** Its addresses on links, with their lengths, such as `10.20.1.1/24`. */
  readonly links: readonly { readonly name: string; readonly address: string }[];
  readonly said: readonly {
    readonly name: string;
    readonly prefix: string;
    readonly to?: string;
    readonly by?: string;
    readonly metric?: number;
  }[];
  readonly uplinks: readonly {
    readonly port: string;
    /** What it is called; absent: as its port. */
    readonly name?: string;
    /** When its turn is: 0 together with others, from 1 on as one that stands by. */
    readonly turn: number;
    /** Whether IPv6 leaves by it too. */
    readonly six?: boolean;
  }[];
  /** What its tunnels to other sites make; see `overlayLines`. */
  readonly overlay?: readonly {
    readonly name: string;
    readonly prefix: string;
    /** The other end of the tunnel; null: it is dropped. */
    readonly peer: string | null;
    /** The site that the other end has to have a tunnel to. */
    readonly asks?: string;
    readonly metric: number;
  }[];
  /** What its tunnels to gateways of others make; see `pactLines`. */
  readonly pacts?: readonly { readonly prefix: string; readonly name: string; readonly drops: boolean }[];
  /** Whether a tunnel to a gateway of others is up, by its name; absent: all are. */
  readonly stands?: (name: string) => boolean;
  /** Whether a tunnel is up, by its other end and the site that this has to have a tunnel to; absent: all are. */
  readonly isUp?: (peer: string, asks?: string) => boolean;
  /** Whether an uplink is good; absent: all are. */
  readonly isGood?: (port: string) => boolean;
  /** Whether what a route that is said tracks answers, by the route’s name; absent: all do. */
  readonly isHeard?: (name: string) => boolean;
}

/** Why a line is there. */
export type LineKind = 'link' | 'said' | 'overlay' | 'pact' | 'uplink';
/** What is preferred among lines to one prefix (RFC 8349 §5.2: lower wins): what is on a link, then what is said, then tunnels, then what is left. */
export const PREFERENCE: Readonly<Record<LineKind, number>> = {
  ...{ link: 0, said: 10, overlay: 50, pact: 50 },
  uplink: 200,
};

/** One line of the table that a gateway goes by. */
export interface TableLine extends Route {
  readonly kind: LineKind;
  /** The segment, what the route is called, or the uplink. */
  readonly name: string;
  /** The neighbour that it leads to. */
  readonly to?: string;
  /** The uplink that it leads to. */
  readonly by?: string;
  /** The other end of the tunnel that it leads into. */
  readonly peer?: string;
  /** Whether it counts: it is there, and no other to the same prefix comes first. */
  readonly counts: boolean;
  /** Lines that would take what it takes were it not there: those to the same prefix that it comes before, then the next shorter one. */
  readonly beats: readonly string[];
  /** Why it does not count. */
  readonly beaten?: string;
}

const [ALL4, ALL6] = ['0.0.0.0/0', '::/0'].map((text) => parsePrefix(text)!) as [Prefix, Prefix];

/** A line before it is known what it beats. */
type Plain = Omit<TableLine, 'counts' | 'beats' | 'beaten'> & { readonly unheard?: true };

/** The table of a gateway, by prefix; of one prefix what counts comes first. Prefixes that cannot be read are left out. */
export function gatewayTable({
  links,
  said,
  overlay = [],
  pacts = [],
  uplinks,
  isGood = () => true,
  isHeard = () => true,
  isUp: reaches = () => true,
  stands = () => true,
}: TableSource): TableLine[] {
  const lines: Plain[] = [];
  const add = (kind: LineKind, prefix: Prefix | null, name: string, nextHop: string, more: Partial<Plain>): void => {
    if (prefix) lines.push({ kind, prefix, name, nextHop, preference: PREFERENCE[kind], metric: 0, ...more });
  };
  for (const { name, address } of links) add('link', read(address), name, name, {});
  for (const { name, prefix, to, by, metric = 0 } of said)
    if (to !== undefined) add('said', read(prefix), name, to, { to, metric, ...lost(isHeard(name)) });
    else if (by !== undefined)
      add('said', read(prefix), name, by, { by, metric, up: isGood(by), ...lost(isHeard(name)) });
    else add('said', read(prefix), name, DISCARD, { metric });
  for (const { name, prefix, peer, asks, metric } of overlay)
    if (peer === null) add('overlay', read(prefix), name, DISCARD, { metric });
    else add('overlay', read(prefix), name, peer, { peer, metric, up: reaches(peer, asks) });
  for (const { prefix, name, drops } of pacts)
    if (drops) add('pact', read(prefix), name, DISCARD, { metric: LAST });
    else add('pact', read(prefix), name, `pact ${name}`, { peer: name, up: stands(name) });
  for (const { port, name = port, turn, six } of uplinks)
    for (const prefix of [ALL4, ...(six ? [ALL6] : [])])
      add('uplink', prefix, name, port, { by: port, metric: turn, up: isGood(port) });
  return inTable(lines);
}

/** The metric of what counts when nothing else does. */
const LAST = 9999;

/** What is marked of a line whose route tracks what does not answer. */
const lost = (heard: boolean): Partial<Plain> => (heard ? {} : { up: false, unheard: true });

/** Lines in their order, each with what it is worth: group by group, so that thousands cost little more than to read them. */
function inTable(lines: readonly Plain[]): TableLine[] {
  const networks = new Networks(lines);
  const table: TableLine[] = [];
  for (const group of networks.inOrder()) {
    if (group.length > 1) group.sort(firstFirst);
    const best = isUp(group[0]!) ? group[0]! : null;
    for (const line of group) table.push(new Line(line, isUp(line) && better(line, best!) === 0, group, networks));
  }
  return table;
}

/** Of lines to one prefix: those that are there before those that are not, then the better ones. */
const firstFirst = (a: Plain, b: Plain): number =>
  Number(a.up === false) - Number(b.up === false) ||
  better(a, b) ||
  (a.nextHop < b.nextHop ? -1 : a.nextHop > b.nextHop ? 1 : 0);

/** A line of a table; what it beats is put into words where somebody asks. */
class Line implements TableLine {
  readonly kind: LineKind;
  readonly prefix: Prefix;
  readonly name: string;
  readonly nextHop: string;
  readonly preference: number;
  readonly metric: number;
  declare readonly up?: boolean;
  declare readonly to?: string;
  declare readonly by?: string;
  declare readonly peer?: string;
  readonly #group: readonly Plain[];
  readonly #networks: Networks;
  readonly #unheard: boolean;

  constructor(
    line: Plain,
    readonly counts: boolean,
    group: readonly Plain[],
    networks: Networks,
  ) {
    ({ kind: this.kind, prefix: this.prefix, name: this.name } = line);
    ({ nextHop: this.nextHop, preference: this.preference, metric: this.metric } = line);
    const { up, to, by, peer } = line;
    if (up !== undefined) this.up = up;
    if (to !== undefined) this.to = to;
    if (by !== undefined) this.by = by;
    if (peer !== undefined) this.peer = peer;
    this.#group = group;
    this.#networks = networks;
    this.#unheard = line.unheard ?? false;
  }

  get beats(): readonly string[] {
    if (!this.counts) return [];
    const after = this.#group.filter((other) => better(this, other) < 0);
    // The next shorter one, all that share it.
    const shorter = this.#networks.around(this.prefix);
    return [...after.map((other) => wordsOf([other])), ...(shorter.length > 0 ? [wordsOf(shorter)] : [])];
  }

  get beaten(): string | undefined {
    if (this.counts) return undefined;
    if (isUp(this)) return `${wordsOf([this.#group[0]!])} comes first`;
    if (this.#unheard) return 'what it tracks does not answer';
    return this.peer === undefined ? `${this.by} is not good` : `the tunnel to ${this.peer} is down`;
  }
}

const isUp = ({ up }: Pick<Route, 'up'>): boolean => up !== false;

/** Lines by the network that they are for. */
class Networks {
  /** IPv4 by its network and length in one number, which is found and put in order quicker than anything else. */
  private readonly four = new Map<number, Plain[]>();
  private readonly six = new Map<string, Plain[]>();
  private readonly lengths: Record<IpVersion, Set<number>> = { 4: new Set(), 6: new Set() };

  constructor(lines: readonly Plain[]) {
    for (const line of lines) {
      const { version, length } = line.prefix;
      this.lengths[version].add(length);
      if (version === 4) put(this.four, fourKey(line.prefix), line);
      else put(this.six, sixKey(line.prefix), line);
    }
  }

  /** Those to one prefix each, by network, the wider first. */
  *inOrder(): Iterable<Plain[]> {
    for (const key of Float64Array.from(this.four.keys()).sort()) yield this.four.get(key)!;
    const six = [...this.six.values()].map((group) => ({ group, prefix: group[0]!.prefix }));
    six.sort(
      ({ prefix: a }, { prefix: b }) =>
        (a.network < b.network ? -1 : a.network > b.network ? 1 : 0) || a.length - b.length,
    );
    for (const { group } of six) yield group;
  }

  /** The best of those to the next wider prefix in which anything is up. */
  around({ version, length, network }: Prefix): readonly Plain[] {
    for (const wider of [...this.lengths[version]].sort((a, b) => b - a)) {
      if (wider >= length) continue;
      const prefix = prefixOf({ version, value: network }, wider);
      const group = version === 4 ? this.four.get(fourKey(prefix)) : this.six.get(sixKey(prefix));
      const [first, ...more] = group?.filter(isUp) ?? [];
      if (first) return [first, ...more.filter((other) => better(other, first) === 0)];
    }
    return [];
  }
}

const fourKey = ({ network, length }: Prefix): number => Number(network) * 64 + length;
const sixKey = ({ network, length }: Prefix): string => `${network.toString(36)}/${length}`;

function put<K>(groups: Map<K, Plain[]>, key: K, line: Plain): void {
  const known = groups.get(key);
  if (known) known.push(line);
  else groups.set(key, [line]);
}

/** Prefixes that were read: tables are made anew with nearly the same ones. */
const known = new Map<string, Prefix | null>();
const MOST_KNOWN = 50_000;
function read(text: string): Prefix | null {
  let prefix = known.get(text);
  if (prefix !== undefined) return prefix;
  if (known.size >= MOST_KNOWN) known.clear();
  known.set(text, (prefix = parsePrefix(text)));
  return prefix;
}

/** The lines that a destination goes by, all equally good; none: nothing leads there. */
export function linesTo(table: readonly TableLine[], destination: IpAddress): readonly TableLine[] {
  let found: TableLine[] = [];
  for (const line of table) {
    if (!line.counts || !contains(line.prefix, destination)) continue;
    const longest = found[0]?.prefix.length ?? -1;
    if (line.prefix.length > longest) found = [line];
    else if (line.prefix.length === longest) found.push(line);
  }
  return found;
}

/** Lines to one prefix in words: `Crew, 10.20.1.0/24`. */
const wordsOf = (lines: readonly Pick<TableLine, 'name' | 'prefix'>[]): string =>
  `${lines.map(({ name }) => name).join(' and ')}, ${formatPrefix(lines[0]!.prefix)}`;
