import { contains, parseIp, parsePrefix } from '../address';
import { interfacesOf, type DeviceDocument, type GatewayDocument } from '../document';
import type { Link } from '../intent';
import { isAssumed, traceStrand, type Documents } from '../lattice';
import type { WalkFacts, WalkTarget } from './probe';
import { isPrivate, rulesOnWay, type RulesAsked } from './walk-rules';
import { outward } from './walk-outward';
import { pass, stop, type Decider, type WalkStep } from './walk-step';
import { toward } from './walk-toward';

/** Where a walk has come to: the documents and cables of its site, and what the world reports. */
export interface BesideGiven {
  readonly documents: Documents;
  readonly links: readonly Link[];
  readonly facts: Pick<WalkFacts, 'uplinks' | 'to'>;
}

/** The address of the gateway that a router beside it hands on to; null: it has a way out of its own, or none. */
export function handsOnTo(router: DeviceDocument): string | null {
  if (router.kind === 'switch') return router.onward?.to ?? null;
  return router.kind === 'gateway' && isAssumed(router) ? (router.routes?.[0]?.to ?? null) : null;
}

/** Whether a router is one beside the gateway: a switch that routes, or a box of others. */
export const isBeside = (router: DeviceDocument): boolean =>
  router.kind === 'switch' || (router.kind === 'gateway' && isAssumed(router));

const said = (router: DeviceDocument): string => (router.kind === 'gateway' && isAssumed(router) ? 'Assumed: ' : '');

/** From a router beside the gateway on: to a link of its own, out by its own line, or to the gateway and what that makes of it. */
export function* besideOn(
  { documents, links, facts }: BesideGiven,
  routerId: string,
  asked: Omit<RulesAsked, 'gatewayId'>,
): Generator<WalkStep> {
  const router = documents.get(routerId)!;
  const { name } = router.device;
  const by: Decider = { kind: 'device', id: routerId, name };
  const to = facts.to && parseIp(facts.to.address);
  yield* rulesOnWay({ ...asked, gatewayId: routerId }, facts.to?.address);
  const link = to && interfacesOf(router).find(({ address }) => contains(parsePrefix(address)!, to));
  if (link) {
    const detail = `${said(router)}${facts.to.address} is in ${link.name}, on a link of ${name}; it never comes to the gateway.`;
    yield pass('gateway', `On to ${link.name}`, detail, by);
    return;
  }
  const next = handsOnTo(router);
  if (router.kind === 'gateway' && router.uplinks.length > 0 && (!to || !isPrivate(facts.to.address))) {
    yield pass('internet', `Out by a line of ${name}`, `${said(router)}it has a way out of its own.`, by);
    return;
  }
  const gateway = next === null ? null : gatewayAt(documents, next);
  if (next === null || !gateway) {
    const why = next === null ? `${name} does not meet the gateway.` : `No gateway here answers at ${next}.`;
    yield stop('gateway', 'No way on', why, by);
    return;
  }
  const transit = traceStrand(documents, links, routerId, gateway.vlan);
  if (transit.state !== 'whole' || transit.gatewayId !== gateway.id) {
    const detail = `${name} meets the gateway in VLAN ${gateway.vlan}, which is not carried between the two.`;
    yield stop('link', 'No way to the gateway', detail, by);
    return;
  }
  if (to && facts.to.address !== next && contains(parsePrefix(gateway.address)!, to)) {
    const detail = `${name} sends this there by itself, and the answer comes back by ${gateway.document.device.name}, which saw no question.`;
    yield stop('gateway', 'No answer', detail, by);
    return;
  }
  yield pass(
    'gateway',
    `Handed on to ${gateway.document.device.name}`,
    `${said(router)}${name} sends what it has no network for to ${next}.`,
    by,
  );
  yield* rulesOnWay({ ...asked, lists: undefined, hops: transit.hops, gatewayId: gateway.id }, facts.to?.address);
  if (facts.to) yield* towardAll({ documents, links, facts }, gateway.id, { ...asked, hops: [] }, facts.to);
  else yield* outward(gateway.document, gateway.id, facts, asked.address);
}

/** From the gateway to an address, and through the router beside it that has it. */
export function* towardAll(
  { documents, facts }: BesideGiven,
  gatewayId: string,
  asked: Omit<RulesAsked, 'gatewayId'>,
  to: WalkTarget,
): Generator<WalkStep> {
  const gateway = documents.get(gatewayId) as GatewayDocument;
  const ip = parseIp(to.address)!;
  const on = (document: DeviceDocument) =>
    interfacesOf(document).find(({ address }) => contains(parsePrefix(address)!, ip));
  const there = on(gateway)
    ? undefined
    : [...documents].find(([id, document]) => id !== gatewayId && isBeside(document) && on(document));
  yield* toward(gateway, gatewayId, facts, asked.address, to, there !== undefined);
  if (!there) return;
  const [id, router] = there;
  yield* rulesOnWay({ ...asked, lists: undefined, hops: [], gatewayId: id }, to.address);
  const { name } = router.device;
  const link = on(router)!;
  yield pass(
    'gateway',
    `On to ${link.name}`,
    `${said(router)}${to.address} is in ${link.name}, on a link of ${name}.`,
    {
      ...{ kind: 'device', id, name },
    },
  );
}

/** The gateway of ours that answers at an address, and the VLAN it does so in. */
function gatewayAt(
  documents: Documents,
  address: string,
): { readonly id: string; readonly document: GatewayDocument; readonly vlan: number; readonly address: string } | null {
  for (const [id, document] of documents) {
    if (document.kind !== 'gateway' || isAssumed(document)) continue;
    const face = document.interfaces.find((each) => each.address.split('/')[0] === address);
    if (face) return { id, document, vlan: face.vlan, address: face.address };
  }
  return null;
}
