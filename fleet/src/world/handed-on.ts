import { contains, parseIp, parsePrefix } from '@iron-lattice/core/address';
import type { RouteDocument } from '@iron-lattice/core/document';
import type { Got, Wanted } from './asked';
import type { WorldClient } from './world-file';

/** Whether a neighbour answers by itself, or hands on to somebody who does. @param isHushed whether a client says nothing. */
export function answersFrom(
  neighbour: WorldClient | undefined,
  address: string,
  target: string,
  isHushed: (mac: string) => boolean,
): boolean {
  if (!neighbour || isHushed(neighbour.mac)) return false;
  return address === target || behindOf(neighbour, target) !== undefined;
}

/** The network behind a neighbour that an address is in. */
const behindOf = (neighbour: WorldClient, target: string) =>
  ('behind' in neighbour ? (neighbour.behind ?? []) : []).find((each) =>
    contains(parsePrefix(each.prefix)!, parseIp(target)!),
  );

/**
 * What becomes of a packet that a gateway’s route leads to no uplink.
 * @param by whose route it is, in words. @param neighbour whoever has the address that it leads to.
 */
export function handedOn(
  { name, prefix, to }: RouteDocument,
  by: string,
  neighbour: WorldClient | undefined,
  target: string,
  { protocol, port }: Wanted,
): Got {
  const stopped = (why: string): Got => ({ ok: false, why, stoppedBy: name });
  if (to === undefined) return stopped(`Dropped by ${by}: nothing for ${prefix} goes on.`);
  if (!neighbour) return stopped(`By ${by} it goes to ${to}, which is nobody’s.`);
  const behind = behindOf(neighbour, target);
  if (!behind) return stopped(`${to} hands nothing on to ${target}.`);
  const ok = protocol === 'icmp' || (behind.offers ?? []).includes(`${protocol} ${port}`);
  const why = ok ? `${target} answers, behind ${to}.` : `${target} is there and offers nothing on ${protocol} ${port}.`;
  return { ok, why };
}
