import { USUAL_AGAIN, USUAL_QUIET } from '../../document';
import { sheetFor, type HardwareSheet, type Modelled, type SheetPort } from '../../hardware';
import { MESH_PORT } from '../mesh/mesh';
import type { SitePart } from '../part';
import type { RosterDevice } from '../roster';
import { AIRED, type PortEntry, type PortFields, type PortSetting, type TaggedSegments } from './port';

/** A site as far as its ports go. */
export type PortSite = Pick<SitePart, 'ports' | 'managementId' | 'duties'>;
type PortDevice = Pick<RosterDevice, 'id' | 'model' | 'sheet'>;

/** How ports are when nobody says otherwise. */
export const USUAL_PORT = {
  poe: 'on',
  priority: 'low',
  speed: 'auto',
  auth: 'none',
  hosts: 'several',
  voice: null,
  guest: null,
  rejected: null,
  unanswered: null,
  quiet: USUAL_QUIET,
  again: USUAL_AGAIN,
  isolated: false,
  storm: 100,
  hours: null,
  portal: null,
  group: null,
} as const;

/**
 * What a port carries when nobody said otherwise: edge ports the management segment alone, trunks every segment
 * tagged on top of it, WAN ports and the sockets of an AP nothing of ours.
 */
export function defaultPortSetting(
  port: SheetPort,
  managementId: string,
  kind: HardwareSheet['kind'] = 'switch',
): PortFields {
  if (port.role === 'wan' || (kind === 'ap' && port.role === 'edge'))
    return { ...USUAL_PORT, untagged: null, tagged: [] };
  return { ...USUAL_PORT, untagged: managementId, tagged: port.role === 'trunk' ? 'all' : [] };
}

/** Where an AP itself hangs, by cable or by radio: the duty follows from what the AP sends and is not set by hand. */
export const isApUplink = (sheet: HardwareSheet, port: string): boolean =>
  sheet.kind === 'ap' && (sheet.ports[0]?.name === port || port === MESH_PORT);

/** A port of a device's model, or undefined. */
export function sheetPort(device: Modelled, port: string): SheetPort | undefined {
  return portsOf(sheetFor(device)).get(port);
}

/** Everything intended for a port. @throws RangeError for a port its model does not have. */
export function portSetting(site: PortSite, device: PortDevice, port: string): PortSetting {
  const entry = site.ports[device.id]?.[port];
  const base = portBase(site, device, port, entry?.dutyId);
  return entry ? Object.assign({}, base, entry) : base;
}

/** What holds at a port with a duty before anything is said of that port alone. */
function portBase(site: PortSite, device: PortDevice, port: string, dutyId: string | undefined): PortFields {
  const sheet = sheetFor(device);
  const found = portsOf(sheet).get(port);
  if (!found) throw new RangeError(`${device.model} has no port ${port}`);
  const base = usualAt(found, site.managementId, sheet.kind);
  const duty = dutyId === undefined ? undefined : site.duties?.find((each) => each.id === dutyId);
  if (!duty) return base;
  const { id: _id, name: _name, purpose: _purpose, ...fields } = duty;
  return { ...base, ...fields };
}

/** The fields in which a port differs from its duty, or from the hardware's default where it has none. */
export function exceptionsOf(site: PortSite, device: PortDevice, port: string): (keyof PortFields)[] {
  const { dutyId: _duty, ...rest } = site.ports[device.id]?.[port] ?? {};
  return Object.keys(rest) as (keyof PortFields)[];
}

/**
 * Whether a setting carries a segment, and how.
 * @param aired ids of the segments that the site's SSIDs put clients into.
 */
export function carriage(
  setting: { readonly untagged: string | null; readonly tagged: TaggedSegments },
  segmentId: string,
  aired: ReadonlySet<string> = new Set(),
): 'untagged' | 'tagged' | null {
  if (setting.untagged === segmentId) return 'untagged';
  const { tagged } = setting;
  if (tagged === 'all' || tagged.includes(segmentId)) return 'tagged';
  return tagged.includes(AIRED) && aired.has(segmentId) ? 'tagged' : null;
}

/**
 * Keeps what is said of a port, without what duty and hardware say anyway, so that an edit and its inverse leave
 * the very same bytes.
 */
export function withPortEntry(site: SitePart, device: PortDevice, port: string, entry: PortEntry): SitePart {
  const { [port]: _old, ...others } = site.ports[device.id] ?? {};
  const kept = ownOf(portBase(site, device, port, entry.dutyId), entry);
  const mine = Object.keys(kept).length === 0 ? others : { ...others, [port]: kept };
  const { [device.id]: _mine, ...rest } = site.ports;
  return { ...site, ports: Object.keys(mine).length === 0 ? rest : { ...rest, [device.id]: mine } };
}

function ownOf(base: PortFields, { dutyId, ...fields }: PortEntry): PortEntry {
  const { untagged = base.untagged, tagged = base.tagged, ...others } = fields;
  const own = Object.entries(others).filter(
    ([key, value]) => value !== undefined && value !== base[key as keyof PortFields],
  );
  // Both or neither of what it carries, as it was always kept.
  const carries = untagged !== base.untagged || !sameTags(tagged, base.tagged);
  return {
    ...(Object.fromEntries(own) as PortEntry),
    ...(carries ? { untagged, tagged: sortedTags(tagged) } : {}),
    ...(dutyId === undefined ? {} : { dutyId }),
  };
}

const sortedTags = (tagged: TaggedSegments): TaggedSegments =>
  tagged === 'all' ? tagged : [...new Set(tagged)].sort();
const sameTags = (a: TaggedSegments, b: TaggedSegments): boolean => String(sortedTags(a)) === String(sortedTags(b));

const usual = new WeakMap<SheetPort, { readonly managementId: string; readonly fields: PortFields }>();
/** The default of a port, made once for as long as the same site asks. */
function usualAt(port: SheetPort, managementId: string, kind: HardwareSheet['kind']): PortFields {
  const known = usual.get(port);
  if (known?.managementId === managementId) return known.fields;
  const fields = defaultPortSetting(port, managementId, kind);
  usual.set(port, { managementId, fields });
  return fields;
}

const indexes = new WeakMap<HardwareSheet, ReadonlyMap<string, SheetPort>>();
function portsOf(sheet: HardwareSheet): ReadonlyMap<string, SheetPort> {
  let index = indexes.get(sheet);
  if (!index) indexes.set(sheet, (index = new Map(sheet.ports.map((port) => [port.name, port]))));
  return index;
}
