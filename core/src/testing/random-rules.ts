import { parsePrefix, rangeOf, type IpRange, type IpVersion } from '../address';
import { PROTOCOL, type Packet, type PacketRule, type PortSpan, type Service } from '../rules';
import { randomFrom } from '../base';

/** Prefixes of a made-up site's segment, by number. */
export const rulePrefix = (i: number, version: IpVersion): string =>
  version === 4 ? `10.${20 + (i >> 8)}.${i & 255}.0/24` : `fd00:20:0:${i.toString(16)}::/64`;

const range = (text: string): IpRange => rangeOf(parsePrefix(text)!);
const PORTS = [22, 25, 53, 80, 123, 443, 445, 993, 3389, 5060, 8080];

/**
 * Makes a list of rules by a seed, as people write them: most from one segment to another or to a host, some from or to
 * anywhere, with ports, port ranges, source ports, ICMP types and other protocols at random, of both IP versions.
 */
export function randomRules(seed: number, count: number, segments: number): PacketRule[] {
  const random = randomFrom(seed);
  const chance = (percent: number): boolean => random(100) < percent;
  const pick = <T>(list: readonly T[]): T => list[random(list.length)]!;
  const end = (): IpRange[] | null => {
    if (chance(12)) return null;
    const which = random(segments);
    const versions: readonly IpVersion[] = chance(60) ? [4, 6] : chance(80) ? [4] : [6];
    return versions.flatMap((version): IpRange[] => {
      const whole = range(rulePrefix(which, version));
      if (chance(55)) return [whole];
      const first = whole.first + BigInt(random(250));
      if (chance(50)) return [{ version, first, last: first }];
      if (chance(50)) return [{ version, first, last: first + BigInt(random(5)) }];
      return [whole, range(rulePrefix(random(segments), version))];
    });
  };
  const span = (): PortSpan => {
    if (chance(70)) {
      const port = pick(PORTS);
      return { first: port, last: port };
    }
    const first = chance(10) ? 0 : random(65_536);
    return { first, last: chance(10) ? 65_535 : Math.min(65_535, first + random(2000)) };
  };
  const service = (): Service => {
    const kind = random(100);
    if (kind < 20) return { protocol: 'any' };
    if (kind < 24) return { protocol: 'any', ports: [span()] };
    if (kind < 82) {
      const protocol = chance(65) ? 'tcp' : 'udp';
      if (chance(10)) return { protocol };
      const ports = Array.from({ length: 1 + random(3) }, span);
      return { protocol, ports, ...(chance(8) ? { sourcePorts: [span()] } : {}) };
    }
    if (kind < 94) {
      if (chance(40)) return { protocol: 'icmp' };
      const type = random(20);
      return { protocol: 'icmp', type, ...(chance(40) ? { code: random(4) } : {}) };
    }
    return { protocol: pick([47, 50, 89, 132]) };
  };
  return Array.from({ length: count }, (_, i) => {
    const [source, destination] = [end(), end()];
    // A rule for everything would leave nothing to those behind it.
    const narrow = (): Service => {
      const made = service();
      return source === null && destination === null && made.protocol === 'any' ? narrow() : made;
    };
    const services = Array.from({ length: chance(15) ? 2 : 1 }, narrow);
    return { id: `rule-${i + 1}`, verdict: chance(60) ? 'allow' : 'deny', source, destination, services };
  });
}

/** Packets aimed at the edges of rules: first and last address and port of each, and one beyond; the rest at random. */
export function aimedPackets(seed: number, rules: readonly PacketRule[], count: number, segments: number): Packet[] {
  const random = randomFrom(seed);
  const pick = <T>(list: readonly T[]): T => list[random(list.length)]!;
  const edge = (first: bigint, last: bigint): bigint => pick([first, last, first - 1n, last + 1n, first, last]);
  const address = (ranges: readonly IpRange[] | null | undefined, version: IpVersion): bigint => {
    const fitting = (ranges ?? []).filter((each) => each.version === version);
    const within = fitting.length > 0 && random(10) > 0 ? pick(fitting) : range(rulePrefix(random(segments), version));
    const inner = random(3) === 0 ? within.first + BigInt(random(250)) : edge(within.first, within.last);
    return inner;
  };
  const port = (spans: readonly PortSpan[] | undefined): number => {
    if (!spans || spans.length === 0 || random(10) === 0) return random(65_536);
    const { first, last } = pick(spans);
    return Math.max(0, Math.min(65_535, Number(edge(BigInt(first), BigInt(last)))));
  };
  return Array.from({ length: count }, (): Packet => {
    const rule = rules.length > 0 && random(12) > 0 ? pick(rules) : undefined;
    const version: IpVersion = random(3) === 0 ? 6 : 4;
    const ends = { version, source: address(rule?.source, version), destination: address(rule?.destination, version) };
    const service: Service = rule ? pick(rule.services) : { protocol: pick(['tcp', 'udp', 'icmp'] as const) };
    const named =
      service.protocol === 'any' || random(12) === 0 ? pick(['tcp', 'udp', 'icmp'] as const) : service.protocol;
    if (named === 'tcp' || named === 'udp')
      return { ...ends, protocol: PROTOCOL[named], port: port(service.ports), sourcePort: port(service.sourcePorts) };
    if (named !== 'icmp') return { ...ends, protocol: named };
    const type = Math.max(0, Math.min(255, (service.type ?? random(20)) + pick([0, 0, 0, 1, -1])));
    return { ...ends, protocol: version === 6 ? PROTOCOL.icmp6 : PROTOCOL.icmp, type, code: service.code ?? random(4) };
  });
}
