import type { Segment } from '@iron-lattice/core/intent';
import type { SegmentText } from './segment-fields';

/** A segment as text for its fields. */
export function textOf({ name, vlan, subnet, gateway, addresses }: Segment): SegmentText {
  return {
    name,
    vlan: String(vlan),
    subnet,
    gateway,
    first: addresses?.first ?? '',
    last: addresses?.last ?? '',
    leaseHours: addresses ? String(addresses.leaseSeconds / 3600) : '8',
  };
}

/** The segment that fields say; an empty range means that nobody gives addresses. What is wrong core says. */
export function segmentOf(id: string, text: SegmentText): Segment {
  const served = text.first.trim() !== '' || text.last.trim() !== '';
  return {
    id,
    name: text.name.trim(),
    vlan: /^\s*\d+\s*$/.test(text.vlan) ? Number(text.vlan) : 0,
    subnet: text.subnet.trim(),
    gateway: text.gateway.trim(),
    addresses: served
      ? {
          first: text.first.trim(),
          last: text.last.trim(),
          leaseSeconds: Math.round(Number(text.leaseHours) * 3600) || 0,
        }
      : null,
  };
}
