/** A route that somebody says, as plain values. Where neither a neighbour nor an interface is named, it drops what is for the prefix. */
export interface IetfRoute {
  readonly name: string;
  readonly prefix: string;
  /** Address of a neighbour that hands packets on. */
  readonly to?: string;
  /** Interface that packets leave by. */
  readonly by?: string;
  readonly metric?: number;
}
/** An interface that routes leave by, or on whose link neighbours are. */
export interface IetfRoutedInterface {
  readonly name: string;
  readonly description: string;
}

/**
 * Writes static routes as RFC 7951 JSON of `ietf-routing` with `ietf-ipv4-unicast-routing` and `ietf-ipv6-unicast-routing` (RFC 8349 §7 and appendix A),
 * and the interfaces that they name (`ietf-interfaces`, RFC 8343), with a final newline. The model knows one route to a prefix, with several next hops: of
 * several with different metrics those with the lowest are written, together.
 */
export function writeIetfRouting(interfaces: readonly IetfRoutedInterface[], routes: readonly IetfRoute[]): string {
  const [four = [], six = []] = [false, true].map((isSix): Said[] => {
    const mine = routes.filter(({ prefix }) => prefix.includes(':') === isSix);
    return [...new Set(mine.map(({ prefix }) => prefix))].sort().map((prefix) => {
      const all = mine.filter((each) => each.prefix === prefix);
      const best = Math.min(...all.map(({ metric = 0 }) => metric));
      return { prefix, ways: all.filter(({ metric = 0 }) => metric === best) };
    });
  });
  const protocol = {
    type: 'ietf-routing:static',
    name: 'said',
    'static-routes': { ...unicast('ipv4', four), ...unicast('ipv6', six) },
  };
  const list = [...interfaces]
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .map(({ name, description }) => ({ name, description, type: 'iana-if-type:ethernetCsmacd', enabled: true }));
  const routing = { 'control-plane-protocols': { 'control-plane-protocol': [protocol] } };
  return `${JSON.stringify({ 'ietf-interfaces:interfaces': { interface: list }, 'ietf-routing:routing': routing }, null, 2)}\n`;
}

interface Said {
  readonly prefix: string;
  readonly ways: readonly IetfRoute[];
}

function unicast(version: 'ipv4' | 'ipv6', said: readonly Said[]): object {
  const name = `ietf-${version}-unicast-routing`;
  const hop = ({ to, by }: IetfRoute): object =>
    to !== undefined ? { 'next-hop-address': to } : by !== undefined ? { 'outgoing-interface': by } : DROP;
  const route = said.map(({ prefix, ways }) => ({
    'destination-prefix': prefix,
    description: ways.map((way) => way.name).join(', '),
    'next-hop':
      ways.length === 1
        ? hop(ways[0]!)
        : { 'next-hop-list': { 'next-hop': ways.map((way, at) => ({ index: `${at + 1}`, ...hop(way) })) } },
  }));
  return route.length === 0 ? {} : { [`${name}:${version}`]: { route } };
}

const DROP = { 'special-next-hop': 'blackhole' };
