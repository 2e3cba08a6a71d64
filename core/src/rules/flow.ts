import type { Decider } from './decider';
import type { Packet, PacketRule, Verdict } from './packet-rule';
import { PROTOCOL, type Service } from './service';

/** The packet that answers another: ends and ports swapped; echo replies answer echo requests (RFC 792, RFC 4443 §4). */
export function answerTo(packet: Packet): Packet {
  const { version, source, destination, protocol, sourcePort, port, type } = packet;
  const back = { version, source: destination, destination: source, protocol };
  if (type !== undefined) {
    const reply = type === 8 && version === 4 ? 0 : type === 128 && version === 6 ? 129 : type;
    return { ...back, type: reply, code: packet.code ?? 0 };
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
  return passes(packet) && (stateful || passes(answerTo(packet)));
}

/**
 * The rule that matches a packet exactly when the given one matches its answer: ends and ports swapped, echo requests
 * for replies. Nobody begins anything with an echo reply.
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
  const [four, six] = [
    protocol === 'icmp' || protocol === PROTOCOL.icmp,
    protocol === 'icmp' || protocol === PROTOCOL.icmp6,
  ];
  if (!four && !six) return [swapped];
  // Each version has its own numbers for requests and replies (RFC 792; RFC 4443 §4).
  const versions = [
    ...(four ? [{ protocol: PROTOCOL.icmp, request: 8, reply: 0 }] : []),
    ...(six ? [{ protocol: PROTOCOL.icmp6, request: 128, reply: 129 }] : []),
  ];
  return versions.flatMap(({ protocol: number, request, reply }): Service[] => {
    const other = { ...service, protocol: number };
    if (type === undefined) return [other];
    if (type === request) return [];
    return [type === reply ? { ...other, type: request } : other];
  });
}
