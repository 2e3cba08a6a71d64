import type { SitePart } from '../../intent';

/** IANA time zones of a country, by its two letters; none where that is not known. */
function zonesOf(country: string): readonly string[] {
  try {
    // ECMA-402 has them as a list; some engines as a method.
    const locale = new Intl.Locale(`und-${country}`) as Intl.Locale & {
      readonly timeZones?: readonly string[];
      getTimeZones?: () => readonly string[] | undefined;
    };
    return locale.getTimeZones?.() ?? locale.timeZones ?? [];
  } catch {
    return []; // no country
  }
}

/**
 * The time zone of a place, as far as it follows from its country: the only one there is, else the one that most sites of the
 * estate have there.
 * @returns with what it follows from; null where somebody has to say it.
 */
export function zoneOf(
  country: string,
  sites: Iterable<Pick<SitePart, 'country' | 'timeZone'>>,
): { readonly zone: string; readonly from: string } | null {
  const zones = zonesOf(country);
  if (zones.length === 1) return { zone: zones[0]!, from: 'the country' };
  const counts = new Map<string, number>();
  for (const site of sites)
    if (site.country === country) counts.set(site.timeZone, (counts.get(site.timeZone) ?? 0) + 1);
  const [most] = [...counts].sort(([a, n], [b, m]) => m - n || (a < b ? -1 : 1));
  return most ? { zone: most[0], from: 'your other sites in the country' } : null;
}
