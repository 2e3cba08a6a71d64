import type { DeviceDocument, PortDocument } from '../document';
import type { Link, LinkEnd } from '../intent';

/** What each device is told, by device id. */
export type Documents = ReadonlyMap<string, DeviceDocument>;

/** One crossing of a cable. `tag` is the VLAN ID in the 802.1Q header, null for an untagged frame. */
export interface Hop {
  readonly from: LinkEnd;
  readonly to: LinkEnd;
  readonly tag: number | null;
  /** VLAN the frame is in after it arrived. */
  readonly vlan: number;
}

/** A port that would have to carry a VLAN and does not. */
export interface Gap {
  readonly end: LinkEnd;
  readonly vlan: number;
  /** How the frame would cross there. */
  readonly as: 'tagged' | 'untagged';
}

/** How frames of a VLAN get from a device to a gateway that has an interface in it. */
export type Strand =
  | { readonly state: 'whole'; readonly hops: readonly Hop[]; readonly gatewayId: string; readonly vlan: number }
  /** `hops`: as far as frames come on the way with the fewest gaps; `gaps`: what that way lacks, in order. */
  | { readonly state: 'broken'; readonly hops: readonly Hop[]; readonly gaps: readonly Gap[] }
  /** No chain of known cables leads to a gateway at all. */
  | { readonly state: 'no-way' };

/**
 * Follows a VLAN from inside a device over the known cables to a gateway with an interface in it (IEEE 802.1Q
 * bridging, by what the documents say of each port). Among ways it takes the one with the fewest gaps, then the
 * fewest hops. O(links); asked again for the same documents and cables it remembers, so neither may be changed.
 */
export function traceStrand(documents: Documents, links: readonly Link[], deviceId: string, vlan: number): Strand {
  const plant = plantOf(documents, links);
  const key = `${deviceId} ${vlan}`;
  let strand = plant.strands.get(key);
  if (!strand) plant.strands.set(key, (strand = trace(documents, plant, deviceId, vlan)));
  return strand;
}

/** A way so far, as a chain back to its start: ways that part share what they have in common. */
interface Way {
  readonly deviceId: string;
  readonly vlan: number;
  readonly cost: number;
  readonly hop: Hop | null;
  readonly gaps: readonly Gap[];
  readonly before: Way | null;
}
/** A gap weighs more than any number of hops. */
const GAP_COST = 1000;

function trace(documents: Documents, plant: Plant, deviceId: string, vlan: number): Strand {
  // Ways by cost, cheapest first; costs are small whole numbers, so a list for each is the queue.
  const queue: Way[][] = [[{ deviceId, vlan, cost: 0, hop: null, gaps: [], before: null }]];
  const seen = new Set<string>();
  for (let cost = 0; cost < queue.length; cost++) {
    for (const way of queue[cost] ?? []) {
      const key = `${way.deviceId} ${way.vlan}`;
      if (seen.has(key)) continue;
      seen.add(key);
      const document = documents.get(way.deviceId);
      if (document?.kind === 'gateway' && hasInterface(document, way.vlan)) return strandOf(way);
      for (const cable of plant.cables.get(way.deviceId) ?? []) {
        const next = across(way, cable);
        // Frames may slip into another VLAN where ports disagree; a way that has yet to be mended must not count on it.
        if (next && next.cost >= GAP_COST && next.vlan !== vlan) continue;
        if (next && !seen.has(`${next.deviceId} ${next.vlan}`)) (queue[next.cost] ??= []).push(next);
      }
    }
  }
  return { state: 'no-way' };
}

/** The way one cable further; null where an end of the cable is no port of ours. */
function across(way: Way, { near, far, nearPort, farPort }: Cable): Way | null {
  const crossing = cross(nearPort, farPort, way.vlan);
  if (!crossing) return null;
  const { as, leaves, enters, vlan } = crossing;
  const gaps: Gap[] = [];
  if (!leaves) gaps.push({ end: near, vlan: way.vlan, as });
  if (!enters) gaps.push({ end: far, vlan: way.vlan, as });
  const hop: Hop = { from: near, to: far, tag: as === 'tagged' ? way.vlan : null, vlan };
  return { deviceId: far.deviceId, vlan, cost: way.cost + 1 + GAP_COST * gaps.length, hop, gaps, before: way };
}

function strandOf(end: Way): Strand {
  const ways: Way[] = [];
  for (let way: Way | null = end; way?.hop; way = way.before) ways.unshift(way);
  const gaps = ways.flatMap((way) => way.gaps);
  const sound = ways.findIndex((way) => way.gaps.length > 0);
  const hops = (sound < 0 ? ways : ways.slice(0, sound)).map((way) => way.hop!);
  if (sound < 0) return { state: 'whole', hops, gatewayId: end.deviceId, vlan: end.vlan };
  return { state: 'broken', hops, gaps };
}

interface Crossing {
  readonly as: 'tagged' | 'untagged';
  readonly leaves: boolean;
  readonly enters: boolean;
  /** VLAN on the far side; as if nothing lacked where something does. */
  readonly vlan: number;
}

/** How a frame of a VLAN crosses a cable; null where an end is not a port of ours. */
export function cross(near: PortDocument | undefined, far: PortDocument | undefined, vlan: number): Crossing | null {
  if (!near || !far) return null;
  if (near.untagged === vlan) {
    const enters = far.untagged !== null;
    return { as: 'untagged', leaves: true, enters, vlan: far.untagged ?? vlan };
  }
  const leaves = near.tagged.includes(vlan);
  // A port that does not send the VLAN yet is judged by how its peer wants it.
  const as = !leaves && far.untagged === vlan ? 'untagged' : 'tagged';
  return { as, leaves, enters: far.tagged.includes(vlan) || far.untagged === vlan, vlan };
}

const hasInterface = (document: DeviceDocument, vlan: number): boolean =>
  document.kind === 'gateway' && document.interfaces.some((each) => each.vlan === vlan);

interface Cable {
  readonly near: LinkEnd;
  readonly far: LinkEnd;
  readonly nearPort: PortDocument | undefined;
  readonly farPort: PortDocument | undefined;
}

/** Cables with the documents of their ports, by device, and the strands found so far. */
interface Plant {
  readonly links: readonly Link[];
  readonly cables: ReadonlyMap<string, readonly Cable[]>;
  readonly strands: Map<string, Strand>;
}
const plants = new WeakMap<Documents, Plant>();

function plantOf(documents: Documents, links: readonly Link[]): Plant {
  const known = plants.get(documents);
  if (known?.links === links) return known;
  const ports = new Map<string, PortDocument>();
  for (const [id, document] of documents) for (const port of document.ports) ports.set(`${id} ${port.name}`, port);
  const cables = new Map<string, Cable[]>();
  const add = (near: LinkEnd, far: LinkEnd): void => {
    const [nearPort, farPort] = [near, far].map((end) => ports.get(`${end.deviceId} ${end.port}`));
    const list = cables.get(near.deviceId) ?? [];
    list.push({ near, far, nearPort, farPort });
    cables.set(near.deviceId, list);
  };
  for (const { a, b } of links) {
    add(a, b);
    add(b, a);
  }
  const plant: Plant = { links, cables, strands: new Map() };
  plants.set(documents, plant);
  return plant;
}
