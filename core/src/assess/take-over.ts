import {
  differenceOf,
  type DeviceDocument,
  type Difference,
  type DifferenceLine,
  type PortDocument,
} from '../document';
import { apply, resolve, type Intent, type Operation, type RosterDevice, type Segment, type SitePart } from '../intent';
import { compileSite } from '../rollout';

/** What of a change that was made at a device itself can be said in the draft, and what cannot. */
export interface TakeOver {
  readonly operations: readonly Operation[];
  /** Lines that no edit of the draft leads to: they go when the device is put right. */
  readonly left: readonly DifferenceLine[];
}

/** What somebody changed at a device past this controller, and what of it the draft people work in can say. */
export interface DriftView extends TakeOver {
  /** Hash of what it runs. */
  readonly hash: string;
  /** When it told what that is, in ISO 8601; null while it has not. */
  readonly at: string | null;
  /** From what it was told to what it runs; null where that is not known. */
  readonly difference: Difference | null;
}

/**
 * Edits that have the draft say what somebody changed at a device past this controller: of ports, and at a gateway of addresses
 * and what serves them. What it finds is held against what the device would be told by then.
 * @param told what it was told. @param runs what it says that it runs: another's word, so nothing of it is trusted to be there.
 */
export function takeOver(
  intent: Intent,
  roster: readonly RosterDevice[],
  device: RosterDevice,
  told: DeviceDocument,
  runs: DeviceDocument,
): TakeOver {
  const devices = new Map(roster.map((each) => [each.id, each]));
  let now = intent;
  const operations: Operation[] = [];
  const site = (): SitePart => now.sites.get(device.siteId)!;
  const make = (operation: Operation | null): void => {
    const done = operation && apply(now, operation, (id) => devices.get(id));
    if (!done?.ok) return;
    now = done.intent;
    operations.push(operation!);
  };
  for (const port of changed(told.ports, runs.ports, 'name')) make(editOfPort(site(), device, told, port));
  if (runs.kind === 'gateway' && told.kind === 'gateway') {
    for (const each of changed(told.interfaces, runs.interfaces, 'vlan'))
      make(editOfSegment(site(), each.vlan, { gateway: each.address?.split('/')[0] }));
    for (const each of changed(told.addressServices, runs.addressServices, 'vlan')) {
      const { first, last, leaseSeconds, dns } = each;
      const was = told.addressServices.find(({ vlan }) => vlan === each.vlan);
      const names = same(was?.dns, dns) ? {} : { dns };
      make(editOfService(site(), each.vlan, { first, last, leaseSeconds, ...names }));
    }
  }
  const resolved = resolve(now.estate, site());
  const then = compileSite(
    resolved,
    roster.filter(({ siteId }) => siteId === device.siteId),
  ).get(device.id);
  const meant = new Set(differenceOf(told, runs).lines.map(keyOf));
  const left = then ? differenceOf(then, runs).lines.filter((line) => meant.has(keyOf(line))) : [];
  return { operations, left };
}

const keyOf = ({ path }: DifferenceLine): string => JSON.stringify(path);
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/** Elements of a list that are not as they were; of those that are new, nothing is known. */
function changed<T, K extends keyof T>(before: readonly T[], after: readonly T[] | undefined, key: K): T[] {
  if (!Array.isArray(after)) return [];
  const was = new Map(before.map((each) => [each[key], each]));
  return (after as readonly T[]).filter((each) => {
    const old = typeof each === 'object' && each !== null ? was.get(each[key]) : undefined;
    return old !== undefined && !same(old, each);
  });
}

const USUAL = {
  poe: 'on',
  priority: 'low',
  speed: 'auto',
  auth: 'none',
  isolated: false,
  storm: 100,
  group: null,
} as const;

/** The edit that has a port carry and do what it does now; null where it does so already. */
function editOfPort(site: SitePart, device: RosterDevice, told: DeviceDocument, port: PortDocument): Operation | null {
  const was = told.ports.find(({ name }) => name === port.name)!;
  const byVlan = new Map(site.segments.map(({ vlan, id }) => [vlan, id]));
  const from = site.ports[device.id]?.[port.name] ?? null;
  const to: Record<string, unknown> = { ...from };
  for (const [field, usual] of Object.entries(USUAL) as [keyof typeof USUAL, unknown][])
    if (!same(was[field], port[field])) to[field] = port[field] ?? usual;
  if (!same(was.untagged, port.untagged)) {
    const id = port.untagged === null ? null : byVlan.get(port.untagged);
    if (id !== undefined) to['untagged'] = id;
  }
  if (!same(was.tagged, port.tagged) && Array.isArray(port.tagged)) {
    const ids = (port.tagged as readonly number[]).map((vlan) => byVlan.get(vlan));
    if (ids.every((id) => id !== undefined)) to['tagged'] = ids;
  }
  if (same(from ?? {}, to)) return null;
  return { type: 'port.set', siteId: site.id, deviceId: device.id, port: port.name, from, to };
}

function editOfSegment(site: SitePart, vlan: number, to: { readonly gateway: string | undefined }): Operation | null {
  const segment = site.segments.find((each) => each.vlan === vlan);
  if (!segment || to.gateway === undefined || segment.gateway === to.gateway) return null;
  return {
    type: 'segment.set',
    siteId: site.id,
    segmentId: segment.id,
    from: { gateway: segment.gateway },
    to: { gateway: to.gateway },
  };
}

/** What of an address service is said in few words. */
type Said = Partial<Pick<NonNullable<Segment['addresses']>, 'first' | 'last' | 'leaseSeconds' | 'dns'>>;

function editOfService(site: SitePart, vlan: number, said: Said): Operation | null {
  const segment = site.segments.find((each) => each.vlan === vlan);
  if (!segment?.addresses) return null;
  const addresses = { ...segment.addresses, ...said };
  if (same(segment.addresses, addresses)) return null;
  return {
    type: 'segment.set',
    siteId: site.id,
    segmentId: segment.id,
    from: { addresses: segment.addresses },
    to: { addresses },
  };
}
