import { prefixOf, type IpAddress, type IpVersion, type Prefix } from '../address';
import { better, type Found, type Route } from './route-table';

/** Networks of one length, with what is best there. */
interface Length {
  readonly length: number;
  readonly networks: ReadonlyMap<Key, readonly Route[]>;
}
/** Networks of IPv4 are doubles, which are found quicker than whole numbers of any size. */
type Key = number | bigint;
const keyOf = (version: IpVersion, network: bigint): Key => (version === 4 ? Number(network) : network);

/**
 * A routing table that is asked many times: for each length of prefix that occurs, from the longest on, what is best of each network. A look-up costs as
 * many steps as there are lengths, however many routes there are.
 */
export class OpenTable {
  private readonly lengths: Readonly<Record<IpVersion, readonly Length[]>>;

  /** @param routes entries that are down are left out. */
  constructor(routes: Iterable<Route>) {
    const found: Record<IpVersion, Map<number, Map<Key, Route[]>>> = { 4: new Map(), 6: new Map() };
    for (const route of routes) {
      if (route.up === false) continue;
      const { version, length, network } = route.prefix;
      let networks = found[version].get(length);
      if (!networks) found[version].set(length, (networks = new Map<Key, Route[]>()));
      const key = keyOf(version, network);
      const best = networks.get(key);
      const order = best ? better(route, best[0]!) : -1;
      if (order < 0) networks.set(key, [route]);
      else if (order === 0) best!.push(route);
    }
    const sorted = (version: IpVersion): Length[] =>
      [...found[version]].map(([length, networks]) => ({ length, networks })).sort((a, b) => b.length - a.length);
    this.lengths = { 4: sorted(4), 6: sorted(6) };
  }

  /** The best routes to a destination, all equally good; none where nothing matches. */
  routesTo({ version, value }: IpAddress): readonly Route[] {
    const address = version === 4 ? Number(value) : 0;
    for (const { length, networks } of this.lengths[version]) {
      const key =
        version === 4
          ? length === 0
            ? 0
            : address - (address % 2 ** (32 - length))
          : (value >> BigInt(128 - length)) << BigInt(128 - length);
      const found = networks.get(key);
      if (found) return found;
    }
    return NONE;
  }

  /** What the table says of a destination; see `lookUp`. */
  lookUp(destination: IpAddress): Found {
    const best = this.routesTo(destination);
    const [first] = best;
    if (!first) return { prefix: null, nextHops: [] };
    return { prefix: first.prefix, nextHops: [...new Set(best.map(({ nextHop }) => nextHop))].sort() };
  }

  /** Every prefix that something is said of. */
  *prefixes(): Iterable<Prefix> {
    for (const version of [4, 6] as const)
      for (const { length, networks } of this.lengths[version])
        for (const key of networks.keys()) yield prefixOf({ version, value: BigInt(key) }, length);
  }
}
const NONE: readonly Route[] = [];
