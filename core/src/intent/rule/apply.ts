import { flaw, type Flaw } from '../../base';
import { minuteOfDay, resolveRules, type Rule } from '../../rules';
import { refuse, withSite, type Applied, type Outcome } from '../edit';
import { changed, pick } from '../field-change';
import { siteGone } from '../kept-list';
import type { Intent } from '../part';
import { namesAt } from '../policy-names';
import { resolve } from '../resolve';
import type { OfBook, RuleOperation } from './operations';

/** Most rules in one book. */
export const MOST_RULES = 10_000;
/** Flaws that depend on what a device or the estate has; they are findings and no reason to refuse an edit. */
const SAID_LATER = /^rule\.(device|device-nowhere|ssid-nowhere|segment-nowhere|gateway-nowhere|controller-nowhere)$/;

/** The rules of a book; null when its site is gone. */
export function bookOf(intent: Intent, of: OfBook): readonly Rule[] | null {
  if ('siteId' in of) {
    const site = intent.sites.get(of.siteId);
    return site ? (site.rules ?? []) : null;
  }
  return (of.book === 'before' ? intent.estate.rulesBefore : intent.estate.rulesAfter) ?? [];
}

/** Applies an edit of a rulebook. Flaws of many rules name theirs in `field`, as `rules.3.to`. */
export function applyRule(intent: Intent, operation: RuleOperation): Outcome<RuleOperation> {
  const rules = bookOf(intent, operation);
  if (!rules) return refuse(siteGone());
  const of: OfBook = 'siteId' in operation ? { siteId: operation.siteId } : { book: operation.book };
  const placeOf = (id: string | null): number | null => {
    const at = id === null ? 0 : rules.findIndex((each) => each.id === id) + 1;
    return id !== null && at === 0 ? null : at;
  };
  const behindOf = (at: number): string | null => rules[at - 1]?.id ?? null;
  const moved = refuse(flaw('rule.moved', 'The rulebook was put into another order meanwhile.'));

  if (operation.type === 'rule.add') {
    const at = placeOf(operation.behind);
    if (at === null) return moved;
    if (rules.length + operation.rules.length > MOST_RULES)
      return refuse(flaw('rule.many', `A rulebook has ${MOST_RULES} rules at most.`));
    const added = operation.rules.map(normalised);
    const known = new Set(rules.map(({ id }) => id));
    if (added.some(({ id }) => known.has(id))) return refuse(flaw('rule.exists', 'This rule is already there.'));
    const flaws = check(intent, of, added);
    if (flaws.length > 0) return refuse(...flaws);
    const ruleIds = added.map(({ id }) => id);
    return done(intent, of, [...rules.slice(0, at), ...added, ...rules.slice(at)], {
      type: 'rule.remove',
      ruleIds,
      ...of,
    });
  }
  if (operation.type === 'rule.remove') {
    const { ruleIds } = operation;
    const at = rules.findIndex((each) => each.id === ruleIds[0]);
    if (at < 0) return refuse(flaw('rule.unknown', 'This rule is no longer in the rulebook.'));
    const gone = rules.slice(at, at + ruleIds.length);
    if (gone.some((rule, i) => rule.id !== ruleIds[i]) || gone.length < ruleIds.length) return moved;
    const left = [...rules.slice(0, at), ...rules.slice(at + gone.length)];
    return done(intent, of, left, { type: 'rule.add', rules: gone, behind: behindOf(at), ...of });
  }
  const at = rules.findIndex((each) => each.id === operation.ruleId);
  const rule = rules[at];
  if (!rule) return refuse(flaw('rule.unknown', 'This rule is no longer in the rulebook.'));
  const others = rules.filter((each) => each !== rule);
  if (operation.type === 'rule.move') {
    const { ruleId, from, to } = operation;
    if (behindOf(at) !== from || to === ruleId) return moved;
    const place = to === null ? 0 : others.findIndex((each) => each.id === to) + 1;
    if (to !== null && place === 0) return moved;
    const next = [...others.slice(0, place), rule, ...others.slice(place)];
    return done(intent, of, next, { type: 'rule.move', ruleId, from: to, to: from, ...of });
  }
  const clash = changed(rule, operation);
  if (clash) return refuse(flaw('rule.changed', `Somebody changed the ${clash} of this rule meanwhile.`, clash));
  const next = normalised({ ...rule, ...operation.to });
  const flaws = check(intent, of, [next]).map((each) => ({ ...each, ...fieldAlone(each) }));
  if (flaws.length > 0) return refuse(...flaws);
  const inverse: RuleOperation = { ...operation, from: pick(next, operation.to), to: pick(rule, operation.to) };
  return done(intent, of, rules.with(at, next), inverse);
}

