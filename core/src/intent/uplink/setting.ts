import type { FirstUplink } from '../../document';
import { SPARING_WATCH, USUAL_WATCH, type Watch } from '../../paths';
import { sheetFor, type SheetPort } from '../../hardware';
import type { SitePart } from '../part';
import type { RosterDevice } from '../roster';
import { USUAL_LEAVING, type LeavingFields, type UplinkFields, type UplinkWay } from './uplink';

/** A site as far as its uplinks go. */
export type UplinkSite = Pick<SitePart, 'uplinks' | 'leaving'>;
type UplinkDevice = Pick<RosterDevice, 'id' | 'model' | 'sheet' | 'first'>;

/** Everything intended for one uplink. */
export interface UplinkSetting extends UplinkFields {
  readonly port: string;
  /** How it is watched once all is said. */
  readonly watched: Watch;
  /** Fields in which it differs from the usual. */
  readonly own: readonly (keyof UplinkFields)[];
}

/** Ports of a gateway that are, or can be made, uplinks; in the order of its sheet. */
export const uplinkPorts = (device: UplinkDevice): readonly SheetPort[] => {
  const { kind, ports } = sheetFor(device);
  return kind === 'gateway' ? ports.filter(({ role, either }) => role === 'wan' || either === true) : [];
};

/**
 * What holds at a port before anything is said of it: the first leads out, the others stand by in their order. What somebody said at
 * the gateway’s own page, before it had a controller, holds until then as well.
 */
export function uplinkBase(device: UplinkDevice, port: string): UplinkFields {
  const ports = uplinkPorts(device);
  const at = ports.findIndex(({ name }) => name === port);
  const found = ports[at];
  if (!found) throw new RangeError(`${device.model} has no uplink at ${port}`);
  const way: UplinkWay = found.modem ? 'cellular' : 'dhcp';
  return {
    ...{ on: found.role === 'wan', title: null, way, fixed: null, login: null, apn: null },
    ...{ six: 'none', fixed6: null, vlan: null, mtu: null, clamp: true, mac: null, dns: [] },
    ...{ down: null, up: null, below: null, allowance: null, anew: 1, price: null, translate: true },
    ...{ role: at === 0 ? 'shares' : 'standby', weight: 1, turn: at, instead: [], watch: null },
    ...(device.first?.port === port && found.role === 'wan' ? firstFields(device.first) : {}),
  };
}

/** What was said at a gateway’s own page, as fields of its uplink. */
const firstFields = ({ port: _port, ...said }: FirstUplink): Partial<UplinkFields> => said;

/** Everything intended for an uplink. @throws RangeError for a port that its model has none at. */
export function uplinkSetting(site: UplinkSite, device: UplinkDevice, port: string): UplinkSetting {
  const base = uplinkBase(device, port);
  const entry = site.uplinks?.[device.id]?.[port] ?? {};
  const fields: UplinkFields = { ...base, ...entry };
  const keys = Object.keys(entry) as (keyof UplinkFields)[];
  const watched = fields.watch ?? usualWatch(fields);
  return { ...fields, port, watched, own: keys.filter((key) => entry[key] !== base[key]) };
}

/** How an uplink is watched while nothing is said: sparingly where each octet is paid for. */
export const usualWatch = ({ way, allowance }: Pick<UplinkFields, 'way' | 'allowance'>): Watch =>
  way === 'cellular' || way === 'satellite' || allowance !== null ? SPARING_WATCH : USUAL_WATCH;

/** The uplinks that a gateway has, in the order of its sheet. */
export const uplinkSettings = (site: UplinkSite, device: UplinkDevice): readonly UplinkSetting[] =>
  uplinkPorts(device)
    .map(({ name }) => uplinkSetting(site, device, name))
    .filter(({ on }) => on);

/** Whether a port of a gateway faces a provider. */
export function isUplink(site: UplinkSite, device: UplinkDevice, port: SheetPort): boolean {
  if (port.role !== 'wan' && port.either !== true) return false;
  return port.role === 'wan' || (site.uplinks?.[device.id]?.[port.name]?.on ?? false);
}

/** How a gateway uses its uplinks together. */
export const leavingSetting = (site: UplinkSite, { id }: Pick<UplinkDevice, 'id'>): LeavingFields => ({
  ...USUAL_LEAVING,
  ...site.leaving?.[id],
});

/** Most octets of a packet over IPv4 that an uplink takes while nothing is said (RFC 894 §3; of PPPoE RFC 2516 §7). */
export const usualMtu = (way: UplinkWay): number => (way === 'pppoe' ? 1492 : 1500);

/** Kilobits a second that an uplink is kept to each way; null: it is not, or what it can do is not known. */
export function shapeOf({
  down,
  up,
  below,
}: Pick<UplinkFields, 'down' | 'up' | 'below'>): { readonly down: number; readonly up: number } | null {
  if (below === null || down === null || up === null) return null;
  const kept = (mbps: number): number => Math.floor(mbps * 10 * below);
  return { down: kept(down), up: kept(up) };
}

/** What an uplink’s share is weighed by; 0: none. */
export const weightOf = ({ weight, down }: UplinkFields, by: LeavingFields['by']): number =>
  by === 'capacity' ? (down ?? 0) : weight;
