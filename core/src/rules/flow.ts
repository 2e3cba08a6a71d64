import type { IpVersion } from '../address';
import type { Decider } from './decider';
import type { Packet, PacketRule, Verdict } from './packet-rule';
import { PROTOCOL, type Service } from './service';

/**
 * Messages of ICMP that ask for an answer, and what answers them: echo, timestamp and information (RFC 792), address mask
 * (RFC 950); echo of IPv6 (RFC 4443 §4). All others tell something, and nobody answers them (RFC 1122 §3.2.2).
 */
export const REPLIES: Readonly<Record<IpVersion, ReadonlyMap<number, number>>> = {
  4: new Map([
    [8, 0],
    [13, 14],
    [15, 16],
    [17, 18],
  ]),
  6: new Map([[128, 129]]),
};

/** The packet that answers another: ends and ports swapped; null where it asks for none. */
export function answerTo(packet: Packet): Packet | null {
  const { version, source, destination, protocol, sourcePort, port, type } = packet;
  const back = { version, source: destination, destination: source, protocol };
  if (type !== undefined) {
    const reply = REPLIES[version].get(type);
    return reply === undefined ? null : { ...back, type: reply, code: packet.code ?? 0 };
  }
  return {
    ...back,
    ...(sourcePort === undefined ? {} : { port: sourcePort }),
    ...(port === undefined ? {} : { sourcePort: port }),
  };
}

/**
 * Whether a conversation works through a list of rules. Where the place keeps state, answers follow the packet that
 * began it; where it does not, they are judged by the list themselves.
 */
export function flowWorks(decider: Decider, packet: Packet, otherwise: Verdict, stateful: boolean): boolean {
  const passes = (each: Packet): boolean => (decider.decide(each)?.verdict ?? otherwise) === 'allow';
  const back = answerTo(packet);
  return passes(packet) && (stateful || back === null || passes(back));
}

/**
 * The rule that matches a packet exactly when the given one matches its answer: ends and ports swapped, requests
 * for replies.
 */
export const answeredRule = (rule: PacketRule): PacketRule => ({
  ...rule,
  source: rule.destination,
  destination: rule.source,
  services: rule.services.flatMap(answeredService),
});

function answeredService({ ports, sourcePorts, ...service }: Service): Service[] {
  const swapped: Service = {
    ...service,
    ...(sourcePorts ? { ports: sourcePorts } : {}),
    ...(ports ? { sourcePorts: ports } : {}),
  };
  const { protocol, type } = service;
  const versions = ([4, 6] as const).filter(
    (version) => protocol === 'icmp' || protocol === (version === 4 ? PROTOCOL.icmp : PROTOCOL.icmp6),
  );
  if (versions.length === 0) return [swapped];
  // Each version has its own numbers for requests and replies.
  return versions.flatMap((version): Service[] => {
    const other = { ...service, protocol: version === 4 ? PROTOCOL.icmp : PROTOCOL.icmp6 };
    if (type === undefined) return [other];
    return [...REPLIES[version]].flatMap(([request, reply]) => (reply === type ? [{ ...other, type: request }] : []));
  });
}
