import { parseIp } from '../address';
import { spansOf, type Operation, type Segment } from '../intent';
import type { Mend } from './finding';

/** Whether a segment gives an address to whoever asks for one. */
export function isGivenAway({ addresses }: Segment, address: string): boolean {
  const ip = parseIp(address);
  if (!addresses || addresses.off || !ip) return false;
  const within = (first: string, last: string): boolean => {
    const [from, to] = [parseIp(first), parseIp(last)];
    return (
      from !== null && to !== null && ip.version === from.version && ip.value >= from.value && ip.value <= to.value
    );
  };
  return (
    spansOf(addresses).some(({ first, last }) => within(first, last)) &&
    !(addresses.exclude ?? []).some(({ first, last }) => within(first, last)) &&
    !(addresses.reservations ?? []).some((each) => each.address === address)
  );
}

/** Leaves an address out of those that a segment gives. */
export function leaveOut(siteId: string, { id: segmentId, name, addresses }: Segment, address: string): Mend {
  const exclude = [...(addresses?.exclude ?? []), { first: address, last: address }];
  const operations: Operation[] = [
    {
      ...{ type: 'segment.set', siteId, segmentId },
      ...{ from: { addresses }, to: { addresses: { ...addresses!, exclude } } },
    },
  ];
  return { label: `give ${address} to nobody in ${name}`, operations };
}
