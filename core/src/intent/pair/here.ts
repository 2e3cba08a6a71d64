import { parseIp, parsePrefix, parseRange, formatIp, subtractRanges, usableHosts, type IpRange } from '../../address';
import { sheetFor } from '../../hardware';
import { fixedAddressIn } from '../fixed-address';
import type { RosterDevice } from '../roster';
import { servedFrom, spansOf, type Segment } from '../segment/segment';
import type { Pair } from './pair';

/** A pair of which both gateways are at the site. */
export interface PairHere {
  readonly pair: Pair;
  readonly first: PairDevice;
  readonly second: PairDevice;
}
type PairDevice = Pick<RosterDevice, 'id' | 'name' | 'serial' | 'model' | 'sheet' | 'address'>;

/** The pair that a site has; null: none, or one of the two is not a gateway there any more. */
export function pairHere(pair: Pair | undefined, devices: readonly PairDevice[]): PairHere | null {
  if (!pair) return null;
  const [first, second] = [pair.firstId, pair.secondId].map((id) => devices.find((device) => device.id === id));
  if (!first || !second || sheetFor(first).kind !== 'gateway' || sheetFor(second).kind !== 'gateway') return null;
  return { pair, first, second };
}

/**
 * The own addresses of a pair’s gateways in the segment that devices live in: those that are fixed, else the lowest that nobody else has and that
 * no service gives out.
 * @returns with the length of the network; null where there is no room for both.
 */
export function ownAddresses(
  { first, second }: Pick<PairHere, 'first' | 'second'>,
  management: Pick<Segment, 'subnet' | 'gateway' | 'addresses'>,
  devices: readonly Pick<RosterDevice, 'id' | 'address'>[],
): Readonly<Record<'first' | 'second', string>> | null {
  const subnet = parsePrefix(management.subnet);
  if (!subnet) return null;
  const fixed = new Map(
    devices.flatMap(({ id, address }) => {
      const here = address && fixedAddressIn(address, management);
      return here ? [[id, here.address] as const] : [];
    }),
  );
  const { addresses } = management;
  const from = addresses && servedFrom(addresses);
  const one = (text: string): IpRange[] => {
    const ip = parseIp(text);
    return ip ? [{ version: ip.version, first: ip.value, last: ip.value }] : [];
  };
  const taken = [
    ...one(management.gateway),
    ...(addresses ? spansOf(addresses) : []).flatMap((each) => parseRange(`${each.first}-${each.last}`) ?? []),
    ...(addresses?.reservations ?? []).flatMap(({ address }) => one(address)),
    ...(from?.kind === 'switch' ? one(from.address) : []),
    ...[...fixed.values()].flatMap(one),
  ];
  const hosts = usableHosts(subnet);
  const free = subtractRanges({ version: subnet.version, first: hosts.first, last: hosts.last }, taken);
  const next = (function* () {
    for (const range of free)
      for (let value = range.first; value <= range.last; value++) yield formatIp({ version: range.version, value });
  })();
  const own = [first, second].map(({ id }): string | null => fixed.get(id) ?? next.next().value ?? null);
  if (own.some((each) => each === null)) return null;
  return { first: `${own[0]}/${subnet.length}`, second: `${own[1]}/${subnet.length}` };
}
