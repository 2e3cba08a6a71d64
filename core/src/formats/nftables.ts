import { formatIp, mergeRanges, type IpRange, type IpVersion } from '../address';
import { joined, minutesOf, type PacketRule, type PortSpan, type Service, type Verdict, type WeekSpan } from '../rules';

/** What a ruleset is made of. */
export interface NftablesInput {
  /** `times`: when a rule is in force, by the clock of the machine that loads the ruleset. */
  readonly rules: readonly (PacketRule & { readonly times?: readonly WeekSpan[] | undefined })[];
  /** What happens to packets that no rule matches. */
  readonly otherwise: Verdict;
  /** Whether answers to what was let through are let through as well. */
  readonly stateful: boolean;
  /** Whether the rules also decide what is sent to the gateway itself. */
  readonly own?: boolean;
}

const TABLE = 'iron_lattice';
const ACTIONS: Readonly<Record<Verdict, string>> = { allow: 'accept', deny: 'drop' };

/**
 * A site's policy as an nftables ruleset: one chain of rules in their order, jumped to from the forward hook, and from the
 * input hook where the gateway's own addresses are meant too. Each line
 * counts what it decides and carries its rule's id as comment. Loading it takes the place of the table that was there.
 */
export function nftablesOf({ rules, otherwise, stateful, own = false }: NftablesInput): string {
  const lines = rules.flatMap((rule) =>
    hoursOf(rule.times).flatMap((hours) => linesOf(rule).map((line) => `    ${join(hours, line)}`)),
  );
  const remembered = stateful ? ['    ct state established,related accept'] : [];
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
    ...remembered,
    '    jump rules',
    '  }',
    ...(own ? inputChain(otherwise, remembered) : []),
    '}',
    '',
  ].join('\n');
}

/** What is sent to the gateway itself; neighbours have to find it whatever the rules are (RFC 4861). */
const inputChain = (otherwise: Verdict, remembered: readonly string[]): string[] => [
  '',
  '  chain input {',
  `    type filter hook input priority filter; policy ${ACTIONS[otherwise]};`,
  '    iifname "lo" accept',
  '    icmpv6 type { nd-neighbor-solicit, nd-neighbor-advert, nd-router-solicit } accept',
  ...remembered,
  '    jump rules',
  '  }',
];

const DAYS = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'] as const;

/** What a rule's hours ask of the clock: one for each stretch of a day that differs; one that asks nothing without hours. */
function hoursOf(times: readonly WeekSpan[] | undefined): string[] {
  if (!times) return [''];
  const days = new Map<string, Set<string>>();
  for (const { from, to } of minutesOf(times))
    for (let at = from; at < to;) {
      const day = Math.floor(at / 1440);
      const end = Math.min(to, (day + 1) * 1440);
      const key = hourRange(at - day * 1440, end - day * 1440);
      days.set(key, (days.get(key) ?? new Set<string>()).add(DAYS[day]!));
      at = end;
    }
  return [...days].map(([hours, names]) => {
    const quoted = [...names].map((name) => `"${name}"`).join(', ');
    return join(names.size === 7 ? '' : `meta day { ${quoted} }`, hours);
  });
}

/** Minutes of a day, the last not included; empty for the whole of it. */
function hourRange(from: number, to: number): string {
  if (from === 0 && to === 1440) return '';
  const text = (minute: number): string =>
    `${String(Math.floor(minute / 60)).padStart(2, '0')}:${String(minute % 60).padStart(2, '0')}`;
  return `meta hour "${text(from)}:00"-"${text(to - 1)}:59"`;
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
