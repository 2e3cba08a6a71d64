import { matcherOf, packetRuleOf, readAddresses, readPorts, type Packet, type PolicyRule } from '../rules';

/** Something inside that is reached at a gateway’s uplinks (RFC 2663 §4.1.2). Fields after `address` are only there where they say something. */
export interface PublishedDocument extends Pick<PolicyRule, 'id' | 'name' | 'from' | 'times' | 'closed'> {
  readonly protocols: readonly ('tcp' | 'udp')[];
  /** The port that is asked for, or a range such as 8000-8010. */
  readonly outside: string;
  /** Whom it leads to. */
  readonly address: string;
  /** The first port there, where it is another. */
  readonly inside?: number;
  /** Ports of the uplinks that it is reached at; absent: all. */
  readonly ports?: readonly string[];
  /** People inside reach it under the address of an uplink too. */
  readonly within?: true;
}

/** Where something published leads. */
export interface LedTo {
  readonly published: PublishedDocument;
  /** The packet with whereto translated. */
  readonly packet: Packet;
}

/** Protocols by their numbers (IANA). */
const NUMBERS = { tcp: 6, udp: 17 } as const;

/**
 * Tells where a packet to an uplink’s own address leads: by the first of those published that it fits.
 * @param at port of the uplink that it came in by; null: it is from inside, and the address is of whichever uplink.
 */
export function ledTo(all: readonly PublishedDocument[], packet: Packet, at: string | null): LedTo | null {
  const { port, protocol } = packet;
  if (port === undefined) return null;
  for (const published of all) {
    const { ports, within, from, outside, protocols, inside, address } = published;
    const { first, last } = readPorts(outside)!;
    if (port < first || port > last || !protocols.some((name) => NUMBERS[name] === protocol)) continue;
    if (at === null ? !within : ports && !ports.includes(at)) continue;
    if (at !== null && !comesFrom({ id: published.id, name: published.name, from })(packet)) continue;
    const to = readAddresses(address)!;
    return { published, packet: { ...packet, destination: to.first, port: (inside ?? first) + port - first } };
  }
  return null;
}

const comesFrom = ({ id, name, from }: Pick<PolicyRule, 'id' | 'name' | 'from'>): ((packet: Packet) => boolean) =>
  matcherOf(packetRuleOf({ id, name, verdict: 'allow', from, to: ['any'], services: [{ protocol: 'any' }] }));
