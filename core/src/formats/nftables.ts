import { formatIp, mergeRanges, type IpRange, type IpVersion } from '../address';
import { joined, type PacketRule, type PortSpan, type Service, type Verdict } from '../rules';

/** What a ruleset is made of. */
export interface NftablesInput {
  readonly rules: readonly PacketRule[];
  /** What happens to packets that no rule matches. */
  readonly otherwise: Verdict;
  /** Whether answers to what was let through are let through as well. */
  readonly stateful: boolean;
}

const TABLE = 'iron_lattice';
const ACTIONS: Readonly<Record<Verdict, string>> = { allow: 'accept', deny: 'drop' };

/**
 * A site's policy as an nftables ruleset: one chain of rules in their order, jumped to from the forward hook. Each line
 * counts what it decides and carries its rule's id as comment. Loading it takes the place of the table that was there.
 */
export function nftablesOf({ rules, otherwise, stateful }: NftablesInput): string {
  const lines = rules.flatMap((rule) => linesOf(rule).map((line) => `    ${line}`));
  return [
    `table inet ${TABLE}`,
    `delete table inet ${TABLE}`,
    '',
    `table inet ${TABLE} {`,
    '  chain rules {',
    ...lines,
    '  }',
    '',
    '  chain forward {',
    `    type filter hook forward priority filter; policy ${ACTIONS[otherwise]};`,
    ...(stateful ? ['    ct state established,related accept'] : []),
    '    jump rules',
    '  }',
    '}',
    '',
  ].join('\n');
}

/** The lines of one rule: one for each service and IP version, or for both together where nothing tells them apart. */
function linesOf(rule: PacketRule): string[] {
  const { source, destination, services, verdict } = rule;
  const end = `counter ${ACTIONS[verdict]} comment "${quoted(rule.id)}"`;
  return services.flatMap((service) => {
    const parts = matchesOf(service);
    if (source === null && destination === null && parts.both) return parts.both.map((part) => join(part, end));
    return ([4, 6] as const).flatMap((version) => {
      const [from, to] = [addressesOf('saddr', version, source), addressesOf('daddr', version, destination)];
      if (from === null || to === null) return [];
      const named = from !== '' || to !== '' ? '' : `meta nfproto ipv${version}`;
      return parts[version].map((part) => join(named, from, to, part, end));
    });
  });
}

const join = (...parts: readonly string[]): string => parts.filter((part) => part !== '').join(' ');
const quoted = (text: string): string => text.replace(/["\\\n]/g, ' ').slice(0, 120);

/** `ip saddr { … }`; empty for every address, null where the rule has none of this version. */
function addressesOf(field: 'saddr' | 'daddr', version: IpVersion, ranges: readonly IpRange[] | null): string | null {
  if (ranges === null) return '';
  const own = mergeRanges(ranges.filter((range) => range.version === version));
  if (own.length === 0) return null;
  const text = own.map(({ first, last }) => {
    const write = (value: bigint): string => formatIp({ version, value });
    return first === last ? write(first) : `${write(first)}-${write(last)}`;
  });
  return `${version === 4 ? 'ip' : 'ip6'} ${field} ${text.length === 1 ? text[0] : `{ ${text.join(', ')} }`}`;
}

/** What a service asks of a packet, by IP version, and where it is the same for both. */
function matchesOf(service: Service): Readonly<Record<IpVersion, readonly string[]>> & { both?: readonly string[] } {
  const { protocol, ports, sourcePorts, type, code } = service;
  const same = (parts: readonly string[]) => ({ 4: parts, 6: parts, both: parts });
  const portParts = (name: string): string =>
    join(
      ...[sourcePorts && `${name} sport ${portsOf(sourcePorts)}`, ports && `${name} dport ${portsOf(ports)}`].map(
        (part) => part ?? '',
      ),
    );
  if (protocol === 'any') return same(ports || sourcePorts ? [`meta l4proto { tcp, udp } ${portParts('th')}`] : ['']);
  for (const [name, number] of [
    ['tcp', 6],
    ['udp', 17],
  ] as const)
    if (protocol === name || protocol === number)
      return same([ports || sourcePorts ? portParts(name) : `meta l4proto ${name}`]);
  const icmp = (version: IpVersion): string => {
    const name = version === 4 ? 'icmp' : 'icmpv6';
    if (type === undefined) return `meta l4proto ${version === 4 ? 'icmp' : 'ipv6-icmp'}`;
    return join(`${name} type ${type}`, code === undefined ? '' : `${name} code ${code}`);
  };
  if (protocol === 'icmp') return { 4: [icmp(4)], 6: [icmp(6)] };
  if (protocol === 1) return { 4: [icmp(4)], 6: ['meta l4proto 1'] };
  if (protocol === 58) return { 4: ['meta l4proto 58'], 6: [icmp(6)] };
  return same([`meta l4proto ${protocol}`]);
}

/** Ports as one value or a set; those that overlap or touch are one. */
function portsOf(spans: readonly PortSpan[]): string {
  const text = joined(spans.map(({ first, last }) => ({ first, end: last + 1 }))).map(({ first, end }) => {
    const last = Number(end) - 1;
    return first === last ? `${first}` : `${first}-${last}`;
  });
  return text.length === 1 ? text[0]! : `{ ${text.join(', ')} }`;
}
