import { contains, formatIp, parseIp, parsePrefix, subtractRanges, type IpRange } from '../address';
import {
  interfacesOf,
  type AddressServiceDocument,
  type ApDocument,
  type ApTunnelDocument,
  type SpanDocument,
  type SsidLists,
} from '../document';
import { MESH_PORT, type Link, type LinkEnd } from '../intent';
import { traceStrand, traceTunnel, type Documents, type Hop } from '../lattice';
import { momentOn } from '../rules';
import type { WalkFacts } from './probe';
import { acrossSites } from './walk-landing';
import { besideOn, isBeside, towardAll } from './walk-beside';
import { privateSpace, rulesOnWay, tunnelOnWay } from './walk-rules';
import { outward } from './walk-outward';
import { pass, stop, type Decider, type WalkStep } from './walk-step';
import { toward } from './walk-toward';
import { intoTunnel, outOfTunnel } from './walk-tunnel';

/** A client that is in a VLAN at a device, and goes on from there. */
export interface Onward {
  readonly documents: Documents;
  readonly links: readonly Link[];
  readonly deviceId: string;
  readonly joins: number;
  /** The tunnel that its frames go into, at an AP. */
  readonly inside?: ApTunnelDocument;
  /** Whether that leads to another site. */
  readonly far?: boolean;
  /** What a portal makes of it; empty where there is none. */
  readonly held?: readonly WalkStep[];
  /** What the device judges its packets by. */
  readonly lists: SsidLists | undefined;
  readonly facts: WalkFacts;
}

/** From a VLAN at a device over cables to its router, an address, rules, and the internet. */
export function* onward({
  documents,
  links,
  deviceId,
  joins,
  inside,
  far = false,
  held = [],
  lists,
  facts,
}: Onward): Generator<WalkStep> {
  const start = documents.get(deviceId)!;
  const strand =
    inside && !far
      ? traceTunnel(documents, links, deviceId, joins)
      : traceStrand(documents, links, deviceId, far ? start.management.vlan : joins);
  if (inside) yield intoTunnel(start as ApDocument, deviceId, inside, joins);
  if (strand.state === 'no-way') {
    const detail = 'No chain of reported cables leads from here to a gateway that routes the VLAN.';
    yield stop('link', 'No way to the gateway', detail, { kind: 'device', id: deviceId, name: start.device.name });
    return;
  }
  for (const hop of strand.hops) yield crossing(documents, hop);
  if (strand.state === 'broken') {
    const { end, vlan, as } = strand.gaps[0]!;
    const { name } = documents.get(end.deviceId)!.device;
    const how = as === 'tagged' ? 'tagged' : 'untagged';
    const detail = `Port ${end.port} of ${name} does not carry VLAN ${vlan} ${how}, so it drops the frame.`;
    yield stop('link', `Stopped at ${name} port ${end.port}`, detail, portDecider(documents, end));
    return;
  }
  if (inside) {
    const asked = { documents, apId: deviceId, moment: momentOf(facts) };
    if (strand.state === 'whole') yield* tunnelOnWay(asked, strand, inside);
    if (far && strand.state === 'whole') {
      yield* acrossSites(asked, strand.gatewayId, inside, joins, facts);
      const { landing } = facts;
      if (!landing || landing.gatewayId === null) return;
      // From there on it is as if the AP stood at the other site.
      const there = new Map([...landing.documents, [deviceId, start]]);
      const { documents: _all, gatewayId, links: cables } = landing;
      const at = { documents: there, links: cables, deviceId, lists, held, facts: { ...facts, ...landing.facts } };
      yield* settled(at, { gatewayId, vlan: joins, hops: [] });
      return;
    }
    yield outOfTunnel(documents, strand, inside, joins, facts.silent ?? false);
  }
  if (strand.state === 'untaken') return;
  const { hops, gatewayId, vlan } = strand;
  // Switches do not see what is in a tunnel.
  yield* settled({ documents, links, deviceId, lists, held, facts }, { gatewayId, vlan, hops: inside ? [] : hops });
}

/** From where frames come to a router: an address, rules, and the internet. @param strand with the switches that see them. */
function* settled(
  { documents, links, deviceId, lists, held, facts }: Omit<Onward, 'joins' | 'held'> & { held: readonly WalkStep[] },
  strand: { readonly gatewayId: string; readonly vlan: number; readonly hops: readonly Hop[] },
): Generator<WalkStep> {
  const { hops } = strand;
  const router = documents.get(strand.gatewayId)!;
  let given = '';
  for (const step of addressing(documents, strand.gatewayId, strand.vlan, facts)) {
    given = step.address ?? given;
    yield step;
  }
  yield* held;
  if (isBeside(router)) {
    const asked = { documents, apId: deviceId, lists, hops, address: given, moment: momentOf(facts) };
    if (given) yield* besideOn({ documents, links, facts }, strand.gatewayId, asked);
    return;
  }
  if (router.kind === 'gateway') {
    const { gatewayId } = strand;
    const moment = momentOf(facts);
    if (given) {
      const asked = { documents, apId: deviceId, lists, hops, gatewayId, address: given, moment };
      yield* facts.to ? rulesOnWay(asked, facts.to.address) : rulesOnWay(asked);
      if (held.length > 0 && !facts.to) yield* privateSpace(asked, strand.vlan);
    }
    const from = { documents, apId: deviceId, lists, hops, address: given || 'the client’s address', moment };
    if (facts.to) yield* towardAll({ documents, links, facts }, gatewayId, from, facts.to);
    else yield* outward(router, gatewayId, facts, given || 'the client’s address', strand.vlan);
    return;
  }
  const home = traceStrand(documents, links, strand.gatewayId, router.management.vlan);
  const decider: Decider = { kind: 'device', id: strand.gatewayId, name: router.device.name };
  if (home.state !== 'whole') {
    yield stop('link', 'No way on', `${router.device.name} has no way from its own VLAN to the gateway.`, decider);
    return;
  }
  const detail = `${router.device.name} sends the frames on as its own, in VLAN ${router.management.vlan}.`;
  yield pass('link', `Translated by ${router.device.name}`, detail, decider);
  const gateway = documents.get(home.gatewayId)!;
  if (gateway.kind !== 'gateway') return;
  if (facts.to) yield* toward(gateway, home.gatewayId, facts, 'the AP’s address', facts.to);
  else yield* outward(gateway, home.gatewayId, facts, 'the AP’s address');
}

