import { sheetFor, type DeviceKind } from '../hardware';
import type { RosterDevice } from '../intent';

const RANK: Readonly<Record<DeviceKind, number>> = { gateway: 0, switch: 1, ap: 2 };

/**
 * The order in which devices are told: from the gateway outwards, so that what an outer device starts to use is
 * already carried further in; by name within a kind.
 */
export function rolloutOrder<T extends Pick<RosterDevice, 'name' | 'model' | 'sheet'>>(devices: readonly T[]): T[] {
  const rank = (device: T): number => RANK[sheetFor(device).kind];
  return [...devices].sort((a, b) => rank(a) - rank(b) || (a.name < b.name ? -1 : a.name > b.name ? 1 : 0));
}
