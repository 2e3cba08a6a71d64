import { parsePrefix } from '../address';
import type { ApDocument, DeviceDocument, GatewayDocument, PortDocument, SwitchDocument } from '../document';
import { sheetFor } from '../hardware';
import { portSetting, type ResolvedSite, type RosterDevice, type Segment } from '../intent';

/**
 * Works out what each device of a site is told. The first gateway by name holds the segments' gateway addresses.
 * @returns documents by device id, in the roster's order.
 */
export function compileSite(site: ResolvedSite, roster: readonly RosterDevice[]): Map<string, DeviceDocument> {
  const first = roster
    .filter((device) => sheetFor(device).kind === 'gateway')
    .sort((a, b) => (a.name < b.name ? -1 : 1))[0];
  return new Map(
    roster.map((device): [string, DeviceDocument] => {
      const { kind } = sheetFor(device);
      if (kind === 'gateway') return [device.id, compileGateway(site, device, device.id === first?.id)];
      return [device.id, kind === 'switch' ? compileSwitch(site, device) : compileAp(site, device)];
    }),
  );
}

/** What a gateway is told; `holds`: whether the segments' gateway addresses are its own. */
function compileGateway(site: ResolvedSite, device: RosterDevice, holds: boolean): GatewayDocument {
  const segments = holds ? site.segments : [];
  return {
    ...common(site, device),
    kind: 'gateway',
    ports: lanPorts(site, device),
    interfaces: segments.map((segment) => ({
      vlan: segment.vlan,
      name: segment.name,
      address: `${segment.gateway}/${parsePrefix(segment.subnet)!.length}`,
    })),
    addressServices: segments.flatMap((segment) => {
      if (!segment.addresses) return [];
      const { vlan, subnet, gateway, addresses } = segment;
      const { first, last, leaseSeconds } = addresses;
      return [{ vlan, subnet, first, last, gateway, dns: [gateway], leaseSeconds }];
    }),
    uplinks: sheetFor(device)
      .ports.filter((port) => port.role === 'wan')
      .map((port) => ({ port: port.name, method: 'dhcp', translate: true })),
  };
}

/** What a switch is told. */
function compileSwitch(site: ResolvedSite, device: RosterDevice): SwitchDocument {
  return {
    ...common(site, device),
    kind: 'switch',
    ports: lanPorts(site, device),
    vlans: site.segments.map(({ vlan, name }) => ({ vlan, name })),
  };
}

/** What an AP is told: the site's SSIDs that it has a band and a segment for, and their tags on its own port. */
function compileAp(site: ResolvedSite, device: RosterDevice): ApDocument {
  const sheet = sheetFor(device);
  const bands = new Set(sheet.radios.map((radio) => radio.band));
  const segments = new Map(site.segments.map((segment): [string, Segment] => [segment.id, segment]));
  const ssids = site.ssids.flatMap((ssid) => {
    const segment = ssid.segmentId === null ? undefined : segments.get(ssid.segmentId);
    const sent = ssid.bands.filter((band) => bands.has(band));
    if (!segment || sent.length === 0) return [];
    const { id, name, security, passphrase } = ssid;
    return [{ id, name, security, passphrase, bands: sent, vlan: segment.vlan }];
  });
  const management = site.management.vlan;
  const tagged = ascending(ssids.map((ssid) => ssid.vlan).filter((vlan) => vlan !== management));
  return {
    ...common(site, device),
    kind: 'ap',
    ports: [{ name: sheet.ports[0]!.name, untagged: management, tagged }],
    ssids,
  };
}

function common(site: ResolvedSite, device: RosterDevice) {
  const { name, serial, model, address, lightOff } = device;
  return {
    format: 'iron-lattice.document/1',
    device: { name, serial, model },
    site: { name: site.name, country: site.country, timeZone: site.timeZone },
    management: { vlan: site.management.vlan, ...(address ? { address } : {}) },
    ...(lightOff ? ({ light: 'off' } as const) : {}),
  } as const;
}

/** Port settings as VLAN IDs; WAN ports are not part of them. */
function lanPorts(site: ResolvedSite, device: RosterDevice): PortDocument[] {
  const vlanOf = new Map(site.segments.map((segment) => [segment.id, segment.vlan]));
  return sheetFor(device)
    .ports.filter((port) => port.role !== 'wan')
    .map((port) => {
      const setting = portSetting(site, device, port.name);
      const untagged = setting.untagged === null ? null : (vlanOf.get(setting.untagged) ?? null);
      const ids = setting.tagged === 'all' ? [...vlanOf.keys()] : setting.tagged;
      const tagged = ids.map((id) => vlanOf.get(id)).filter((vlan) => vlan !== undefined && vlan !== untagged);
      return { name: port.name, untagged, tagged: ascending(tagged as number[]) };
    });
}

const ascending = (vlans: readonly number[]): number[] => [...new Set(vlans)].sort((a, b) => a - b);
