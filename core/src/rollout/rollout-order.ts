import { sheetFor, type DeviceKind } from '../hardware';
import type { RosterDevice } from '../intent';

const RANK: Readonly<Record<DeviceKind, number>> = { gateway: 0, switch: 1, ap: 2 };

/** Which of two devices is told first, by their ids. */
export type ToldFirst = readonly [first: string, second: string];

/**
 * The order in which devices are told: from the gateway outwards, so that what an outer device starts to use is
 * already carried further in; by name within a kind.
 * @param pairs what has to come before what beside that; where they contradict each other, names decide.
 */
export function rolloutOrder<T extends Pick<RosterDevice, 'id' | 'name' | 'model' | 'sheet'>>(
  devices: readonly T[],
  pairs: readonly ToldFirst[] = [],
): T[] {
  const rank = (device: T): number => RANK[sheetFor(device).kind];
  const plain = [...devices].sort((a, b) => rank(a) - rank(b) || (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
  if (pairs.length === 0) return plain;
  const before = new Map<string, string[]>();
  for (const [first, second] of pairs) before.set(second, [...(before.get(second) ?? []), first]);
  const byId = new Map(plain.map((device) => [device.id, device]));
  const placed = new Set<string>();
  const order: T[] = [];
  const place = (device: T): void => {
    if (placed.has(device.id)) return;
    placed.add(device.id);
    for (const id of before.get(device.id) ?? []) if (byId.has(id)) place(byId.get(id)!);
    order.push(device);
  };
  plain.forEach(place);
  return order;
}
