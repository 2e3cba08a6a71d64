import type { EstatePart, SitePart } from '../part';
import type { PortEntry } from '../port/port';
import { reaches } from '../reach';
import type { Portal } from './portal';

/** A port that leads guests to a portal. */
export interface LeadingPort {
  readonly deviceId: string;
  readonly port: string;
}

/** The portal that holds whoever nobody knows at a port, by what is said of it and of its duty; null: none. */
export const portalOfPort = ({ duties = [] }: Pick<SitePart, 'duties'>, entry: PortEntry): string | null =>
  (entry.portal === undefined ? duties.find(({ id }) => id === entry.dutyId)?.portal : entry.portal) ?? null;

/** The ports of a site that lead to portals, by the portals’ ids. */
export function leadingPorts(site: Pick<SitePart, 'ports' | 'duties'>): ReadonlyMap<string, readonly LeadingPort[]> {
  const found = new Map<string, LeadingPort[]>();
  for (const [deviceId, ports] of Object.entries(site.ports))
    for (const [port, entry] of Object.entries(ports)) {
      const id = portalOfPort(site, entry);
      if (id === null) continue;
      const there = found.get(id);
      if (there) there.push({ deviceId, port });
      else found.set(id, [{ deviceId, port }]);
    }
  return found;
}

/** Whether an answer of a server may name a portal at a site: it may be named, and a server is asked there. */
export const isNamedAt = ({ named }: Pick<Portal, 'named'>, { radius = [] }: EstatePart, siteId: string): boolean =>
  named === true && radius.some(({ reach }) => reaches(reach, siteId));
