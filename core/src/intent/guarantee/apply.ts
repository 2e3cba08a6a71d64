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

function check(intent: Intent, site: SitePart | null, guarantee: KeptGuarantee): Flaw[] {
  const { id, kind, from, to, services, besides, within } = guarantee;
  const of = site ? { siteId: site.id } : { book: 'before' as const };
  const waits =
    kind === 'served' && !(typeof within === 'number' && within >= 0 && within <= MOST_WITHIN)
      ? [flaw('guarantee.within', `Say how many seconds somebody may wait, 0 to ${MOST_WITHIN}.`, 'within')]
      : [];
  const wrong = checkRules(intent, of, [{ id, verdict: 'deny', from, to: [...to, ...(besides ?? [])], services }]).map(
    ({ code, message, field }) => flaw(code, message, field?.replace(/^rules\.0\./, '')),
  );
  return [...waits, ...wrong];
}

/** Seconds that somebody may be without internet: failures are watched for so long. */
const MOST_WITHIN = 1800;

function normalised({ tag, besides, apart, within, fails, ...guarantee }: KeptGuarantee): KeptGuarantee {
  return {
    ...guarantee,
    ...(besides && besides.length > 0 ? { besides } : {}),
    ...(apart ? { apart } : {}),
    ...(guarantee.kind === 'served' ? { within: within ?? null, ...(fails === 2 ? { fails } : {}) } : {}),
    ...(tag?.trim() ? { tag: tag.trim() } : {}),
  };
}
