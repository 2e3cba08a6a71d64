import { interfacesOf, type DeviceDocument, type PortDocument } from '../document';
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
 * Follows a VLAN from inside a device over the known cables to a router with an address in it (IEEE 802.1Q
 * bridging, by what the documents say of each port). Takes the whole way with the fewest hops; where there is none,
 * the way with the fewest gaps, then hops. The first question about a set of documents costs O(links × VLANs), every
 * further one O(hops); documents and cables are remembered, so neither may be changed.
 */
export function traceStrand(documents: Documents, links: readonly Link[], deviceId: string, vlan: number): Strand {
  const plant = plantOf(documents, links);
  const whole = wholeSteps(plant, deviceId, vlan);
  if (whole) {
    const end = whole.at(-1);
    const hops = whole.map(({ near, far, tag, to }): Hop => ({ from: near, to: far, tag, vlan: to }));
    return { state: 'whole', hops, gatewayId: end?.far.deviceId ?? deviceId, vlan: end?.to ?? vlan };
  }
  let ways = plant.mendable.get(vlan);
  if (!ways) plant.mendable.set(vlan, (ways = fewestGaps(plant, vlan)));
  const steps = stepsFrom(plant, ways, deviceId, vlan);
  if (!steps) return { state: 'no-way' };
  const sound = steps.findIndex((step) => step.gaps.length > 0);
  const hops = steps.slice(0, sound).map(({ near, far, tag, to }): Hop => ({ from: near, to: far, tag, vlan: to }));
  return { state: 'broken', hops, gaps: steps.flatMap((step) => step.gaps) };
}

/** Whether frames of a VLAN get from inside a device to a router with an address in it, without following the way. */
export function reachesRouter(documents: Documents, links: readonly Link[], deviceId: string, vlan: number): boolean {
  const plant = plantOf(documents, links);
  const place = plant.numbers.has(deviceId) ? wholePlace(plant, deviceId, vlan) : -1;
  return place >= 0 && plant.whole.next[place] !== undefined;
}

/** One cable on the way to a router, kept at the place it is taken from. */
interface Step {
  readonly near: LinkEnd;
  readonly far: LinkEnd;
  readonly tag: number | null;
  /** VLAN after the cable. */
  readonly to: number;
  readonly gaps: readonly Gap[];
}
/** The next step by place; null at a router. */
type Steps = ReadonlyMap<number, Step | null>;

/** A device and a VLAN in one number. */
const placeOf = (plant: Plant, deviceId: string, vlan: number): number => plant.numbers.get(deviceId)! * 4096 + vlan;

function stepsFrom(plant: Plant, steps: Steps, deviceId: string, vlan: number): Step[] | null {
  if (!plant.numbers.has(deviceId)) return null;
  const found: Step[] = [];
  let step = steps.get(placeOf(plant, deviceId, vlan));
  if (step === undefined) return null;
  while (step) {
    found.push(step);
    step = steps.get(placeOf(plant, step.far.deviceId, step.to)) ?? null;
  }
  return found;
}

/** The way on from every place that reaches a router, by number of device × VLANs + number of VLAN. */
interface WholeWays {
  /** Numbers of the VLANs that routers have an address in or that cables carry untagged. */
  readonly vlans: ReadonlyMap<number, number>;
  /** The cable to take; null at a router, undefined where no router is reached. */
  readonly next: readonly (Cable | null | undefined)[];
  /** VLAN after it. */
  readonly to: readonly number[];
}

/** Where a place stands in the lists of whole ways; -1 for a VLAN that reaches no router anywhere. */
function wholePlace(plant: Pick<Plant, 'numbers' | 'whole'>, deviceId: string, vlan: number): number {
  const number = plant.whole.vlans.get(vlan);
  return number === undefined ? -1 : plant.numbers.get(deviceId)! * plant.whole.vlans.size + number;
}

function wholeSteps(plant: Plant, deviceId: string, vlan: number): Step[] | null {
  let place = plant.numbers.has(deviceId) ? wholePlace(plant, deviceId, vlan) : -1;
  if (place < 0 || plant.whole.next[place] === undefined) return null;
  const steps: Step[] = [];
  let inside = vlan;
  for (let cable = plant.whole.next[place]; cable; cable = plant.whole.next[place]) {
    const to = plant.whole.to[place]!;
    const tag = cable.nearPort!.untagged === inside ? null : inside;
    steps.push({ near: cable.near, far: cable.far, tag, to, gaps: [] });
    inside = to;
    place = wholePlace(plant, cable.far.deviceId, to);
  }
  return steps;
}

/** The fewest hops to a router from every place that reaches one, searched from the routers outwards. */
function wholeWays(plant: Omit<Plant, 'whole' | 'mendable'>): WholeWays {
  const vlans = new Map<number, number>();
  const number = (vlan: number): void => void (vlans.has(vlan) || vlans.set(vlan, vlans.size));
  for (const document of plant.documents.values()) for (const { vlan } of interfacesOf(document)) number(vlan);
  for (const cables of plant.cables.values())
    for (const { nearPort } of cables) if (nearPort?.untagged) number(nearPort.untagged);
  const next = Array<Cable | null | undefined>(plant.numbers.size * vlans.size).fill(undefined);
  const to = Array<number>(next.length).fill(0);
  const queue: [id: string, vlan: number][] = [];
  const put = (id: string, vlan: number, cable: Cable | null, after: number): void => {
    const place = plant.numbers.get(id)! * vlans.size + vlans.get(vlan)!;
    if (next[place] !== undefined) return;
    next[place] = cable;
    to[place] = after;
    queue.push([id, vlan]);
  };
  for (const [id, document] of plant.documents)
    for (const { vlan } of interfacesOf(document)) put(id, vlan, null, vlan);
  for (let i = 0; i < queue.length; i++) {
    const [id, vlan] = queue[i]!;
    for (const { back } of plant.cables.get(id) ?? []) {
      const { nearPort, farPort, near } = back!;
      if (!nearPort || !farPort) continue;
      const { untagged } = nearPort;
      if (untagged !== null && farPort.untagged === vlan) put(near.deviceId, untagged, back!, vlan);
      if (untagged === vlan || !nearPort.tags.has(vlan)) continue;
      if (farPort.tags.has(vlan) || farPort.untagged === vlan) put(near.deviceId, vlan, back!, vlan);
    }
  }
  return { vlans, next, to };
}

