import { flaw, type Flaw } from '../../base';
import { editsOfList } from '../kept-list';
import type { Intent, SitePart } from '../part';
import { check as checkRules } from '../rule/apply';
import type { KeptGuarantee } from './guarantee';
import type { GuaranteeOperation } from './operations';

/** Applies an edit of a guarantee; guarantees stay in the order they were given. */
export const applyGuarantee = editsOfList<GuaranteeOperation, KeptGuarantee, 'scope'>({
  noun: 'guarantee',
  where: 'scope',
  list: 'guarantees',
  normal: normalised,
  purposed: true,
  check: (intent, home, guarantee) => check(intent, home.kind === 'site' ? home : null, guarantee),
});

function check(intent: Intent, site: SitePart | null, { id, from, to, services, besides }: KeptGuarantee): Flaw[] {
  const of = site ? { siteId: site.id } : { book: 'before' as const };
  return checkRules(intent, of, [{ id, verdict: 'deny', from, to: [...to, ...(besides ?? [])], services }]).map(
    ({ code, message, field }) => flaw(code, message, field?.replace(/^rules\.0\./, '')),
  );
}

function normalised({ tag, besides, apart, ...guarantee }: KeptGuarantee): KeptGuarantee {
  return {
    ...guarantee,
    ...(besides && besides.length > 0 ? { besides } : {}),
    ...(apart ? { apart } : {}),
    ...(tag?.trim() ? { tag: tag.trim() } : {}),
  };
}
