import { formatIp, mergeRanges, type IpRange, type IpVersion } from '../address';
import {
  joined,
  minutesOf,
  type ClockPeriod,
  type PacketRule,
  type PortSpan,
  type Service,
  type Verdict,
  type WeekSpan,
  type When,
} from '../rules';

/** What a ruleset is made of. */
export interface NftablesInput {
  /** With when each is in force, by the site's clock. */
  readonly rules: readonly (PacketRule & When)[];
  /** What happens to packets that no rule matches. */
  readonly otherwise: Verdict;
  /** Whether answers to what was let through are let through as well. */
  readonly stateful: boolean;
  /** Whether the rules also decide what is sent to the gateway itself. */
  readonly own?: boolean;
  /** How the site's clock stands to UTC; needed where rules have hours. Absent: it is UTC. */
  readonly clock?: { readonly timeZone: string; readonly periods: readonly ClockPeriod[] };
}

const UTC: NonNullable<NftablesInput['clock']> = { timeZone: 'UTC', periods: [{ from: null, to: null, offset: 0 }] };

const TABLE = 'iron_lattice';
const ACTIONS: Readonly<Record<Verdict, string>> = { allow: 'accept', deny: 'drop' };

/**
 * A site's policy as an nftables ruleset: one chain of rules in their order, jumped to from the forward hook, and from the
 * input hook where the gateway's own addresses are meant too. Each line
 * counts what it decides and carries its rule's id as comment. Loading it takes the place of the table that was there.
 *
 * The kernel counts hours and days in UTC (nft_meta.c), and the program that loads the file would put hours of text, but no
 * days, from its own zone into UTC: so both are written in UTC here, as numbers, which it leaves alone.
 */
export function nftablesOf({ rules, otherwise, stateful, own = false, clock = UTC }: NftablesInput): string {
  const lines = rules.flatMap((rule) =>
    hoursOf(rule, clock.periods).flatMap((hours) => linesOf(rule).map((line) => `    ${join(hours, line)}`)),
  );
  const until = clock.periods.at(-1)?.to ?? null;
  const head = rules.some(({ times, closed }) => times || closed)
    ? [
        `# Hours are those of ${clock.timeZone}, written in UTC as the kernel counts them, whatever zone the gateway is set to.`,
        ...(until === null
          ? []
          : [`# They follow its clock until ${dateOf(until)}. Write this file anew before that.`]),
      ]
    : [];
  const remembered = stateful ? ['    ct state established,related accept'] : [];
  return [
    ...head,
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

const dateOf = (seconds: number): string =>
  `${new Date(seconds * 1000).toISOString().slice(0, 16).replace('T', ' ')} UTC`;

/**
 * What a rule's hours ask of the kernel's clock: one for each stretch of a day that differs, in each period of the site's
 * clock; one that asks nothing without hours.
 */
function hoursOf({ times, closed }: When, periods: readonly ClockPeriod[]): string[] {
  const open = openDays(closed ?? [], periods);
  if (!times) return [open];
  return periods.flatMap(({ from, to, offset }) => {
    const within = join(from === null ? '' : `meta time >= ${from}`, to === null ? '' : `meta time < ${to}`);
    return inUtc(times, offset).map((hours) => join(open, join(within, hours)));
  });
}

/** That it is none of some days of the site's clock. */
function openDays(closed: readonly string[], periods: readonly ClockPeriod[]): string {
  if (closed.length === 0) return '';
  const spans = closed.map((day) => {
    const midnight = Date.parse(`${day}T00:00:00Z`) / 1000;
    return `${byClock(midnight, periods)}-${byClock(midnight + 86_400, periods) - 1}`;
  });
  return `meta time != ${spans.length === 1 ? spans[0] : `{ ${spans.join(', ')} }`}`;
}

/** When a clock shows what UTC would at a moment. @param seconds since 1970. */
function byClock(seconds: number, periods: readonly ClockPeriod[]): number {
  const found = periods
    .map(({ from, to, offset }) => ({ at: seconds - offset * 60, from: from ?? -Infinity, to: to ?? Infinity }))
    .find(({ at, from, to }) => at >= from && at < to);
  return found?.at ?? seconds - (periods.at(-1)?.offset ?? 0) * 60;
}

/** @param offset minutes that the site's clock is ahead of UTC. */
function inUtc(times: readonly WeekSpan[], offset: number): string[] {
  const days = new Map<string, Set<string>>();
  for (const { from, to } of minutesOf(times))
    for (let at = from - offset; at < to - offset;) {
      const day = Math.floor(at / 1440);
      const end = Math.min(to - offset, (day + 1) * 1440);
      const key = hourRange(at - day * 1440, end - day * 1440);
      const name = DAYS[(day + 7) % 7]!;
      days.set(key, (days.get(key) ?? new Set<string>()).add(name));
      at = end;
    }
  return [...days].map(([hours, names]) => {
    const quoted = [...names].map((name) => `"${name}"`).join(', ');
    return join(names.size === 7 ? '' : `meta day { ${quoted} }`, hours);
  });
}

/** Minutes of a day, the last not included, in seconds; empty for the whole of it. */
const hourRange = (from: number, to: number): string =>
  from === 0 && to === 1440 ? '' : `meta hour ${from * 60}-${to * 60 - 1}`;

const linesOf = (rule: PacketRule): string[] =>
  matchLines(rule, `counter ${ACTIONS[rule.verdict]} comment "${quoted(rule.id)}"`);

/**
 * What a rule asks of packets, as lines of nftables: one for each service and IP version, or for both together where nothing tells them apart.
 * @param end what follows in each.
 */
export function matchLines(
  { source, destination, services }: Pick<PacketRule, 'source' | 'destination' | 'services'>,
  end: string,
): string[] {
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
/** A comment holds 128 octets at most (NFTNL_UDATA_COMMENT_MAXLEN); it is cut between characters. */
const MOST_COMMENT = 120;

function quoted(text: string): string {
  let [out, octets] = ['', 0];
  for (const character of text.replace(/["\\\n]/g, ' ')) {
    octets += utf8Length(character);
    if (octets > MOST_COMMENT) break;
    out += character;
  }
  return out;
}

/** Octets of one character in UTF-8 (RFC 3629 §3). */
function utf8Length(character: string): number {
  const code = character.codePointAt(0)!;
  return code < 0x80 ? 1 : code < 0x800 ? 2 : code < 0x10000 ? 3 : 4;
}

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
