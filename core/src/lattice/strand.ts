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
 * fewest hops. O(links log links).
 */
export function traceStrand(documents: Documents, links: readonly Link[], deviceId: string, vlan: number): Strand {
  const cables = cablesByDevice(links);
  interface Way {
    deviceId: string;
    vlan: number;
    hops: Hop[];
    gaps: Gap[];
    /** Hops before the first gap. */
    sound: number;
  }
  let ways: Way[] = [{ deviceId, vlan, hops: [], gaps: [], sound: 0 }];
  const seen = new Set<string>();
  while (ways.length > 0) {
    ways.sort((a, b) => a.gaps.length - b.gaps.length || a.hops.length - b.hops.length);
    const way = ways.shift()!;
    const key = `${way.deviceId} ${way.vlan}`;
    if (seen.has(key)) continue;
    seen.add(key);
    const document = documents.get(way.deviceId);
    if (document?.kind === 'gateway' && hasInterface(document, way.vlan)) {
      if (way.gaps.length === 0) return { state: 'whole', hops: way.hops, gatewayId: way.deviceId, vlan: way.vlan };
      return { state: 'broken', hops: way.hops.slice(0, way.sound), gaps: way.gaps };
    }
    for (const { near, far } of cables.get(way.deviceId) ?? []) {
      const crossing = cross(portOf(documents, near), portOf(documents, far), way.vlan);
      if (!crossing) continue;
      const gaps = [
        ...(crossing.leaves ? [] : [{ end: near, vlan: way.vlan, as: crossing.as }]),
        ...(crossing.enters ? [] : [{ end: far, vlan: way.vlan, as: crossing.as }]),
      ];
      const hop: Hop = { from: near, to: far, tag: crossing.as === 'tagged' ? way.vlan : null, vlan: crossing.vlan };
      const sound = way.gaps.length === 0 && gaps.length === 0 ? way.hops.length + 1 : way.sound;
      ways.push({
        deviceId: far.deviceId,
        vlan: crossing.vlan,
        hops: [...way.hops, hop],
        gaps: [...way.gaps, ...gaps],
        sound,
      });
    }
    ways = ways.filter((each) => !seen.has(`${each.deviceId} ${each.vlan}`));
  }
  return { state: 'no-way' };
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

const portOf = (documents: Documents, end: LinkEnd): PortDocument | undefined =>
  documents.get(end.deviceId)?.ports.find((port) => port.name === end.port);

const hasInterface = (document: DeviceDocument, vlan: number): boolean =>
  document.kind === 'gateway' && document.interfaces.some((each) => each.vlan === vlan);

interface Cable {
  readonly near: LinkEnd;
  readonly far: LinkEnd;
}

function cablesByDevice(links: readonly Link[]): Map<string, Cable[]> {
  const cables = new Map<string, Cable[]>();
  const add = (near: LinkEnd, far: LinkEnd): void => {
    const list = cables.get(near.deviceId);
    if (list) list.push({ near, far });
    else cables.set(near.deviceId, [{ near, far }]);
  };
  for (const link of links) {
    add(link.a, link.b);
    add(link.b, link.a);
  }
  return cables;
}
