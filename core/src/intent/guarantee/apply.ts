import { flaw, type Flaw } from '../../base';
import { editsOfList } from '../kept-list';
import type { Intent, SitePart } from '../part';
import type { Rule } from '../../rules';
import { check as checkRules } from '../rule/apply';
import type { OfBook } from '../rule/operations';
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
  const { id, kind, from, to, services, besides, within, toSite } = guarantee;
  const of: OfBook = site ? { siteId: site.id } : { book: 'before' };
  const isSaid = within !== undefined && within !== null;
  const waits =
    (kind === 'served' || isSaid) && !(typeof within === 'number' && within >= 0 && within <= MOST_WITHIN)
      ? [flaw('guarantee.within', `Say how many seconds somebody may wait, 0 to ${MOST_WITHIN}.`, 'within')]
      : [];
  const wrong = (where: OfBook, ends: Pick<Rule, 'from' | 'to'>): Flaw[] =>
    checkRules(intent, where, [{ id, verdict: 'deny', services, ...ends }]).map(({ code, message, field }) =>
      flaw(code, message, field?.replace(/^rules\.0\./, '')),
    );
  const ends = [...to, ...(besides ?? [])];
  if (!toSite) return [...waits, ...wrong(of, { from, to: ends })];
  const there = intent.sites.get(toSite);
  if (!there) return [...waits, flaw('guarantee.site', 'The site that it reaches is no longer there.', 'toSite')];
  const strange = ends.find(({ kind }) => kind === 'internet' || kind === 'private');
  return [
    ...waits,
    ...(strange
      ? [flaw('guarantee.place', `At another site, say what is reached there: not “${strange.kind}”.`, 'to')]
      : []),
    ...wrong(of, { from, to: [ANYWHERE] }),
    ...wrong({ siteId: toSite }, { from: [ANYWHERE], to: ends }),
  ];
}
const ANYWHERE = { kind: 'any' } as const;

/** Seconds that somebody may be without internet: failures are watched for so long. */
const MOST_WITHIN = 1800;

function normalised({ tag, toSite, besides, apart, within, fails, ...guarantee }: KeptGuarantee): KeptGuarantee {
  return {
    ...guarantee,
    ...(toSite && guarantee.kind !== 'served' ? { toSite } : {}),
    ...(besides && besides.length > 0 ? { besides } : {}),
    ...(apart ? { apart } : {}),
    ...(guarantee.kind === 'served' ? { within: within ?? null, ...(fails === 2 ? { fails } : {}) } : {}),
    ...(guarantee.kind === 'always' && toSite && fails
      ? { fails, ...(typeof within === 'number' ? { within } : {}) }
      : {}),
    ...(tag?.trim() ? { tag: tag.trim() } : {}),
  };
}
