import { asHeard } from '../base';
import { reachesMeet, type EstatePart, type Ssid } from '../intent';
import type { Check, LostKeys } from './check';
import type { Finding } from './finding';
import { found, mendOf } from './ssid-finding';

/** How many keys of a ring that are right lead somewhere: they are kept beside intent. */
export interface KeyLead {
  readonly ssidId: string;
  readonly segment: string | null;
  readonly accessClass: string | null;
  readonly count: number;
}
/** Names of those that are told. */
const MOST_TOLD = 3;
const lower = (text: string): string => text.trim().toLowerCase();

/** The keys that lead nowhere, whatever the site: to a class that is gone or does not count there, or to what their ring does not lead to. */
export function lostKeysOf(
  { ssids, classes = [] }: Pick<EstatePart, 'ssids' | 'classes'>,
  leads: readonly KeyLead[],
): LostKeys[] {
  const byId = new Map(ssids.map((ssid) => [ssid.id, ssid]));
  const rings = new Map(ssids.map(({ id, ring }) => [id, new Set((ring ?? []).map(lower))]));
  const lost = new Map<string, { readonly lead: KeyLead; readonly there: boolean }[]>();
  for (const lead of leads) {
    const ssid = byId.get(lead.ssidId);
    if (!ssid?.ring || ssid.keysAt) continue;
    const there = classes.some(({ name, reach }) => isCalled(lead.accessClass, name) && reachesMeet(reach, ssid.reach));
    if (!leadsNowhere(ssid, rings.get(ssid.id)!, lead, there)) continue;
    lost.set(ssid.id, [...(lost.get(ssid.id) ?? []), { lead, there }]);
  }
  return [...lost].map(([ssidId, all]) => {
    const to = all
      .map(({ lead }) => (lead.accessClass === null ? lead.segment! : `the class ${lead.accessClass}`))
      .sort();
    const count = all.reduce((sum, { lead }) => sum + lead.count, 0);
    return { ssidId, count, to: to.slice(0, MOST_TOLD), uncounted: all.every(({ there }) => there) };
  });
}

const isCalled = (wanted: string | null, name: string): boolean => wanted !== null && lower(wanted) === lower(name);

function leadsNowhere(
  { byClass }: Ssid,
  ring: ReadonlySet<string>,
  { segment, accessClass }: KeyLead,
  there: boolean,
): boolean {
  if (accessClass !== null) return !byClass || !there;
  return segment !== null && !ring.has(lower(segment));
}

/** Keys that let nobody in anywhere. */
export const keysNowhere: Check = ({ site, lostKeys = [] }) =>
  lostKeys.flatMap(({ ssidId, count, to, uncounted }): Finding[] => {
    const ssid = site.ssids.find(({ id }) => id === ssidId);
    if (!ssid?.ring) return [];
    const keys = count === 1 ? 'One key' : `${count.toLocaleString('en')} keys`;
    const what = uncounted
      ? 'Classes do not count on this SSID: let them, or lead these keys elsewhere, under Wireless, Keys.'
      : 'What they name is gone, is called otherwise, or their ring does not lead there: lead them elsewhere, under Wireless, Keys, or bring it back.';
    return [
      found(site.id, ssid, 'wireless.keys-nowhere', {
        severity: 'error',
        message: `${keys} of “${asHeard(ssid.name)}” let${count === 1 ? 's' : ''} nobody in`,
        reason: `They lead to ${to.map(asHeard).join(', ')}. ${what}`,
        mend: uncounted ? mendOf(site, ssid, 'let classes count there', { byClass: true }) : null,
      }),
    ];
  });
