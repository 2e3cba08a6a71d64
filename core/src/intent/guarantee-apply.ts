import { flaw, type Flaw } from '../base';
import { readAddresses } from '../rules';
import { refuse, withSite, type Applied, type Refused } from './edit-result';
import { changed, pick } from './field-change';
import type { Intent, KeptGuarantee, SitePart } from './nouns';
import type { GuaranteeOperation, OfScope, Operation } from './operation';
import { check as checkRules } from './rule-apply';

/** Applies an edit of a guarantee; guarantees stay in the order they were given. */
export function applyGuarantee(intent: Intent, operation: GuaranteeOperation): Applied | Refused {
  const site = 'siteId' in operation ? intent.sites.get(operation.siteId) : null;
  if (site === undefined) return refuse(flaw('site.unknown', 'This site is no longer in the estate.'));
  const of: OfScope = 'siteId' in operation ? { siteId: operation.siteId } : { shared: true };
  const all = (site ?? intent.estate).guarantees ?? [];
  if (operation.type === 'guarantee.add') {
    const { guarantee } = operation;
    if (all.some((each) => each.id === guarantee.id))
      return refuse(flaw('guarantee.exists', 'This guarantee is already there.'));
    const flaws = check(intent, site, guarantee);
    if (flaws.length > 0) return refuse(...flaws);
    const inverse: Operation = { type: 'guarantee.remove', guaranteeId: guarantee.id, ...of };
    return done(intent, site, [...all, normalised(guarantee)], inverse);
  }
  const at = all.findIndex((each) => each.id === operation.guaranteeId);
  const guarantee = all[at];
  if (!guarantee) return refuse(flaw('guarantee.unknown', 'This guarantee is no longer there.'));
  if (operation.type === 'guarantee.remove')
    return done(intent, site, all.toSpliced(at, 1), { type: 'guarantee.add', guarantee, ...of });
  const clash = changed(guarantee, operation);
  if (clash) return refuse(flaw('guarantee.changed', `Somebody changed the ${clash} meanwhile.`, clash));
  const next = normalised({ ...guarantee, ...operation.to });
  const flaws = check(intent, site, next);
  if (flaws.length > 0) return refuse(...flaws);
  const inverse: Operation = { ...operation, from: pick(next, operation.to), to: pick(guarantee, operation.to) };
  return done(intent, site, all.with(at, next), inverse);
}

/** Says where this controller answers. */
export function applyController(
  intent: Intent,
  operation: Extract<Operation, { type: 'controller.set' }>,
): Applied | Refused {
  const { from, to } = operation;
  const now = intent.estate.controller ?? [];
  if (changed({ controller: now }, { from: { controller: from }, to: {} }))
    return refuse(flaw('controller.changed', 'Somebody changed it meanwhile.', 'controller'));
  const bad = to.find((text) => readAddresses(text) === null);
  if (bad !== undefined)
    return refuse(flaw('controller.address', `${bad} is no address, prefix or range from low to high.`, 'controller'));
  const { controller: _old, ...rest } = intent.estate;
  const estate = to.length === 0 ? rest : { ...rest, controller: to };
  return { ok: true, intent: { ...intent, estate }, inverse: { type: 'controller.set', from: to, to: now } };
}

function check(intent: Intent, site: SitePart | null, { id, from, to, services, besides }: KeptGuarantee): Flaw[] {
  const of = site ? { siteId: site.id } : { book: 'before' as const };
  return checkRules(intent, of, [{ id, verdict: 'deny', from, to: [...to, ...(besides ?? [])], services }]).map(
    ({ code, message, field }) => flaw(code, message, field?.replace(/^rules\.0\./, '')),
  );
}

function normalised({ tag, besides, ...guarantee }: KeptGuarantee): KeptGuarantee {
  return {
    ...guarantee,
    ...(besides && besides.length > 0 ? { besides } : {}),
    ...(tag?.trim() ? { tag: tag.trim() } : {}),
  };
}

function done(
  intent: Intent,
  site: SitePart | null,
  guarantees: readonly KeptGuarantee[],
  inverse: Operation,
): Applied {
  const { guarantees: _old, ...rest } = site ?? intent.estate;
  const next = guarantees.length === 0 ? rest : { ...rest, guarantees };
  return {
    ok: true,
    intent: next.kind === 'site' ? withSite(intent, next) : { ...intent, estate: next },
    inverse,
  };
}
