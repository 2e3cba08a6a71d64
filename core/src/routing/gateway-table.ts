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
  const networks = new Networks();
  const add = (kind: LineKind, prefix: string, name: string, nextHop: string, metric = 0): Line | null => {
    const at = read(prefix);
    return at && networks.put(at.key, new Line(kind, at.prefix, name, nextHop, metric, networks));
  };
  for (const { name, address } of links) add('link', address, name, name);
  for (const { name, prefix, to, by, metric } of said)
    if (to !== undefined) add('said', prefix, name, to, metric)?.leads({ to }).heard(isHeard(name));
    else if (by !== undefined)
      add('said', prefix, name, by, metric)?.leads({ by }).upIf(isGood(by)).heard(isHeard(name));
    else add('said', prefix, name, DISCARD, metric);
  for (const { name, prefix, peer, asks, metric } of overlay)
    if (peer === null) add('overlay', prefix, name, DISCARD, metric);
    else add('overlay', prefix, name, peer, metric)?.into(peer, reaches(peer, asks));
  for (const { prefix, name, drops } of pacts)
    if (drops) add('pact', prefix, name, DISCARD, LAST);
    else add('pact', prefix, name, `pact ${name}`)?.into(name, stands(name));
  for (const { port, name = port, turn, six } of uplinks)
    for (const prefix of [ALL4, ...(six ? [ALL6] : [])])
      add('uplink', prefix, name, port, turn)?.leads({ by: port }).upIf(isGood(port));
  return networks.inTable();
}

const [ALL4, ALL6] = ['0.0.0.0/0', '::/0'] as const;
/** The metric of what counts when nothing else does. */
const LAST = 9999;

/** Of lines to one prefix: those that are there before those that are not, then the better ones. */
const firstFirst = (a: Line, b: Line): number =>
  Number(a.up === false) - Number(b.up === false) ||
  better(a, b) ||
  (a.nextHop < b.nextHop ? -1 : a.nextHop > b.nextHop ? 1 : 0);

/** A line of a table; what it beats is put into words where somebody asks. A hub’s table has tens of thousands, made anew with each edit: each is one object. */
class Line implements TableLine {
  readonly preference: number;
  counts = false;
  declare up?: boolean;
  declare to?: string;
  declare by?: string;
  declare peer?: string;
  #group: readonly Line[] | null = null;
  #unheard = false;
  readonly #networks: Networks;

  constructor(
    readonly kind: LineKind,
    readonly prefix: Prefix,
    readonly name: string,
    readonly nextHop: string,
    readonly metric: number,
    networks: Networks,
  ) {
    this.preference = PREFERENCE[kind];
    this.#networks = networks;
  }

  leads(where: { readonly to: string } | { readonly by: string }): this {
    return Object.assign(this, where);
  }

  /** Into a tunnel. */
  into(peer: string, up: boolean): void {
    this.up = up;
    this.peer = peer;
  }

  upIf(up: boolean): this {
    this.up = up;
    return this;
  }

  /** Whether what its route tracks answers. */
  heard(isHeard: boolean): void {
    if (isHeard) return;
    this.up = false;
    this.#unheard = true;
  }

  /** Says whether it counts among those to its prefix; null: it is alone. */
  among(group: readonly Line[] | null, counts: boolean): void {
    this.#group = group;
    this.counts = counts;
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
    if (this.#unheard) return 'what it tracks does not answer';
    return this.peer === undefined ? `${this.by} is not good` : `the tunnel to ${this.peer} is down`;
  }
}

const isUp = ({ up }: Pick<Route, 'up'>): boolean => up !== false;

/** Lines by the network that they are for; of most networks there is one, or a few. */
class Networks {
  /** IPv4 by its network and length in one number, which is found and put in order quicker than anything else. */
  private readonly four = new Map<number, Line | Line[]>();
  private readonly six = new Map<string, Line | Line[]>();
  private readonly lengths: Record<IpVersion, Set<number>> = { 4: new Set(), 6: new Set() };

  put(key: number | string, line: Line): Line {
    const groups = (typeof key === 'number' ? this.four : this.six) as Map<number | string, Line | Line[]>;
    const known = groups.get(key);
    if (known === undefined) groups.set(key, line);
    else if (Array.isArray(known)) known.push(line);
    else groups.set(key, [known, line]);
    if (known === undefined) this.lengths[line.prefix.version].add(line.prefix.length);
    return line;
  }

  /** All lines in their order, each with what it is worth: by network, the wider first. */
  inTable(): Line[] {
    const table: Line[] = [];
    const take = (group: Line | Line[]): void => {
      if (!Array.isArray(group)) {
        group.among(null, isUp(group));
        table.push(group);
        return;
      }
      group.sort(firstFirst);
      const best = isUp(group[0]!) ? group[0]! : null;
      for (const line of group) {
        line.among(group, best !== null && isUp(line) && better(line, best) === 0);
        table.push(line);
      }
    };
    for (const key of Float64Array.from(this.four.keys()).sort()) take(this.four.get(key)!);
    const six = [...this.six.values()].map((group) => ({ group, prefix: listed(group)[0]!.prefix }));
    six.sort(
      ({ prefix: a }, { prefix: b }) =>
        (a.network < b.network ? -1 : a.network > b.network ? 1 : 0) || a.length - b.length,
    );
    for (const { group } of six) take(group);
    return table;
  }

  /** The best of those to the next wider prefix in which anything is up. */
  around({ version, length, network }: Prefix): readonly Line[] {
    for (const wider of [...this.lengths[version]].sort((a, b) => b - a)) {
      if (wider >= length) continue;
      const prefix = prefixOf({ version, value: network }, wider);
      const group = version === 4 ? this.four.get(fourKey(prefix)) : this.six.get(sixKey(prefix));
      const [first, ...more] = listed(group).filter(isUp);
      if (first) return [first, ...more.filter((other) => better(other, first) === 0)];
    }
    return [];
  }
}

const listed = (group: Line | readonly Line[] | undefined): readonly Line[] =>
  group === undefined ? [] : group instanceof Line ? [group] : group;
const fourKey = ({ network, length }: Prefix): number => Number(network) * 64 + length;
const sixKey = ({ network, length }: Prefix): string => `${network.toString(36)}/${length}`;

/** Prefixes that were read, with where they belong: tables are made anew with nearly the same ones. */
interface Read {
  readonly prefix: Prefix;
  readonly key: number | string;
}
const known = new Map<string, Read | null>();
const MOST_KNOWN = 50_000;
function read(text: string): Read | null {
  let found = known.get(text);
  if (found !== undefined) return found;
  if (known.size >= MOST_KNOWN) known.clear();
  const prefix = parsePrefix(text);
  found = prefix && { prefix, key: prefix.version === 4 ? fourKey(prefix) : sixKey(prefix) };
  known.set(text, found);
  return found;
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
