import { sheetFor } from '@iron-lattice/core/hardware';
import type { Link, RosterDevice } from '@iron-lattice/core/intent';

/** A device of a cabling drawing, at its middle. */
export interface CablingNode {
  readonly id: string;
  readonly name: string;
  readonly kind: 'gateway' | 'switch' | 'ap';
  readonly x: number;
  readonly y: number;
}
/** Where people dragged devices, by id. */
export type Placed = Readonly<Record<string, readonly [x: number, y: number]>>;

/** Measures of a box, and the room between boxes. */
export const BOX = { width: 96, height: 28, across: 110, down: 116 } as const;

/**
 * Places devices by how far they hang from a gateway, gateways on top, each under what it hangs on; those that no cable
 * joins stand apart at the bottom. The same devices and cables always give the same drawing; what people placed stays.
 */
export function layCabling(roster: readonly RosterDevice[], links: readonly Link[], placed: Placed): CablingNode[] {
  const kindOf = (device: RosterDevice) => sheetFor(device).kind;
  const byName = [...roster].sort((a, b) => collator.compare(a.name, b.name));
  const near = new Map<string, Set<string>>();
  for (const { a, b } of links) {
    near.set(a.deviceId, (near.get(a.deviceId) ?? new Set()).add(b.deviceId));
    near.set(b.deviceId, (near.get(b.deviceId) ?? new Set()).add(a.deviceId));
  }
  const order = new Map(byName.map((device, i) => [device.id, i]));
  const children = new Map<string, string[]>();
  const depth = new Map<string, number>();
  const roots = byName.filter((device) => kindOf(device) === 'gateway').map((device) => device.id);
  const visit = (start: readonly string[]): void => {
    const queue = [...start];
    for (const id of start) depth.set(id, 0);
    for (const id of queue)
      for (const next of [...(near.get(id) ?? [])].sort((a, b) => (order.get(a) ?? 0) - (order.get(b) ?? 0))) {
        if (depth.has(next) || !order.has(next)) continue;
        depth.set(next, depth.get(id)! + 1);
        children.set(id, [...(children.get(id) ?? []), next]);
        queue.push(next);
      }
  };
  visit(roots);
  for (const { id } of byName)
    if (!depth.has(id) && near.has(id)) {
      roots.push(id);
      visit([id]);
    }
  const at = new Map<string, { x: number; y: number }>();
  let right = 0;
  const place = (id: string): number => {
    const below = children.get(id) ?? [];
    // Many leaves stand in two rows, so that a switch full of APs stays on the sheet.
    const leaves = below.filter((child) => !children.has(child));
    const middles = below.filter((child) => children.has(child)).map(place);
    for (const [i, leaf] of leaves.entries()) {
      const rows = leaves.length > 6 ? 2 : 1;
      const x = right + Math.floor(i / rows) * BOX.across;
      at.set(leaf, { x, y: depth.get(leaf)! * BOX.down + (i % rows) * 44 });
      middles.push(x);
    }
    if (leaves.length > 0) right += Math.ceil(leaves.length / (leaves.length > 6 ? 2 : 1)) * BOX.across;
    else if (below.length === 0) right += BOX.across;
    const x = middles.length > 0 ? (Math.min(...middles) + Math.max(...middles)) / 2 : right - BOX.across;
    at.set(id, { x, y: depth.get(id)! * BOX.down });
    return x;
  };
  for (const root of roots) place(root);
  const lowest = Math.max(0, ...[...at.values()].map(({ y }) => y));
  let apart = 0;
  for (const { id } of byName)
    if (!at.has(id)) at.set(id, { x: apart++ * BOX.across, y: lowest + (at.size > 0 ? BOX.down : 0) });
  return byName.map((device) => {
    const own = placed[device.id];
    const { x, y } = own ? { x: own[0], y: own[1] } : at.get(device.id)!;
    return { id: device.id, name: device.name, kind: kindOf(device), x, y };
  });
}

const collator = new Intl.Collator('en', { numeric: true });
