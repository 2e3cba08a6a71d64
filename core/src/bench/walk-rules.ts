import { parseIp, type IpAddress } from '../address';
import { GRE, interfacesOf, type ApTunnelDocument, type SsidLists } from '../document';
import type { Hop, Documents } from '../lattice';
import {
  answerTo,
  appliesAtMoment,
  firstMatch,
  packetRuleOf,
  packetWords,
  type Packet,
  type PolicyDocument,
} from '../rules';
import type { Decider, WalkStep } from './walk-step';

/** An address of documentation space (RFC 5737) that stands for whatever is on the internet. */
const SOMEBODY_OUTSIDE = '198.51.100.80';
const WEB = { protocol: 6, port: 443, sourcePort: 49_152 } as const;

/** Where a walk has come to when rules are asked. */
export interface RulesAsked {
  readonly documents: Documents;
  readonly apId: string;
  /** What the AP judges its packets by. */
  readonly lists: SsidLists | undefined;
  /** From the AP to the router. */
  readonly hops: readonly Hop[];
  readonly gatewayId: string;
  /** The probe's own address. */
  readonly address: string;
  /** By the site's clock; see `momentOn`. */
  readonly moment: number;
}

/**
 * What rules say of a web page the probe asks for: at the AP, at the switches on its way, at the gateway, and, where
 * packets are judged by themselves, of the answer. Places without rules say nothing.
 */
export function* rulesOnWay(asked: RulesAsked, to = SOMEBODY_OUTSIDE): Generator<WalkStep> {
  const [source, destination] = [parseIp(asked.address), parseIp(to)];
  if (!source || source.version !== 4) return;
  const packet: Packet = { version: 4, source: source.value, destination: destination!.value, ...WEB };
  const { documents, gatewayId } = asked;
  const ap = documents.get(asked.apId)!;
  const switches = switchesOn(asked);
  const air = (list: PolicyDocument | undefined): Judge => ({ id: asked.apId, name: ap.device.name, list });
  const there: Judge[] = [air(asked.lists?.from), ...switches, gatewayJudge(documents, gatewayId)];
  for (const judge of there) yield* judged(judge, packet, asked.moment, '');
  const back = answerTo(packet);
  for (const judge of [...switches.reverse(), air(asked.lists?.to)])
    if (back) yield* judged(judge, back, asked.moment, 'the answer ');
}

/**
 * Whether a guest who is let in is kept from private space (RFC 1918): by what is judged of a page at the gateway’s address in another
 * segment; none where it has no other.
 * @param vlan of the guest.
 */
export function* privateSpace(asked: RulesAsked, vlan: number): Generator<WalkStep> {
  const gateway = asked.documents.get(asked.gatewayId)!;
  const other = interfacesOf(gateway).find((each) => each.vlan !== vlan && isPrivate(each.address.split('/')[0]!));
  if (!other) return;
  const to = other.address.split('/')[0]!;
  const stopped = [...rulesOnWay(asked, to)].find(({ passed }) => !passed);
  const { id, name } = { id: asked.gatewayId, name: gateway.device.name };
  yield stopped
    ? { ...stopped, passed: true, title: 'Kept from private space' }
    : {
        ...{ kind: 'rules', passed: true, title: 'Private space answers too' },
        detail: `Nothing stops it on its way to ${to}, in ${other.name}: guests reach what is not theirs.`,
        decidedBy: { kind: 'device', id, name },
      };
}

export const isPrivate = (address: string): boolean => /^(10|192\.168|172\.(1[6-9]|2\d|3[01]))\./.test(address);

/** What rules say of the packets of a tunnel, at the switches on their way and at the gateway they are for. */
export function* tunnelOnWay(
  { documents, apId, moment }: Pick<RulesAsked, 'documents' | 'apId' | 'moment'>,
  { hops, gatewayId }: Pick<RulesAsked, 'hops' | 'gatewayId'>,
  { to }: ApTunnelDocument,
): Generator<WalkStep> {
  const sender = senderOf(documents, apId);
  const switches = switchesOn({ documents, hops });
  yield* judgedTunnel([...switches, gatewayJudge(documents, gatewayId)], { sender, to, moment }, switches.reverse());
}

/** What judges say of packets around frames; those of the answers judge each packet by itself. */
export function* judgedTunnel(
  there: readonly Judge[],
  { sender, to, moment }: { readonly sender: IpAddress | null; readonly to: string; readonly moment: number },
  back: readonly Judge[] = [],
): Generator<WalkStep> {
  const destination = parseIp(to);
  if (!sender || !destination) return;
  const packet: Packet = { version: 4, source: sender.value, destination: destination.value, protocol: GRE };
  for (const judge of there) yield* judged(judge, packet, moment, 'the tunnel ');
  const answer = { ...packet, source: packet.destination, destination: packet.source };
  for (const judge of back) yield* judged(judge, answer, moment, 'the tunnel’s answer ');
}

/** The address that an AP's own packets come from: its fixed one, else the first that it may be given. */
export function senderOf(documents: Documents, apId: string): IpAddress | null {
  const { vlan, address } = documents.get(apId)!.management;
  if (address) return parseIp(address.address);
  const services = [...documents.values()].flatMap(({ addressServices = [] }) => addressServices);
  return parseIp(services.find((each) => each.vlan === vlan)?.first ?? '');
}

const switchesOn = ({ documents, hops }: Pick<RulesAsked, 'documents' | 'hops'>): Judge[] =>
  [...new Set(hops.map(({ to }) => to.deviceId))].flatMap((id): Judge[] => {
    const document = documents.get(id);
    return document?.kind === 'switch' ? [{ id, name: document.device.name, list: document.list }] : [];
  });

export function gatewayJudge(documents: Documents, id: string): Judge {
  const gateway = documents.get(id)!;
  return { id, name: gateway.device.name, list: gateway.kind === 'gateway' ? gateway.policy : undefined };
}

/** A place that judges packets. */
interface Judge {
  readonly id: string;
  readonly name: string;
  readonly list: PolicyDocument | undefined;
}

function* judged({ id, name, list }: Judge, packet: Packet, moment: number, what: string): Generator<WalkStep> {
  if (!list || list.rules.length === 0) return;
  const inForce = list.rules.filter((rule) => appliesAtMoment(rule, moment));
  const found = firstMatch(inForce.map(packetRuleOf), packet);
  const rule = found && inForce.find((each) => each.id === found.id);
  const passed = (rule?.verdict ?? list.otherwise) === 'allow';
  const decidedBy: Decider = rule ? { kind: 'rule', id: rule.id, name: rule.name } : { kind: 'device', id, name };
  const title = passed ? `${name} lets ${what || 'it '}through` : `${name} stops ${what || 'it'}`.trimEnd();
  const why = rule ? `By “${rule.name}”` : 'No rule says anything of it';
  yield { kind: 'rules', passed, title, detail: `${why}: ${packetWords(packet)}.`, decidedBy };
}
