import type { Operation, ResolvedSite, SiteSsid, Ssid, SsidException, SsidFields } from '../intent';
import type { Finding, Mend } from './finding';

/** A finding about an SSID at a site. */
export function found(
  siteId: string,
  { id }: Pick<Ssid, 'id'>,
  code: string,
  say: Pick<Finding, 'severity' | 'message' | 'reason' | 'mend'>,
): Finding {
  return { key: `${code} ${id}`, code, place: { siteId, kind: 'ssid', id }, ...say };
}

/** Changes an SSID; what its site says otherwise is changed there, and nowhere else. */
export function mendOf(site: ResolvedSite, ssid: SiteSsid, label: string, to: Partial<SsidFields>): Mend {
  const here = site.estate.ssids.find(({ id }) => id === ssid.id)?.exceptions?.[site.id] ?? {};
  const own = Object.keys(to).filter((key) => key in here);
  const shared = Object.keys(to).filter((key) => !(key in here));
  const of = (fields: object, keys: readonly string[]): object =>
    Object.fromEntries(keys.map((key) => [key, (fields as Readonly<Record<string, unknown>>)[key] ?? null]));
  const exceptions = (said: object): object => (own.length > 0 ? { exceptions: { [site.id]: said } } : {});
  const operation: Operation = {
    type: 'ssid.set',
    ssidId: ssid.id,
    from: { ...of(ssid, shared), ...exceptions(here) },
    to: { ...of(to, shared), ...exceptions({ ...here, ...of(to, own) }) },
  };
  return { label, operations: [operation] };
}

/** Changes an SSID at one site, and at no other that it reaches. */
export function mendHere(
  site: ResolvedSite,
  { id, reach }: Pick<Ssid, 'id' | 'reach'>,
  label: string,
  to: SsidException,
): Mend {
  const ssid = site.estate.ssids.find((each) => each.id === id)!;
  if (reach.kind === 'sites' && reach.siteIds.length === 1) {
    const from = Object.fromEntries(Object.keys(to).map((key) => [key, ssid[key as keyof SsidException] ?? null]));
    return { label, operations: [{ type: 'ssid.set', ssidId: id, from, to }] };
  }
  const here = ssid.exceptions?.[site.id];
  const said = { exceptions: { [site.id]: { ...here, ...to } } };
  return {
    label,
    operations: [{ type: 'ssid.set', ssidId: id, from: { exceptions: here ? { [site.id]: here } : {} }, to: said }],
  };
}
