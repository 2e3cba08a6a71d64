import { resolve, type Intent, type PortEntry, type ResolvedSite } from '../intent';
import { classOfGroups, groupClassesAt } from './class-of-groups';
import type { UserAtSite } from './entry.contract';

/** Where a site asks who somebody is. */
const asksAt = ({ ssids, ports, duties = [] }: ResolvedSite): Pick<UserAtSite, 'ssids' | 'ports'> => {
  const asking = new Set(duties.flatMap(({ id, auth = 'none' }) => (auth === 'none' ? [] : [id])));
  const asks = ({ auth, dutyId = '' }: PortEntry): boolean =>
    auth === undefined ? asking.has(dutyId) : auth !== 'none';
  return {
    ssids: ssids.flatMap(({ name, classes }) => (classes ? [name] : [])),
    ports: Object.values(ports).reduce((sum, entries) => sum + Object.values(entries).filter(asks).length, 0),
  };
};

/**
 * What a user that the controller keeps would get at each site, by the site’s name. What stands in the way is told: nobody asks the
 * controller there, no group has a class there, the class has no segment there.
 */
export function userAtSites({ estate, sites }: Intent, groups: readonly string[]): UserAtSite[] {
  const rows = [...sites.values()].map((part): UserAtSite => {
    const site = resolve(estate, part);
    const server = site.radiusServers.find(({ own }) => own);
    const name = classOfGroups(groups, groupClassesAt(estate, part.id));
    const accessClass = site.accessClasses.find((each) => each.name === name);
    const segment = site.segments.find(({ id }) => id === accessClass?.segmentId);
    const asks = asksAt(site);
    const asked = asks.ssids.length > 0 || asks.ports > 0;
    const lacks = [
      ...(asked ? [] : ['nothing asks']),
      ...(server ? [] : ['this controller is not asked']),
      ...(name === null ? ['no class of a group'] : []),
      ...(name !== null && !segment ? [`segment ${accessClass?.segment ?? ''}`.trim()] : []),
    ];
    return {
      ...{ siteId: part.id, site: part.name, ...asks, server: server?.name ?? null, accessClass: name, lacks },
      segment: segment ? { name: segment.name, vlan: segment.vlan, subnet: segment.subnet } : null,
    };
  });
  return rows.sort((a, b) => (a.site < b.site ? -1 : 1));
}
