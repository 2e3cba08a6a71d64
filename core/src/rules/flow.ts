import type { Decider } from './decider';
import type { Packet, Verdict } from './packet-rule';

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