/** The moment of a walk; one of any week where no day is said. */
const momentOf = ({ minute, day }: WalkFacts): number => (day ? momentOn(day, minute % 1440) : minute);

function crossing(documents: Documents, hop: Hop): WalkStep {
  const name = (end: LinkEnd): string => `${documents.get(end.deviceId)!.device.name} port ${end.port}`;
  const tag = hop.tag === null ? 'untagged' : `tag ${hop.tag}`;
  if (hop.to.port === MESH_PORT) {
    const [to, from] = [hop.to, hop.from].map(({ deviceId }) => documents.get(deviceId)!.device.name);
    const detail = `From ${from}, over the radio between them; in VLAN ${hop.vlan} from here on.`;
    const decider: Decider = { kind: 'device', id: hop.to.deviceId, name: to! };
    return { ...pass('link', `By radio to ${to}`, detail, decider), tag: hop.tag };
  }
  const detail = `From ${name(hop.from)}, ${tag}; in VLAN ${hop.vlan} from here on.`;
  const step = pass('link', `${name(hop.to)}, ${tag}`, detail, portDecider(documents, hop.to));
  return { ...step, tag: hop.tag };
}

/** Who gives addresses in a VLAN that a router has an address in. */
function serverOf(
  documents: Documents,
  routerId: string,
  vlan: number,
):
  | { readonly id: string; readonly name: string; readonly service: AddressServiceDocument }
  | { readonly relay: string }
  | null {
  const router = documents.get(routerId)!;
  const relay = router.kind === 'gateway' ? router.relays?.find((each) => each.vlan === vlan) : undefined;
  const ids = [routerId, ...[...documents].flatMap(([id, { kind }]) => (kind === 'switch' ? [id] : []))];
  for (const id of ids) {
    const document = documents.get(id)!;
    const service = document.addressServices?.find((each) => each.vlan === vlan);
    if (service) return { id, name: document.device.name, service };
  }
  return relay ? { relay: relay.server } : null;
}

/** The lease, and whether the router answers at the address that comes with it. */
function* addressing(documents: Documents, routerId: string, vlan: number, facts: WalkFacts): Generator<WalkStep> {
  const router = documents.get(routerId)!;
  const { name } = router.device;
  const device: Decider = { kind: 'device', id: routerId, name };
  const server = serverOf(documents, routerId, vlan);
  if (!server) {
    yield stop('addresses', 'No address', `${name} gives no addresses on VLAN ${vlan}.`, device);
    return;
  }
  const face = interfacesOf(router).find((each) => each.vlan === vlan)!;
  const own = face.address.split('/')[0]!;
  if ('relay' in server) {
    const detail = `${name} passes the request on to ${server.relay}, which is not ours: what it gives is not known here.`;
    yield pass('addresses', `Asked at ${server.relay}`, detail, device);
    yield pass('gateway', `${own} answers`, `${name} holds it on VLAN ${vlan}.`, device);
    return;
  }
  const { service } = server;
  const by: Decider = { kind: 'segment', id: `${vlan}`, name: face.name };
  const address = firstFree(service, facts.taken);
  if (address === null) {
    yield stop('addresses', 'No address left', `All of ${service.first} to ${service.last} is taken.`, by);
    return;
  }
  const from = `${service.first} – ${service.last}`;
  const detail = `${server.name} leases it from ${from} for ${service.leaseSeconds / 3600} h.`;
  yield { ...pass('addresses', `Given ${address}`, detail, by), address };
  if (service.gateway === null) {
    yield stop('gateway', 'No route told', `The service tells no default route, so nothing leaves VLAN ${vlan}.`, by);
    return;
  }
  const answers = own === service.gateway && contains(parsePrefix(face.address)!, parseIp(address)!);
  yield answers
    ? pass('gateway', `${own} answers`, `${name} holds it on VLAN ${vlan}.`, device)
    : stop('gateway', `${service.gateway} does not answer`, `${name} holds ${face.address} on VLAN ${vlan}.`, device);
}

/** The lowest address that a service gives to anybody and that is not taken, or null. */
function firstFree(service: AddressServiceDocument, taken: ReadonlySet<string>): string | null {
  const range = ({ first, last }: SpanDocument): IpRange => ({
    version: 4,
    first: parseIp(first)!.value,
    last: parseIp(last)!.value,
  });
  const never = [
    ...(service.exclude ?? []),
    ...(service.reservations ?? []).map(({ address }) => ({ first: address, last: address })),
  ].map(range);
  for (const span of [service, ...(service.also ?? [])])
    for (const left of subtractRanges(range(span), never))
      for (let value = left.first; value <= left.last; value++) {
        const text = formatIp({ version: 4, value });
        if (!taken.has(text)) return text;
      }
  return null;
}

export function portDecider(documents: Documents, end: LinkEnd): Decider {
  const { name } = documents.get(end.deviceId)!.device;
  return { kind: 'port', id: end.deviceId, name: `${name} port ${end.port}`, port: end.port };
}
