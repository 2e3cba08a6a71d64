import type { RadiusServer, ResolvedSite } from '../intent';
import type { Finding } from './finding';

/** A finding of a RADIUS server. */
export function found(
  site: ResolvedSite,
  { id }: Pick<RadiusServer, 'id'>,
  code: string,
  say: Pick<Finding, 'severity' | 'message' | 'reason' | 'mend'>,
): Finding {
  return { key: `${code} ${id}`, code, place: { siteId: site.id, kind: 'radius', id }, ...say };
}
