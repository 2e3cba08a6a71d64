import type { DeviceDocument } from '../document';
import type { ToldFirst } from '../rollout';

/**
 * Two gateways that become a pair: the one that routes is told first, so that the other hears it as soon as it is told. Two that are taken apart: the one that
 * is to hold no address any more first, or both would for a while.
 * @param told what devices run. @param next what they would be told.
 */
export function pairOrder(
  told: Readonly<Record<string, DeviceDocument>>,
  next: ReadonlyMap<string, DeviceDocument>,
): ToldFirst[] {
  const gateways = [...next].filter(([, { kind }]) => kind === 'gateway');
  const holds = (document: DeviceDocument | undefined): boolean =>
    document?.kind === 'gateway' && document.interfaces.length > 0;
  const routed = gateways.find(([id]) => holds(told[id]) && !isPaired(told[id]))?.[0];
  return gateways.flatMap(([id, document]): ToldFirst[] => {
    const others = gateways.filter(([other]) => other !== id);
    if (isPaired(document) && id === routed) return others.map(([other]) => [id, other]);
    const letsGo = isPaired(told[id]) && !isPaired(document) && !holds(document);
    return letsGo ? others.filter(([, other]) => holds(other)).map(([other]) => [id, other]) : [];
  });
}

const isPaired = (document: DeviceDocument | undefined): boolean =>
  document?.kind === 'gateway' && document.pair !== undefined;
