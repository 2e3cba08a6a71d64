import type { EstatePart, SitePart } from '@iron-lattice/core/intent';
import { counted } from '../ui/counted';

/** What uses hours: SSIDs by name, and rules and ports as many as the estate and a site have. */
export function hoursUsers(id: string, estate: EstatePart | null | undefined, site: SitePart | null): string {
  const ssids = (estate?.ssids ?? []).filter((ssid) =>
    [ssid, ...Object.values(ssid.exceptions ?? {})].some(({ hours }) => hours === id),
  );
  const books = [estate?.rulesBefore, estate?.rulesAfter, site?.rules].flatMap((rules) => rules ?? []);
  const rules = books.filter(({ hours }) => hours === id).length;
  const duties = new Set((site?.duties ?? []).filter(({ hours }) => hours === id).map((duty) => duty.id));
  const ports = Object.values(site?.ports ?? {})
    .flatMap((each) => Object.values(each))
    .filter(({ hours, dutyId }) => hours === id || (hours === undefined && duties.has(dutyId ?? ''))).length;
  return [
    ...ssids.map(({ name }) => name),
    ...(rules > 0 ? [counted(rules, 'rule')] : []),
    ...(ports > 0 ? [counted(ports, 'port')] : []),
  ].join(', ');
}
