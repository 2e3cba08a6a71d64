import { contains, formatPrefix, parsePrefix, type IpAddress, type Prefix } from '../address';
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
  /** Whether an uplink is good; absent: all are. */
  readonly isGood?: (port: string) => boolean;
}

/** Why a line is there. */
export type LineKind = 'link' | 'said' | 'uplink';
/** What is preferred among lines to one prefix (RFC 8349 §5.2: lower wins): what is on a link, then what is said, then what is left. */
export const PREFERENCE: Readonly<Record<LineKind, number>> = { link: 0, said: 10, uplink: 200 };

/** One line of the table that a gateway goes by. */
export interface TableLine extends Route {
  readonly kind: LineKind;
  /** The segment, what the route is called, or the uplink. */
  readonly name: string;
  /** The neighbour that it leads to. */
  readonly to?: string;
  /** The uplink that it leads to. */
  readonly by?: string;
  /** Whether it counts: it is there, and no other to the same prefix comes first. */
  readonly counts: boolean;
  /** Lines that would take what it takes were it not there: those to the same prefix that it comes before, then the next shorter one. */
  readonly beats: readonly string[];
  /** Why it does not count. */
  readonly beaten?: string;
}

const [ALL4, ALL6] = ['0.0.0.0/0', '::/0'].map((text) => parsePrefix(text)!) as [Prefix, Prefix];

/** The table of a gateway, by prefix; of one prefix what counts comes first. Prefixes that cannot be read are left out. */
export function gatewayTable({ links, said, uplinks, isGood = () => true }: TableSource): TableLine[] {
  type Plain = Omit<TableLine, 'counts' | 'beats' | 'beaten'>;
  const line = (kind: LineKind, prefix: Prefix, name: string, nextHop: string, more: Partial<Plain> = {}): Plain => ({
    ...{ kind, prefix, name, nextHop, preference: PREFERENCE[kind], metric: 0 },
    ...more,
  });
  const lines: Plain[] = [
    ...links.flatMap(({ name, address }): Plain[] => {
      const network = parsePrefix(address);
      return network ? [line('link', network, name, name)] : [];
    }),
    ...said.flatMap(({ name, prefix: text, to, by, metric = 0 }): Plain[] => {
      const prefix = parsePrefix(text);
      if (!prefix) return [];
      if (to !== undefined) return [line('said', prefix, name, to, { to, metric })];
      if (by !== undefined) return [line('said', prefix, name, by, { by, metric, up: isGood(by) })];
      return [line('said', prefix, name, DISCARD, { metric })];
    }),
    ...uplinks.flatMap(({ port, name = port, turn, six }): Plain[] =>
      [ALL4, ...(six ? [ALL6] : [])].map((prefix) =>
        line('uplink', prefix, name, port, { by: port, metric: turn, up: isGood(port) }),
      ),
    ),
  ];
  const sorted = [...lines].sort(byPrefix);
  const isUp = ({ up }: Plain): boolean => up !== false;
  const first = (prefix: Prefix, without?: Plain): Plain | undefined =>
    sorted.find((each) => each !== without && isUp(each) && same(each.prefix, prefix));
  return sorted.map((each): TableLine => {
    const best = first(each.prefix)!;
    const counts = isUp(each) && best !== undefined && better(each, best) === 0;
    const after = sorted.filter(
      (other) => other !== each && same(other.prefix, each.prefix) && better(each, other) < 0,
    );
    // The next shorter one, all that share it.
    const longest = Math.max(
      -1,
      ...sorted.flatMap((other) =>
        isUp(other) && other.prefix.length < each.prefix.length && contains(other.prefix, each.prefix)
          ? [other.prefix.length]
          : [],
      ),
    );
    const wider = sorted.filter(
      (other) => isUp(other) && other.prefix.length === longest && contains(other.prefix, each.prefix),
    );
    const shorter = wider.filter((other) => better(other, wider[0]!) === 0);
    const beats = [...after.map((other) => wordsOf([other])), ...(shorter.length > 0 ? [wordsOf(shorter)] : [])];
    if (counts) return { ...each, counts, beats };
    const beaten = isUp(each) ? `${wordsOf([best])} comes first` : `${each.by} is not good`;
    return { ...each, counts, beats: [], beaten };
  });
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

const same = (a: Prefix, b: Prefix): boolean =>
  a.version === b.version && a.length === b.length && a.network === b.network;

const byPrefix = (a: Route, b: Route): number =>
  a.prefix.version - b.prefix.version ||
  (a.prefix.network < b.prefix.network ? -1 : a.prefix.network > b.prefix.network ? 1 : 0) ||
  a.prefix.length - b.prefix.length ||
  Number(a.up === false) - Number(b.up === false) ||
  better(a, b) ||
  (a.nextHop < b.nextHop ? -1 : a.nextHop > b.nextHop ? 1 : 0);