const fieldAlone = ({ field }: Flaw): { field?: string } =>
  field === undefined ? {} : { field: field.replace(/^rules\.\d+\./, '') };

/** What is wrong with rules, whatever else the book holds. */
export function check(intent: Intent, of: OfBook, rules: readonly Rule[]): Flaw[] {
  const places = new Map(rules.map((rule, at) => [rule.id, at]));
  const at = (id: string, field: string | undefined): string => `rules.${places.get(id) ?? 0}.${field ?? 'from'}`;
  const timed = rules.flatMap(({ id, times }) =>
    (times ?? []).some(
      ({ days, from, to }) => days.length === 0 || minuteOfDay(from) === null || minuteOfDay(to) === null,
    )
      ? [flaw('rule.times', 'Write times such as Mon-Fri 08:00-18:00.', at(id, 'times'))]
      : [],
  );
  const site = 'siteId' in of ? intent.sites.get(of.siteId) : undefined;
  const names = site
    ? namesAt(intent.estate, resolve(intent.estate, site))
    : { segments: new Map(), sets: new Map((intent.estate.sets ?? []).map((set) => [set.name, set])) };
  // A rule of the estate names what each site has or has not: there, names are looked up site by site.
  const later = site ? SAID_LATER : /^rule\.(segment|ssid|device|gateway|controller)(-nowhere)?$/;
  const known = new Set((intent.estate.hours ?? []).map((each) => each.id));
  const hours = rules.flatMap((rule) => {
    if (!rule.hours) return [];
    if (!known.has(rule.hours))
      return [flaw('rule.hours', 'These hours are not there any more.', at(rule.id, 'hours'))];
    if (!rule.times) return [];
    return [flaw('rule.hours-and-times', 'A rule has hours, or times of its own.', at(rule.id, 'times'))];
  });
  return [
    ...resolveRules(
      rules.map((rule) => ({ ...rule, off: false })),
      names,
    )
      .flaws.filter(({ code }) => !later.test(code))
      .map(({ of: id, code, message, field }) => flaw(code, message, at(id, field))),
    ...timed,
    ...hours,
  ];
}

function normalised(rule: Rule): Rule {
  const { off, log, at, comment, times, hours, ...kept } = rule;
  return {
    ...kept,
    ...(off ? { off } : {}),
    ...(log ? { log } : {}),
    ...(at ? { at } : {}),
    ...(comment?.trim() ? { comment: comment.trim() } : {}),
    ...(times && times.length > 0 ? { times } : {}),
    ...(hours ? { hours } : {}),
  };
}

function done(intent: Intent, of: OfBook, rules: readonly Rule[], inverse: RuleOperation): Applied<RuleOperation> {
  if ('siteId' in of) {
    const { rules: _old, ...rest } = intent.sites.get(of.siteId)!;
    return { ok: true, intent: withSite(intent, rules.length === 0 ? rest : { ...rest, rules }), inverse };
  }
  const key = of.book === 'before' ? 'rulesBefore' : 'rulesAfter';
  const { [key]: _old, ...rest } = intent.estate;
  return { ok: true, intent: { ...intent, estate: rules.length === 0 ? rest : { ...rest, [key]: rules } }, inverse };
}

/** An edit of a rulebook in words. */
export function ruleWords(operation: RuleOperation): string {
  if (operation.type === 'rule.add') return counted(operation.rules.length, 'added');
  if (operation.type === 'rule.remove') return counted(operation.ruleIds.length, 'taken away');
  if (operation.type === 'rule.move') return 'a rule moved';
  return `${Object.keys(operation.to).join(', ')} of a rule changed`;
}

const counted = (count: number, what: string): string => (count === 1 ? `a rule ${what}` : `${count} rules ${what}`);
