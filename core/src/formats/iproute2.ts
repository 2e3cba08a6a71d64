import { formatRange, type IpRange } from '../address';
import type { PacketRule } from '../rules';
import { matchLines } from './nftables';

/** An uplink as Linux is told of it. */
export interface LinuxUplink {
  /** Name of its interface. */
  readonly port: string;
  /** Who takes packets on; null: it is not known, and `ip` takes the interface alone. */
  readonly gateway: string | null;
  /** Its share, beside others. */
  readonly weight: number;
  /** Its turn among those that stand by; null: it shares. */
  readonly standby: number | null;
  /** Whether addresses from inside are translated on the way out (RFC 3022). */
  readonly translate: boolean;
  /** How it leaves by IPv6; absent: it does not. */
  readonly six?: { readonly gateway: string | null; readonly prefix?: string };
}

/** What leaves otherwise than the rest. */
export interface LinuxCourse {
  readonly name: string;
  readonly packets: Pick<PacketRule, 'source' | 'destination' | 'services'>;
  /** Marks that they bear (RFC 2474); absent: any. */
  readonly dscp?: readonly number[];
  readonly ports: readonly string[];
  readonly how: 'first' | 'share';
  readonly otherwise: 'usual' | 'nothing';
}

/** As what some are seen who leave by an uplink. */
export interface LinuxTranslation {
  readonly port: string;
  readonly packets: Pick<PacketRule, 'source' | 'destination' | 'services'>;
  readonly as: 'uplink' | 'itself' | { readonly pool: IpRange };
}

/** Something inside that is reached at uplinks. */
export interface LinuxPublished {
  readonly name: string;
  readonly protocols: readonly ('tcp' | 'udp')[];
  /** First and last port that is asked for. */
  readonly outside: readonly [first: number, last: number];
  readonly address: string;
  /** The first port there. */
  readonly inside: number;
  readonly ports: readonly string[];
  /** Who may; null: everybody. */
  readonly from: PacketRule['source'];
  /** The subnet that it stands in, where people inside reach it under the address of an uplink too; null: they do not. */
  readonly within: string | null;
}

/** A way that is said for a prefix: to a neighbour, by an uplink, or, where neither is named, nowhere. */
export interface LinuxRoute {
  readonly name: string;
  readonly prefix: string;
  readonly to?: string;
  readonly by?: string;
  readonly metric?: number;
  /** Address that has to answer by it. */
  readonly tracks?: string;
}

export interface LinuxUplinks {
  /** What it is of, for people who read the file. */
  readonly name: string;
  readonly uplinks: readonly LinuxUplink[];
  readonly courses: readonly LinuxCourse[];
  readonly translations?: readonly LinuxTranslation[];
  readonly published?: readonly LinuxPublished[];
  /** Ways that are said for some prefixes, beside what is on its links. */
  readonly routes?: readonly LinuxRoute[];
  /** Its own addresses inside. */
  readonly own?: readonly string[];
}

/** Routing tables and marks of courses begin here; priorities of the rules that lead there. */
const [TABLE, MARK, FIRST] = [200, 0x100, 100];
const hex = (at: number): string => `0x${(MARK + at).toString(16)}`;
/** The same of what came in by an uplink: its answers leave as it came. */
const [BACK_TABLE, BACK_MARK, BACK_FIRST] = [300, 0x200, 60];
const hexBack = (at: number): string => `0x${(BACK_MARK + at).toString(16)}`;
/** Worse than any other route, so that it is taken where nothing else is left. */
const LAST = 4_278_198_272;

/**
 * How a gateway uses its uplinks, as a shell script of iproute2: as it is while all are good. Routes to the inside come first, whatever is
 * marked; a flow stays with its uplink, by what of it stays the same (`fib_multipath_hash_policy`). Standbys have routes with a higher metric: the
 * kernel takes them when the link of the others goes, and whoever asks whether anything answers has to take routes away.
 */
