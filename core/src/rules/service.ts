import { PORTED_END, SERVICE_END, type Span } from './space';

/**
 * Protocols, ports and ICMP types on one axis, so that a rule's service is a list of spans: TCP by destination port
 * from 0, UDP from 65,536, ICMP (of IPv4, or of IPv6 in its place) by type × 256 + code from 131,072, and the other
 * 253 protocols in order of number from 196,608. Every place is a packet that can be.
 */
const [TCP, UDP, ICMP, OTHER] = [0, 65_536, PORTED_END, 196_608];
/** Protocol numbers with an axis of their own (IANA protocol numbers). */
export const PROTOCOL = { icmp: 1, tcp: 6, udp: 17, icmp6: 58 } as const;

/** What a rule says of protocol and ports. */
export interface Service {
  /** `any`; a name; or a number from 0 to 255. */
  readonly protocol: 'any' | 'tcp' | 'udp' | 'icmp' | number;
  /** Destination ports, or none for all; only of TCP and UDP. */
  readonly ports?: readonly PortSpan[];
  /** Source ports, or none for all; only of TCP and UDP. */
  readonly sourcePorts?: readonly PortSpan[];
  /** ICMP type, or none for all. */
  readonly type?: number;
  /** ICMP code of that type, or none for all. */
  readonly code?: number;
}
/** Ports from `first` to `last`, both included. */
export interface PortSpan {
  readonly first: number;
  readonly last: number;
}

/** Protocols with an axis of their own, ascending. */
const apart = (icmp6: boolean): readonly number[] =>
  icmp6 ? [PROTOCOL.tcp, PROTOCOL.udp, PROTOCOL.icmp6] : [PROTOCOL.icmp, PROTOCOL.tcp, PROTOCOL.udp];
/** Place of another protocol among the others, and back. */
const rankOf = (protocol: number, icmp6: boolean): number =>
  protocol - apart(icmp6).filter((each) => each < protocol).length;
const protocolAt = (rank: number, icmp6: boolean): number =>
  apart(icmp6).reduce((protocol, each) => (each <= protocol ? protocol + 1 : protocol), rank);

/** Where a packet stands on the axis. @param port destination port, or ICMP type × 256 + code. */
export function serviceOf(protocol: number, port: number, icmp6: boolean): number {
  if (protocol === PROTOCOL.tcp) return TCP + port;
  if (protocol === PROTOCOL.udp) return UDP + port;
  if (protocol === (icmp6 ? PROTOCOL.icmp6 : PROTOCOL.icmp)) return ICMP + port;
  return OTHER + rankOf(protocol, icmp6);
}

/** What stands at a place of the axis. `port`: destination port, or type × 256 + code. */
export function serviceAt(place: number, icmp6: boolean): { readonly protocol: number; readonly port: number } {
  if (place < UDP) return { protocol: PROTOCOL.tcp, port: place };
  if (place < ICMP) return { protocol: PROTOCOL.udp, port: place - UDP };
  if (place < OTHER) return { protocol: icmp6 ? PROTOCOL.icmp6 : PROTOCOL.icmp, port: place - ICMP };
  return { protocol: protocolAt(place - OTHER, icmp6), port: 0 };
}

/**
 * The spans of a service, ascending; null for the whole axis. A protocol without ports has none where ports are
 * asked for, so such a service is empty; `any` with ports means TCP and UDP (the two that have them).
 */
export function spansOfService({ protocol, ports, type, code }: Service, icmp6: boolean): readonly Span[] | null {
  const at = (base: number): Span[] =>
    ports
      ? joined(ports.map(({ first, last }) => ({ first: base + first, end: base + last + 1 })))
      : [{ first: base, end: base + 65_536 }];
  if (protocol === 'any') return ports ? [...at(TCP), ...at(UDP)] : null;
  if (protocol === 'tcp' || protocol === PROTOCOL.tcp) return at(TCP);
  if (protocol === 'udp' || protocol === PROTOCOL.udp) return at(UDP);
  if (ports) return [];
  // ICMP by name is that of the packet's own version; by number it is what the number says.
  if (protocol === 'icmp' || protocol === (icmp6 ? PROTOCOL.icmp6 : PROTOCOL.icmp)) {
    if (type === undefined) return [{ first: ICMP, end: OTHER }];
    const first = ICMP + type * 256 + (code ?? 0);
    return [{ first, end: code === undefined ? first + 256 : first + 1 }];
  }
  const first = OTHER + rankOf(protocol, icmp6);
  return [{ first, end: first + 1 }];
}

/** Spans in order, those that touch or overlap as one. */
export function joined<T extends Span>(spans: readonly T[]): Span[] {
  const sorted = [...spans].sort((a, b) => (a.first < b.first ? -1 : a.first > b.first ? 1 : 0));
  const out: Span[] = [];
  for (const span of sorted) {
    const open = out.at(-1);
    if (!open || span.first > open.end) out.push(span);
    else if (span.end > open.end) out[out.length - 1] = { first: open.first, end: span.end };
  }
  return out;
}

/** A stretch of the axis in words: `TCP 80 to 443`, `UDP`, `ICMP type 8`, `protocol 47`. */
export function serviceWords({ first, end }: Span, icmp6: boolean): string {
  if (Number(first) === 0 && Number(end) === SERVICE_END) return 'anything';
  const parts: string[] = [];
  const stretch = (base: number, stop: number, say: (from: number, to: number) => string): void => {
    const [from, to] = [Math.max(Number(first), base), Math.min(Number(end), stop) - 1];
    if (from <= to) parts.push(say(from - base, to - base));
  };
  const ports =
    (name: string) =>
    (from: number, to: number): string =>
      from === 0 && to === 65_535 ? name : from === to ? `${name} ${from}` : `${name} ${from} to ${to}`;
  stretch(TCP, UDP, ports('TCP'));
  stretch(UDP, ICMP, ports('UDP'));
  stretch(ICMP, OTHER, (from, to) => {
    const name = icmp6 ? 'ICMPv6' : 'ICMP';
    if (from === 0 && to === 65_535) return name;
    const [type, lastType] = [from >> 8, to >> 8];
    if (type !== lastType) return `${name} types ${type} to ${lastType}`;
    return to - from === 255 ? `${name} type ${type}` : `${name} type ${type} code ${from & 255}`;
  });
  stretch(OTHER, SERVICE_END, (from, to) =>
    from === 0 && to === SERVICE_END - OTHER - 1
      ? 'other protocols'
      : from === to
        ? `protocol ${protocolAt(from, icmp6)}`
        : `protocols ${protocolAt(from, icmp6)} to ${protocolAt(to, icmp6)}`,
  );
  return parts.join(', ');
}
