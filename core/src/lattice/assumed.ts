import {
  isRoutedByAps,
  namesAt,
  isOfOthers,
  NOWHERE_ROUTED,
  segmentsOfRouter,
  servedFrom,
  type Link,
  type ResolvedSite,
  type RosterDevice,
  type Segment,
  type SiteRouter,
} from '../intent';
import type { GatewayDocument, GatewayInterface } from '../document';
import { parsePrefix } from '../address';
import { policyRule, resolveRules, writeEnds, type PolicyRule } from '../rules';
import { needsOf, type Need } from './needs';
import type { Documents } from './strand';

/** Devices of a site and its cables, with what is assumed to be there. */
export interface AssumedPlant {
  readonly documents: Documents;
  readonly links: readonly Link[];
}

/** The port of a box of others, as far as anything is known of it. */
const PORT = 'lan';

/** Whether a document is of a box of others: nobody is told it, it says what is assumed. */
export const isAssumed = ({ device }: Pick<GatewayDocument, 'device'>): boolean => device.serial === '';

/**
 * What devices are told and how they are cabled, with boxes of others as they are assumed to be: each routes its segments, and carries on its cable what
 * it needs. The very same where there are none.
 */
export function withBoxes(site: ResolvedSite, documents: Documents, links: readonly Link[]): AssumedPlant {
  const boxes = (site.routers ?? []).filter(isOfOthers);
  if (boxes.length === 0) return { documents, links };
  const plant = new Map(documents);
  const more = boxes.flatMap((box): Link[] => {
    const document = assumedDocument(site, box, documents);
    if (!document || !box.at) return [];
    plant.set(box.id, document);
    return [{ a: box.at, b: { deviceId: box.id, port: PORT } }];
  });
  return { documents: plant, links: [...links, ...more] };
}

/**
 * The same, to see where segments run: one that nobody routes runs to the first place that needs it, so that those who share it meet.
 * @returns the very same where nothing is assumed.
 */
export function withAssumed(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
): AssumedPlant {
  const boxes = (site.routers ?? []).filter(isOfOthers);
  const carried = site.segments.filter(({ routed }) => routed === NOWHERE_ROUTED);
  if (boxes.length === 0 && carried.length === 0) return { documents, links };
  const before = known.get(documents);
  if (before?.site === site && before.links === links) return before.made;
  const boxed = withBoxes(site, documents, links);
  const plant = new Map(boxed.documents);
  for (const { vlan, name } of carried) {
    const meet = needsOf(site, roster, documents, links).find((need) => need.vlan === vlan)?.deviceId;
    const document = meet === undefined ? undefined : plant.get(meet);
    const face: GatewayInterface = { vlan, name, address: '' };
    if (document) plant.set(meet!, { ...document, interfaces: [...(document.interfaces ?? []), face] });
  }
  const made = { documents: plant, links: boxed.links };
  known.set(documents, { site, links, made });
  return made;
}
const known = new WeakMap<
  Documents,
  { readonly site: ResolvedSite; readonly links: readonly Link[]; readonly made: AssumedPlant }
>();

/** A box of others as it is assumed to be, in the words of what a gateway would be told; null where it routes nothing. */
function assumedDocument(site: ResolvedSite, box: SiteRouter, documents: Documents): GatewayDocument | null {
  const routed = segmentsOfRouter(site, box.id).filter((segment) => !isRoutedByAps(segment));
  if (routed.length === 0) return null;
  const transit = site.segments.find(({ id }) => id === box.meets?.segmentId);
  const vlans = [...routed, ...(transit ? [transit] : [])].map(({ vlan }) => vlan);
  const socket = documents.get(box.at?.deviceId ?? '')?.ports.find(({ name }) => name === box.at?.port);
  // Without a word of it, it takes without a tag what its socket sends so, or else where it meets the gateway.
  const plain = socket?.untagged ?? transit?.vlan ?? (routed.length === 1 ? vlans[0] : undefined);
  const untagged = vlans.find((vlan) => vlan === plain) ?? null;
  return {
    format: 'iron-lattice.document/1',
    kind: 'gateway',
    device: { name: box.name, serial: '', model: '' },
    site: { name: site.name, country: site.country, timeZone: site.timeZone },
    management: { vlan: untagged ?? vlans[0]! },
    ports: [{ name: PORT, untagged, tagged: vlans.filter((vlan) => vlan !== untagged).sort((a, b) => a - b) }],
    interfaces: routed.map(faceOf),
    addressServices: routed.flatMap((segment) => serviceAssumed(segment)),
    uplinks: box.ownWayOut ? [{ port: 'own line', method: 'dhcp', translate: true }] : [],
    policy: { otherwise: 'allow', rules: assumedRules(site, box) },
    ...(transit && box.meets
      ? { routes: [{ name: 'everything else', prefix: '0.0.0.0/0', to: transit.gateway }] }
      : {}),
  };
}

const faceOf = ({ vlan, name, gateway, subnet }: Segment): GatewayInterface => ({
  ...{ vlan, name },
  address: `${gateway}/${parsePrefix(subnet)!.length}`,
});

/** What a box is assumed to give where its gateway gives addresses. */
function serviceAssumed({ vlan, subnet, gateway, addresses }: Segment): GatewayDocument['addressServices'] {
  if (!addresses || servedFrom(addresses).kind !== 'gateway') return [];
  const { first, last, also, exclude, route, dns, leaseSeconds } = addresses;
  return [
    {
      ...{ vlan, subnet, first, last, leaseSeconds },
      ...(also ? { also } : {}),
      ...(exclude ? { exclude } : {}),
      gateway: route === 'none' ? null : (route ?? gateway),
      dns: dns ?? [gateway],
    },
  ];
}

/** What a box is assumed to let pass, as a gateway would be told it. */
function assumedRules(site: ResolvedSite, { name, lets }: SiteRouter): readonly PolicyRule[] {
  const said = lets ?? [];
  return resolveRules(said, namesAt(site.estate, site)).rules.map((rule) => {
    const { verdict, from, to } = said.find(({ id }) => id === rule.id)!;
    return policyRule(rule, { name: `Assumed of ${name}: ${verdict} ${writeEnds(from)} → ${writeEnds(to)}` });
  });
}

/** What boxes of others need: to meet the gateway, where it is known at which port they are. */
export const needsOfBoxes = (site: ResolvedSite): Need[] =>
  (site.routers ?? []).filter(isOfOthers).flatMap(({ id, at, meets }): Need[] => {
    const transit = at && site.segments.find((segment) => segment.id === meets?.segmentId);
    const routes = segmentsOfRouter(site, id).length > 0;
    return transit && routes ? [{ deviceId: id, vlan: transit.vlan, reasons: [{ kind: 'router' }] }] : [];
  });
