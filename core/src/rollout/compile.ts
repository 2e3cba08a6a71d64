import { inEffect, type DeviceDocument, type PairRole } from '../document';
import type { ResolvedSite, RosterDevice } from '../intent';
import { compiler } from './part';
import { PARTS } from './parts';
import { enforcedBy, type Enforced } from './policy/enforced';
import { policyOf } from './policy/site-policy';

const compile = compiler(PARTS);

/**
 * Works out what each device of a site is told, part by part. The first gateway by name holds the segments' gateway addresses.
 * @returns documents by device id, in the roster's order.
 */
export const compileSite = (site: ResolvedSite, roster: readonly RosterDevice[]): Map<string, DeviceDocument> =>
  compile({ site, roster });

/** The same as far as it counts while one of a pair of gateways routes and the other stands by; see `inEffect`. */
export const siteInEffect = (
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  routes: PairRole = 'first',
): ReadonlyMap<string, DeviceDocument> => inEffect(compileSite(site, roster), routes);

/**
 * What the devices of a site would let pass, read from the very documents that they would be told; where no gateway is ours
 * yet, with the policy that one would be told.
 * @param documents those of the site, where they are there already.
 */
export function enforcedAt(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: ReadonlyMap<string, DeviceDocument> = compileSite(site, roster),
): Enforced {
  return enforcedBy([...documents.values()], 0, policyOf(site, roster).policy)!;
}
