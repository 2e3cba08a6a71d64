import type { GetsRate, GetsReach, GetsRow } from '@iron-lattice/core/bench';
import { counted } from '../ui/counted';

/** Names that are told of places that are reached. */
const MOST_NAMED = 3;

/** Where somebody would come in, in words. */
export const placeWords = ({ place }: GetsRow): string =>
  place.kind === 'ssid'
    ? `“${place.name}”`
    : place.ports.length === 1
      ? place.ports[0]!.name
      : `${counted(place.ports.length, 'port')}, such as ${place.ports[0]!.name}`;

/** What makes a row what it is, over time. */
export const keyOfPlace = ({ place }: GetsRow): string =>
  place.kind === 'ssid' ? place.id : place.ports.map(({ deviceId, port }) => `${deviceId} ${port}`).join();

/** What is reached, shortly: all of the internet or some, then segments by name. */
export function reachInShort(reach: readonly GetsReach[]): string {
  const there = reach.filter((each) => each.reach === 'all' || each.reach === 'some');
  if (reach.length === 0) return '';
  if (there.length === 0) return 'nothing';
  const words = there.map(
    ({ to, kind, reach: how }) => `${kind === 'gateway' ? 'the gateway' : to}${how === 'some' ? ' (some)' : ''}`,
  );
  const first = [...words].sort((a, b) => Number(b.startsWith('Internet')) - Number(a.startsWith('Internet')));
  const more = first.length - MOST_NAMED;
  return more > 1 ? `${first.slice(0, MOST_NAMED).join(', ')} and ${more} more` : first.join(', ');
}

/** A rate in Mb/s. */
export const rateWords = ({ kbps }: GetsRate): string =>
  kbps === null ? 'all there is' : `${+(kbps / 1000).toPrecision(3)}`;

export const ratesWords = ({ down, up }: GetsRow): string =>
  down.kbps === null && up.kbps === null ? 'all there is' : `${rateWords(down)} / ${rateWords(up)}`;

/** Minutes in words. */
export const spanWords = (minutes: number): string =>
  minutes % 1440 === 0
    ? counted(minutes / 1440, 'day')
    : minutes % 60 === 0
      ? counted(minutes / 60, 'hour')
      : `${minutes} min`;
