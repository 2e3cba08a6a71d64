import type { PortDocument } from '../document';
import type { Link, LinkEnd } from '../intent';
import type { Documents } from './strand';

/** A port at which a frame leaves towards whoever hangs there. */
export interface Outlet {
  readonly end: LinkEnd;
  /** VLAN ID in the 802.1Q header, null for an untagged frame. */
  readonly tag: number | null;
}

/** The VLAN that a frame is in once a port has let it in, or null when the port drops it (IEEE 802.1Q-2022 §8.6.2). */
export function admitted(port: PortDocument, tag: number | null): number | null {
  if (tag === null) return port.untagged;
  return port.untagged === tag || port.tagged.includes(tag) ? tag : null;
}

/** Whether a port sends a VLAN, and with which tag; undefined when it does not. */
export function sentAs(port: PortDocument, vlan: number): number | null | undefined {
  if (port.untagged === vlan) return null;
  return port.tagged.includes(vlan) ? vlan : undefined;
}

/**
 * Every port at which a broadcast frame leaves the plant that enters it at a port (IEEE 802.1Q-2022 §8.6): learned
 * addresses, spanning tree and multicast pruning are not looked at. Of cables that both ends take as one only the
 * first is used, and of ports that act as one (IEEE 802.1AX-2020) the first is named. Ports cabled to known devices are not
 * among the result; each other port is named once for each tag, however often frames come to it round a loop.
 * @param tag VLAN ID the frame comes in with; null: untagged.
 * @returns ordered by device as in the documents, then port as in its document.
 */
export function floodFrom(documents: Documents, links: readonly Link[], start: LinkEnd, tag: number | null): Outlet[] {
  const peers = peersOf(documents, links);
  const outlets = new Map<string, Outlet>();
  const seen = new Set<string>();
  const queue: { readonly at: LinkEnd; readonly tag: number | null }[] = [{ at: start, tag }];
  for (const { at, tag: worn } of queue) {
    const document = documents.get(at.deviceId);
    const entry = document?.ports.find((port) => port.name === at.port);
    const vlan = entry ? admitted(entry, worn) : null;
    if (!document || !entry || vlan === null) continue;
    const key = `${at.deviceId} ${at.port} ${vlan}`;
    if (seen.has(key)) continue;
    seen.add(key);
    const sending = document.ports.filter((port) => {
      if (port === entry || (port.isolated && entry.isolated)) return false;
      if (port.group !== undefined && port.group === entry.group) return false;
      return sentAs(port, vlan) !== undefined;
    });
    const peerOf = (port: PortDocument): LinkEnd | null | undefined => peers.get(`${at.deviceId} ${port.name}`);
    for (const port of sending) {
      const out = sentAs(port, vlan)!;
      const end = { deviceId: at.deviceId, port: port.name };
      const peer = peerOf(port);
      if (peer === null) continue; // another cable of its group
      if (peer) {
        queue.push({ at: peer, tag: out });
        continue;
      }
      // Of a group one port sends: one that is cabled, else the first.
      const twins = port.group === undefined ? [] : sending.filter(({ group }) => group === port.group);
      if (twins.some((twin) => peerOf(twin) !== undefined) || (twins.length > 0 && twins[0] !== port)) continue;
      outlets.set(`${end.deviceId} ${end.port} ${out}`, { end, tag: out });
    }
  }
  const order = new Map(
    [...documents].flatMap(([id, { ports }]) => ports.map((port) => `${id} ${port.name}`)).map((key, i) => [key, i]),
  );
  const rank = ({ end }: Outlet): number => order.get(`${end.deviceId} ${end.port}`)!;
  return [...outlets.values()].sort((a, b) => rank(a) - rank(b));
}

/** The far end by `device port`; null for cables of a group beyond its first. */
function peersOf(documents: Documents, links: readonly Link[]): ReadonlyMap<string, LinkEnd | null> {
  const groupOf = ({ deviceId, port }: LinkEnd): number | undefined =>
    documents.get(deviceId)?.ports.find((each) => each.name === port)?.group;
  const groups = new Set<string>();
  const peers = new Map<string, LinkEnd | null>();
  for (const { a, b } of links) {
    if (!documents.has(a.deviceId) || !documents.has(b.deviceId)) continue;
    const [x, y] = [groupOf(a), groupOf(b)];
    const key =
      x === undefined || y === undefined ? null : [`${a.deviceId} ${x}`, `${b.deviceId} ${y}`].sort().join(' ');
    const spare = key !== null && groups.has(key);
    if (key !== null) groups.add(key);
    peers.set(`${a.deviceId} ${a.port}`, spare ? null : b);
    peers.set(`${b.deviceId} ${b.port}`, spare ? null : a);
  }
  return peers;
}
