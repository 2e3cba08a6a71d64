import type { ResolvedSite } from '../intent';
import type { PolicyRow } from '../rollout';
import type { Finding, Mend } from './finding';

/** Something found about a rule of a site. @param said `at`: the rule that it is told at, where the key names more. */
export function ruleFound(
  site: ResolvedSite,
  id: string,
  code: string,
  severity: Finding['severity'],
  { message, reason, mend = null, at = id }: { message: string; reason: string; mend?: Mend | null; at?: string },
): Finding {
  const place = { siteId: site.id, kind: 'rule' as const, id: at };
  return { key: `${code} ${id}`, code, severity, message, reason, place, mend };
}

/** Rules that people wrote. */
export const own = ({ book }: PolicyRow): boolean => book === 'site' || book === 'before' || book === 'after';