export function iproute2Of({ name, uplinks, courses, published = [], routes = [] }: LinuxUplinks): string {
  const sharing = uplinks.filter(({ standby, weight }) => standby === null && weight > 0);
  const standing = uplinks.filter(({ standby }) => standby !== null).sort((a, b) => a.standby! - b.standby!);
  const lines = [
    '#!/bin/sh',
    `# How ${plain(name)} leaves, while all of its uplinks are good.`,
    'set -e',
    'echo 1 > /proc/sys/net/ipv4/fib_multipath_hash_policy',
    // A route whose link is gone is none.
    ...uplinks.map(({ port }) => `echo 1 > /proc/sys/net/ipv4/conf/${port}/ignore_routes_with_linkdown`),
    ...defaultRoutes(sharing, ''),
    ...standing.map((each, i) => route([each], `metric ${100 + i}`)),
    // What is inside is never looked for outside.
    ...rule(`lookup main suppress_prefixlength 0 priority ${BACK_FIRST - 1}`),
  ];
  if (published.length > 0)
    uplinks.forEach((each, at) => {
      const table = `table ${BACK_TABLE + at}`;
      lines.push(
        '',
        `# Answers to what came in by ${each.port}`,
        route([each], table),
        ...rule(`fwmark ${hexBack(at)} lookup ${BACK_TABLE + at} priority ${BACK_FIRST + at}`),
      );
    });
  courses.forEach(({ name: course, ports, how, otherwise }, at) => {
    const some = ports.flatMap((port) => uplinks.find((each) => each.port === port) ?? []);
    const table = `table ${TABLE + at}`;
    lines.push(
      '',
      `# ${plain(course)}`,
      `ip route flush ${table} 2>/dev/null || true`,
      ...(how === 'share' && some.length > 1
        ? defaultRoutes(some, table)
        : some.map((each, i) => route([each], `metric ${1 + i} ${table}`))),
      ...(otherwise === 'nothing' ? [`ip route replace unreachable default metric ${LAST} ${table}`] : []),
      ...rule(`fwmark ${hex(at)} lookup ${TABLE + at} priority ${FIRST + at}`),
    );
  });
  return [...lines, ...sixLines(uplinks), ...routeLines(routes, uplinks), ''].join('\n');
}

/** Routes of the main table, which is asked for all but its default before any course: of several to one prefix the kernel takes the lowest metric. */
function routeLines(routes: readonly LinuxRoute[], uplinks: readonly LinuxUplink[]): string[] {
  const lines = routes.flatMap(({ name, prefix, to, by, metric = 0, tracks }) => {
    const ip = prefix.includes(':') ? 'ip -6' : 'ip';
    // The least that IPv6 knows is 1: 0 means the usual there, which is 1024.
    const where = `${prefix} metric ${metric + 1}`;
    const uplink = uplinks.find(({ port }) => port === by);
    if (by !== undefined && !uplink) return [];
    const gateway = prefix.includes(':') ? uplink?.six?.gateway : uplink?.gateway;
    const route = uplink
      ? `${where}${gateway ? ` via ${gateway}` : ''} dev ${uplink.port}`
      : to === undefined
        ? `blackhole ${where}`
        : `${where} via ${to}`;
    const asked = tracks === undefined ? '' : `: only while ${plain(tracks)} answers; whoever asks it takes this away`;
    return [`# ${plain(name)}${asked}`, `${ip} route replace ${route}`];
  });
  return lines.length === 0 ? [] : ['', ...lines];
}

/** Tables of prefixes that providers delegated begin here; priorities of the rules that lead there. */
const [SIX_TABLE, SIX_FIRST] = [400, 80];

/**
 * IPv6: what is in a prefix that a provider delegated leaves by its uplink alone, since no other provider carries it (BCP 38); all else by the
 * first that has IPv6.
 */
