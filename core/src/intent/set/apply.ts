import { flaw, type Flaw } from '../../base';
import { contentOf } from '../../rules';
import type { EditContext } from '../edit';
import { byName, editsOfList } from '../kept-list';
import type { Intent, Part, SitePart } from '../part';
import type { SetOperation } from './operations';
import type { KeptSet } from './set';

const NAME_MAX = 60;

/** Applies an edit of a named set; sets stay ordered by name. A set that is used keeps its name and its place. */
export const applySet = editsOfList<SetOperation, KeptSet, 'scope'>({
  noun: 'set',
  where: 'scope',
  list: 'sets',
  order: byName,
  normal: normalised,
  purposed: true,
  check: (intent, home, set) => check(intent, home.kind === 'site' ? home : null, set),
  stays: (intent, home, { name }, context) => {
    const user = userOf(intent, home, name, context);
    return user === null ? null : flaw('set.used', `“${name}” is used by ${user}. Take it out there first.`);
  },
  fixed: (intent, home, { before, next }, context) => {
    const user = before.name === next.name ? null : userOf(intent, home, before.name, context);
    return user === null ? null : flaw('set.used', `“${before.name}” is used by ${user} under this name.`, 'name');
  },
});

/** What uses a set, in words: of a site's, in the site alone. */
function userOf({ estate, sites }: Intent, home: Part, name: string, context: EditContext): string | null {
  for (const part of home.kind === 'site' ? [home] : [estate, ...sites.values()]) {
    const user = context.userOf(part, 'set', name);
    if (user !== null) return user;
  }
  return null;
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

const filled = (texts: readonly string[] | undefined): readonly string[] =>
  (texts ?? []).map((text) => text.trim()).filter((text) => text !== '');

function normalised({ id, name, addresses, ports, sets, purpose }: KeptSet): KeptSet {
  const lists = { addresses: filled(addresses), ports: filled(ports), sets: filled(sets) };
  const held = Object.entries(lists).filter(([, list]) => list.length > 0);
  return { id, name: name.trim(), purpose: purpose ?? null, ...Object.fromEntries(held) };
}
