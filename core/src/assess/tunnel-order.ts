import { tunnelledVlans, type DeviceDocument } from '../document';
import type { ToldFirst } from '../rollout';

/**
 * APs that stop to carry something in their tunnel are told before a gateway that takes it out no more: until then their clients get no
 * further. A gateway that takes more is told first, as gateways are.
 * @param told what devices run. @param next what they would be told.
 */
export function tunnelOrder(
  told: Readonly<Record<string, DeviceDocument>>,
  next: ReadonlyMap<string, DeviceDocument>,
): ToldFirst[] {
  const taken = (document: DeviceDocument | undefined): readonly number[] =>
    document?.kind === 'gateway' ? (document.tunnels?.vlans ?? []) : [];
  return [...next].flatMap(([gatewayId, document]) => {
    const left = taken(told[gatewayId]).filter((vlan) => !taken(document).includes(vlan));
    if (left.length === 0) return [];
    return [...next.keys()].flatMap((id): ToldFirst[] => {
      const ap = told[id];
      return ap?.kind === 'ap' && tunnelledVlans(ap).some((vlan) => left.includes(vlan)) ? [[id, gatewayId]] : [];
    });
  });
}