function sixLines(uplinks: readonly LinuxUplink[]): string[] {
  const having = uplinks.filter(({ six }) => six !== undefined);
  if (having.length === 0) return [];
  const hop = ({ port, six }: LinuxUplink): string =>
    `default ${six!.gateway === null ? '' : `via ${six!.gateway} `}dev ${port}`;
  const order = [...having].sort((a, b) => (a.standby ?? -1) - (b.standby ?? -1));
  return [
    '',
    '# IPv6',
    ...order.map((each, i) => `ip -6 route replace ${hop(each)} metric ${1024 + i}`),
    ...rule(`lookup main suppress_prefixlength 0 priority ${SIX_FIRST - 1}`, 'ip -6'),
    ...having.flatMap((each, at) => {
      const prefix = each.six!.prefix;
      if (prefix === undefined) return [];
      const table = `table ${SIX_TABLE + at}`;
      return [
        `ip -6 route replace ${hop(each)} ${table}`,
        `ip -6 route replace unreachable default metric ${LAST} ${table}`,
        ...rule(`from ${prefix} lookup ${SIX_TABLE + at} priority ${SIX_FIRST + at}`, 'ip -6'),
      ];
    }),
  ];
}

/** A rule of routing, once, however often the script is run. */
const rule = (text: string, ip = 'ip'): string[] => [
  `${ip} rule del ${text} 2>/dev/null || true`,
  `${ip} rule add ${text}`,
];

function defaultRoutes(some: readonly LinuxUplink[], more: string): string[] {
  const weighted = some.map((each) => ({ ...each, weight: each.weight || 1 }));
  return some.length === 0 ? [] : [route(weighted, more)];
}

/** The kernel’s weights go from 1 to 256. */
const MOST_WEIGHT = 256;

function route(some: readonly LinuxUplink[], more: string): string {
  const hop = ({ port, gateway }: LinuxUplink): string => `${gateway === null ? '' : `via ${gateway} `}dev ${port}`;
  const most = Math.max(...some.map(({ weight }) => weight));
  const scale = most > MOST_WEIGHT ? MOST_WEIGHT / most : 1;
  const hops =
    some.length === 1
      ? hop(some[0]!)
      : some.map((each) => `nexthop ${hop(each)} weight ${Math.max(1, Math.round(each.weight * scale))}`).join(' ');
  return `ip route replace default ${[more, hops].filter((part) => part !== '').join(' ')}`;
}

/** Text that ends no line. */
const plain = (text: string): string => text.replace(/[^ -~\u00a0-\u2027\u202f-\uffff]/g, ' ');

const NFT_TABLE = 'iron_lattice_paths';

/**
 * The marks of courses and the translation of addresses, as an nftables ruleset: what begins gets the mark of the first course that fits it,
 * and keeps it as long as it goes on; what comes in to something published is led to it, and its answers leave as it came. Loading it takes the place of the table that was there.
 */
export function nftablesOfUplinks({
  name,
  uplinks,
  courses,
  translations = [],
  published = [],
  own = [],
}: LinuxUplinks): string {
  const ports = uplinks.map(({ port }) => `"${port}"`).join(', ');
  const translating = uplinks.filter(({ translate }) => translate);
  const marked = courses.flatMap(({ packets, dscp }, at) => {
    const end = `ct mark set ${hex(at)} meta mark set ${hex(at)} counter return`;
    return matchLines(packets, end).flatMap((line) => (dscp ? withMarks(line, dscp) : [line]));
  });
  return [
    `# How ${plain(name)} leaves.`,
    `table inet ${NFT_TABLE}`,
    `delete table inet ${NFT_TABLE}`,
    '',
    `table inet ${NFT_TABLE} {`,
    '  chain prerouting {',
    '    type filter hook prerouting priority mangle; policy accept;',
    ...(published.length > 0
      ? uplinks.map(({ port }, at) => `    iifname "${port}" ct state new ct mark set ${hexBack(at)}`)
      : []),
    // Answers are for whoever asked.
    ...(uplinks.length > 0 ? [`    iifname { ${ports} } return`] : []),
    '    ct mark != 0 meta mark set ct mark return',
    ...marked.map((line) => `    ${line}`),
    '  }',
    '',
    ...(published.length > 0 ? leadingChain(published, ports, own) : []),
    '  chain postrouting {',
    '    type nat hook postrouting priority srcnat; policy accept;',
    ...published.flatMap(({ within, address }) =>
      // Both are in one subnet: the answer would go by itself, and nobody would know it.
      within ? [`    ip saddr ${within} ip daddr ${address} ct status dnat masquerade`] : [],
    ),
    ...translations.flatMap(seenLines).map((line) => `    ${line}`),
    // IPv6 leaves as it is: its addresses are the provider’s already.
    ...translating.map(({ port }) => `    oifname "${port}" meta nfproto ipv4 masquerade`),
    '  }',
    '}',
    '',
  ].join('\n');
}

