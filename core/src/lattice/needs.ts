import { askedVlans, cabledVlansOfSsid, standsBy } from '../document';
import { sheetFor } from '../hardware';
import { isApUplink, isRoutedByGateway, servedFrom, type Link, type ResolvedSite, type RosterDevice } from '../intent';
import type { Documents } from './strand';

/** Why a device needs a VLAN inside it. */
export type NeedReason =
  | { readonly kind: 'management' }
  | { readonly kind: 'ssid'; readonly name: string }
  | { readonly kind: 'port'; readonly port: string }
  | { readonly kind: 'service' }
  /** It takes over from the gateway that routes. */
  | { readonly kind: 'pair' }
  /** It routes others, and meets the gateway there. */
  | { readonly kind: 'router' };

/** A VLAN that has to get from a device to its router. */
export interface Need {
  readonly deviceId: string;
  readonly vlan: number;
  readonly reasons: readonly NeedReason[];
}

/**
 * Every place that needs a segment over cables: devices for themselves, APs for those of their SSIDs that go by VLAN, ports that face clients, and
 * switches that give a segment's addresses. In the roster's order, each VLAN of a device once.
 */
export function needsOf(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
): Need[] {
  const ours = new Set(links.flatMap(({ a, b }) => [`${a.deviceId} ${a.port}`, `${b.deviceId} ${b.port}`]));
  return roster.flatMap((device) => {
    const document = documents.get(device.id);
    if (!document) return [];
    const reasons = new Map<number, NeedReason[]>();
    const need = (vlan: number, reason: NeedReason): void => {
      const known = reasons.get(vlan);
      if (known) known.push(reason);
      else reasons.set(vlan, [reason]);
    };
    need(document.management.vlan, { kind: 'management' });
    if (document.kind === 'ap')
      for (const ssid of document.ssids)
        for (const vlan of cabledVlansOfSsid(ssid, document)) need(vlan, { kind: 'ssid', name: ssid.name });
    const sheet = sheetFor(device);
    const said = site.ports[device.id];
    if (document.kind !== 'gateway' && said)
      for (const port of document.ports) {
        // Towards devices of ours it is they who need; a port nobody spoke of and nobody uses needs nothing.
        if (!said[port.name] || isApUplink(sheet, port.name) || ours.has(`${device.id} ${port.name}`)) continue;
        for (const vlan of askedVlans(port, document)) need(vlan, { kind: 'port', port: port.name });
        if (port.untagged !== null) need(port.untagged, { kind: 'port', port: port.name });
        for (const vlan of port.tagged) need(vlan, { kind: 'port', port: port.name });
      }
    for (const segment of site.segments) {
      const { vlan, addresses } = segment;
      if (standsBy(document) && isRoutedByGateway(segment)) need(vlan, { kind: 'pair' });
      if (document.kind === 'switch' && document.onward?.vlan === vlan) need(vlan, { kind: 'router' });
      const from = addresses && servedFrom(addresses);
      if (from?.kind === 'switch' && from.deviceId === device.id) need(vlan, { kind: 'service' });
    }
    return [...reasons].map(([vlan, list]) => ({ deviceId: device.id, vlan, reasons: list }));
  });
}