/** A gap weighs more than any number of hops. */
const GAP_COST = 10_000;

/**
 * The ways with the fewest gaps to a router of one VLAN, staying in that VLAN all along: a way that has yet to be
 * mended must not count on frames that slip into another where ports disagree.
 */
function fewestGaps(plant: Plant, vlan: number): Steps {
  const best = new Map<string, number>();
  const steps = new Map<number, Step | null>();
  let queue: string[][] = []; // ids by hops, of the ways with as many gaps as are looked at now
  const later: string[][][] = []; // the same by number of gaps
  const put = (id: string, cost: number, step: Step | null, level: number): void => {
    if (cost >= (best.get(id) ?? Infinity)) return;
    best.set(id, cost);
    steps.set(placeOf(plant, id, vlan), step);
    const hops = cost % GAP_COST;
    if (Math.floor(cost / GAP_COST) === level) (queue[hops] ??= []).push(id);
    else ((later[Math.floor(cost / GAP_COST)] ??= [])[hops] ??= []).push(id);
  };
  for (const [id, document] of plant.documents)
    if (interfacesOf(document).some((face) => face.vlan === vlan)) put(id, 0, null, 0);
  for (let level = 0; ; level++) {
    for (let hops = 0; hops < queue.length; hops++)
      for (let i = 0; i < (queue[hops]?.length ?? 0); i++) {
        const id = queue[hops]![i]!;
        if (best.get(id) !== level * GAP_COST + hops) continue;
        for (const { near: far, far: near, nearPort: farPort, farPort: nearPort } of plant.cables.get(id) ?? []) {
          const crossing = cross(nearPort, farPort, vlan);
          if (!crossing) continue;
          const { as, leaves, enters } = crossing;
          const gaps: Gap[] = [];
          if (!leaves) gaps.push({ end: near, vlan, as });
          if (!enters || crossing.vlan !== vlan) gaps.push({ end: far, vlan, as });
          const step: Step = { near, far, tag: as === 'tagged' ? vlan : null, to: vlan, gaps };
          put(near.deviceId, level * GAP_COST + hops + 1 + GAP_COST * gaps.length, step, level);
        }
      }
    if (later.length <= level + 1) return steps;
    queue = later[level + 1] ?? [];
  }
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
  const leaves = carriesTag(near, vlan);
  // A port that does not send the VLAN yet is judged by how its peer wants it.
  const as = !leaves && far.untagged === vlan ? 'untagged' : 'tagged';
  return { as, leaves, enters: carriesTag(far, vlan) || far.untagged === vlan, vlan };
}

/** Whether a port carries a VLAN tagged; long lists are asked often, so a strand's ports know theirs by set. */
const carriesTag = (port: PortDocument, vlan: number): boolean =>
  'tags' in port ? (port as StrandPort).tags.has(vlan) : port.tagged.includes(vlan);

interface StrandPort extends PortDocument {
  readonly tags: ReadonlySet<number>;
}

interface Cable {
  readonly near: LinkEnd;
  readonly far: LinkEnd;
  readonly nearPort: StrandPort | undefined;
  readonly farPort: StrandPort | undefined;
  /** The same cable from its other end. */
  back?: Cable;
}

/** Cables with the documents of their ports, by device, and the ways found so far. */
interface Plant {
  readonly documents: Documents;
  readonly links: readonly Link[];
  readonly numbers: ReadonlyMap<string, number>;
  readonly cables: ReadonlyMap<string, readonly Cable[]>;
  readonly whole: WholeWays;
  readonly mendable: Map<number, Steps>;
}
const plants = new WeakMap<Documents, Plant>();

function plantOf(documents: Documents, links: readonly Link[]): Plant {
  const known = plants.get(documents);
  if (known?.links === links) return known;
  const sets = new Map<readonly number[], ReadonlySet<number>>(); // documents share lists of VLANs
  const portOf = ({ deviceId, port: name }: LinkEnd): StrandPort | undefined => {
    const port = documents.get(deviceId)?.ports.find((each) => each.name === name);
    if (!port) return undefined;
    let tags = sets.get(port.tagged);
    if (!tags) sets.set(port.tagged, (tags = new Set(port.tagged)));
    return { ...port, tags };
  };
  const cables = new Map<string, Cable[]>();
  const add = (cable: Cable): void => {
    const list = cables.get(cable.near.deviceId);
    if (list) list.push(cable);
    else cables.set(cable.near.deviceId, [cable]);
  };
  for (const { a, b } of links) {
    const [portA, portB] = [portOf(a), portOf(b)];
    const there: Cable = { near: a, far: b, nearPort: portA, farPort: portB };
    const back: Cable = { near: b, far: a, nearPort: portB, farPort: portA, back: there };
    there.back = back;
    add(there);
    add(back);
  }
  const numbers = new Map([...documents.keys()].map((id, i) => [id, i]));
  const base = { documents, links, numbers, cables };
  const plant: Plant = { ...base, whole: wholeWays(base), mendable: new Map() };
  plants.set(documents, plant);
  return plant;
}