/** Leads what comes in to whom it is for. @param ports of all uplinks, as nftables writes them. */
function leadingChain(published: readonly LinuxPublished[], ports: string, own: readonly string[]): string[] {
  const besides = own.length > 0 ? ` ip daddr != { ${own.join(', ')} }` : '';
  const lines = published.flatMap((each) => {
    const { from, ports: at, within } = each;
    const uplinks = `iifname { ${at.map((port) => `"${port}"`).join(', ')} } fib daddr type local`;
    const outside = matchLines({ source: from, destination: null, services: [{ protocol: 'any' }] }, '')
      .filter((line) => !line.startsWith('ip6 '))
      .map((line) => [uplinks, line.trim()].filter((part) => part !== '').join(' '));
    // Addresses of uplinks may be others tomorrow: whatever is the router’s own and none that the inside knows it by.
    const inside = within ? [`iifname != { ${ports} } fib daddr type local${besides}`] : [];
    return [...outside, ...inside].flatMap((match) => leadLines(each, match));
  });
  return [
    '  chain leading {',
    '    type nat hook prerouting priority dstnat; policy accept;',
    ...lines.map((line) => `    ${line}`),
    '  }',
    '',
  ];
}

/** What leads to other ports inside is said port by port. */
function leadLines(
  { name, protocols, outside: [first, last], address, inside }: LinuxPublished,
  match: string,
): string[] {
  const span = first === last ? `${first}` : `${first}-${last}`;
  const moved = Array.from({ length: last - first + 1 }, (_, i) => `${first + i} : ${inside + i}`).join(', ');
  return protocols.map((protocol) => {
    const to =
      inside === first
        ? `dnat ip to ${address}`
        : first === last
          ? `dnat ip to ${address}:${inside}`
          : `dnat ip to ${address} : ${protocol} dport map { ${moved} }`;
    return `${match} ${protocol} dport ${span} counter ${to} comment "${plain(name).replace(/["\\]/g, ' ').slice(0, 60)}"`;
  });
}

/** A translation of IPv4; of a pool each address inside has always the same (RFC 4787 REQ-2). */
function seenLines({ port, packets, as }: LinuxTranslation): string[] {
  const end =
    as === 'uplink' ? 'masquerade' : as === 'itself' ? 'accept' : `snat ip to ${formatRange(as.pool)} persistent`;
  return matchLines(packets, end)
    .filter((line) => !line.startsWith('ip6 ') && !line.startsWith('meta nfproto ipv6'))
    .map((line) => `oifname "${port}" ${line.startsWith('ip ') ? '' : 'meta nfproto ipv4 '}${line}`);
}

/** A line of each IP version that asks for marks. */
function withMarks(line: string, dscp: readonly number[]): string[] {
  const marks = dscp.length === 1 ? `${dscp[0]}` : `{ ${dscp.join(', ')} }`;
  if (/^ip6 |nfproto ipv6/.test(line)) return [`ip6 dscp ${marks} ${line}`];
  if (/^ip |nfproto ipv4/.test(line)) return [`ip dscp ${marks} ${line}`];
  return [`ip dscp ${marks} ${line}`, `ip6 dscp ${marks} ${line}`];
}
