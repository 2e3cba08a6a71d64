import { formatPrefix } from '../address';
import { flaw, type Flaw } from '../base';
import type { Intent, SitePart } from '../intent';
import { proposeSegment, proposeSiteSubnet } from '../lattice';

/** What a person says of a new site. */
export interface NewSite {
  readonly name: string;
  readonly code: string;
  /** ISO 3166-1 alpha-2. */
  readonly country: string;
  /** IANA name. */
  readonly timeZone: string;
  /** Postal address, for people who go there. */
  readonly address: string;
  readonly tags: readonly string[];
}

/** VLAN ID of the segment that devices live in at a new site: what a factory-new device speaks untagged. */
export const FOUNDING_VLAN = 1;

/**
 * The intent a new site starts with: a management segment and nothing else.
 * @param ids of the site and its management segment.
 * @param from the management subnet, where it is not to be one with room around it.
 * @returns the part, or what is wrong with the wish.
 */
export function foundSite(
  intent: Intent,
  wish: NewSite,
  ids: { readonly site: string; readonly management: string },
  from?: string,
): { readonly ok: true; readonly part: SitePart } | { readonly ok: false; readonly flaws: readonly Flaw[] } {
  const flaws = checkNewSite(intent, wish);
  if (flaws.length > 0) return { ok: false, flaws };
  const room = from === undefined ? proposeSiteSubnet(intent, FOUNDING_VLAN) : null;
  const subnet = from ?? (room && formatPrefix(room));
  const proposal = subnet === null ? null : proposeSegment(intent, ids.site, FOUNDING_VLAN, { subnet });
  if (!proposal) return { ok: false, flaws: [flaw('site.no-space', 'No private address space is left for a site.')] };
  const management = { id: ids.management, name: 'Management', vlan: FOUNDING_VLAN, ...proposal };
  const { name, code, country, timeZone } = wish;
  return {
    ok: true,
    part: {
      kind: 'site',
      id: ids.site,
      name: name.trim(),
      code,
      country,
      timeZone,
      managementId: management.id,
      segments: [management],
      ports: {},
    },
  };
}

function checkNewSite(intent: Intent, wish: NewSite): Flaw[] {
  const flaws: Flaw[] = [];
  const name = wish.name.trim();
  const sites = [...intent.sites.values()];
  if (name === '') flaws.push(flaw('site.name-empty', 'Give the site a name.', 'name'));
  if (sites.some((site) => site.name.toLowerCase() === name.toLowerCase()))
    flaws.push(flaw('site.name-taken', `There is already a site “${name}”.`, 'name'));
  if (!/^[a-z0-9]{2,8}$/.test(wish.code))
    flaws.push(flaw('site.code', 'A short form has 2 to 8 letters or digits.', 'code'));
  const twin = sites.find((site) => site.code === wish.code);
  if (twin) flaws.push(flaw('site.code-taken', `“${wish.code}” is the short form of ${twin.name}.`, 'code'));
  if (!/^[A-Z]{2}$/.test(wish.country))
    flaws.push(
      flaw('site.country', `“${wish.country}” is no country we know. Choose one, or give its two letters.`, 'country'),
    );
  if (!isTimeZone(wish.timeZone))
    flaws.push(flaw('site.time-zone', `“${wish.timeZone}” is not a time zone, such as Europe/Lisbon.`, 'timeZone'));
  return flaws;
}

/** Whether a text names a time zone of the IANA database. */
export function isTimeZone(name: string): boolean {
  try {
    new Intl.DateTimeFormat('en', { timeZone: name });
    return true;
  } catch {
    return false; // the only way ECMA-402 offers to ask
  }
}
