import { flaw, type Flaw } from '../base';
import { contentOf, type Rule } from '../rules';
import { refuse, withSite, type Applied, type Refused } from './edit-result';
import { changed, pick } from './field-change';
import type { Intent, KeptSet, SitePart } from './nouns';
import type { OfScope, Operation, SetOperation } from './operation';

const NAME_MAX = 60;

/** Applies an edit of a named set; sets stay ordered by name. A set that is used keeps its name and its place. */
export function applySet(intent: Intent, operation: SetOperation): Applied | Refused {
  const site = 'siteId' in operation ? intent.sites.get(operation.siteId) : null;
  if (site === undefined) return refuse(flaw('site.unknown', 'This site is no longer in the estate.'));
  const of: OfScope = 'siteId' in operation ? { siteId: operation.siteId } : { shared: true };
  const sets = (site ?? intent.estate).sets ?? [];
  if (operation.type === 'set.add') {
    const set = normalised(operation.set);
    if (sets.some((each) => each.id === set.id)) return refuse(flaw('set.exists', 'This set is already there.'));
    const flaws = check(intent, site, set);
    if (flaws.length > 0) return refuse(...flaws);
    return done(intent, site, [...sets, set], { type: 'set.remove', setId: set.id, ...of });
  }
  const set = sets.find((each) => each.id === operation.setId);
  if (!set) return refuse(flaw('set.unknown', 'This set is no longer there.'));
  const others = sets.filter((each) => each.id !== set.id);
  const user = userOf(intent, site, set.name);
  if (operation.type === 'set.remove') {
    if (user) return refuse(flaw('set.used', `“${set.name}” is used by ${user}. Take it out there first.`));
    return done(intent, site, others, { type: 'set.add', set, ...of });
  }
  const clash = changed(set, operation);
  if (clash) return refuse(flaw('set.changed', `Somebody changed the ${clash} of “${set.name}” meanwhile.`, clash));
  const next = normalised({ ...set, ...operation.to });
  if (user && next.name !== set.name)
    return refuse(flaw('set.used', `“${set.name}” is used by ${user} under this name.`, 'name'));
  const flaws = check(intent, site, next);
  if (flaws.length > 0) return refuse(...flaws);
  const inverse: Operation = { ...operation, from: pick(next, operation.to), to: pick(set, operation.to) };
  return done(intent, site, [...others, next], inverse);
}

function check(intent: Intent, site: SitePart | null, set: KeptSet): Flaw[] {
  const flaws: Flaw[] = [];
  if (set.name === '') flaws.push(flaw('set.name-empty', 'Give the set a name.', 'name'));
  if (set.name.length > NAME_MAX) flaws.push(flaw('set.name-long', `A name has ${NAME_MAX} letters at most.`, 'name'));
  if (/["\n]/.test(set.name)) flaws.push(flaw('set.name-quote', 'A name has no quotes and no lines.', 'name'));
  const name = set.name.toLowerCase();
  const shared = intent.estate.sets ?? [];
  // A name means one set wherever it is used.
  const elsewhere = site ? (site.sets ?? []) : [...intent.sites.values()].flatMap((each) => each.sets ?? []);
  if ([...shared, ...elsewhere].some((other) => other.id !== set.id && other.name.toLowerCase() === name))
    flaws.push(flaw('set.name-taken', `There is already a set “${set.name}”.`, 'name'));
  const all = [...shared, ...(site?.sets ?? [])].filter((each) => each.id !== set.id);
  const sets = new Map([...all, set].map((each) => [each.name, each]));
  const content = contentOf(set.name, { segments: new Map(), sets });
  if ('code' in content) flaws.push(flaw(content.code, content.message, content.field));
  return flaws;
}

/** What uses a set, in words; null where nothing does. */
function userOf({ estate, sites }: Intent, site: SitePart | null, name: string): string | null {
  const places = site ? [site] : [estate, ...sites.values()];
  for (const place of places) {
    const set = place.sets?.find((each) => each.sets?.includes(name));
    if (set) return `the set “${set.name}”`;
    const books = place.kind === 'estate' ? [place.rulesBefore, place.rulesAfter] : [place.rules];
    if (books.flatMap((book) => book ?? []).some((rule) => uses(rule, name))) return `a rule of ${place.name}`;
    if (place.guarantees?.some((each) => uses(each, name))) return `a guarantee of ${place.name}`;
  }
  return null;
}

/** Whether a rule or a guarantee names a set. */
export function uses({ from, to, services }: Pick<Rule, 'from' | 'to' | 'services'>, name: string): boolean {
  const ports = services.flatMap((service) => [...(service.ports ?? []), ...(service.sourcePorts ?? [])]);
  return (
    [...from, ...to].some((end) => end.kind === 'set' && end.name === name) ||
    ports.some((text) => /^set\s+(.+)$/i.exec(text)?.[1] === name)
  );
}

const filled = (texts: readonly string[] | undefined): readonly string[] =>
  (texts ?? []).map((text) => text.trim()).filter((text) => text !== '');

function normalised({ id, name, addresses, ports, sets }: KeptSet): KeptSet {
  const lists = { addresses: filled(addresses), ports: filled(ports), sets: filled(sets) };
  const held = Object.entries(lists).filter(([, list]) => list.length > 0);
  return { id, name: name.trim(), ...Object.fromEntries(held) };
}

function done(intent: Intent, site: SitePart | null, sets: readonly KeptSet[], inverse: Operation): Applied {
  const sorted = [...sets].sort((a, b) => (a.name < b.name ? -1 : 1));
  const { sets: _old, ...rest } = site ?? intent.estate;
  const next = sorted.length === 0 ? rest : { ...rest, sets: sorted };
  return {
    ok: true,
    intent: next.kind === 'site' ? withSite(intent, next) : { ...intent, estate: next },
    inverse,
  };
}
