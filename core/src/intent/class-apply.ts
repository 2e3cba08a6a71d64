import { formatMac, parseMac } from '../address';
import { flaw, type Flaw } from '../base';
import { refuse, type Applied, type Refused } from './edit-result';
import { changed, pick } from './field-change';
import { carrySharedName } from './name-carry';
import type { AccessClass, EstatePart, Intent } from './nouns';
import type { Operation } from './operation';
import { reachesMeet } from './ssid-check';

type ClassOperation = Extract<Operation, { type: 'class.add' | 'class.remove' | 'class.set' }>;

/** Most clients a class is given to by their MAC addresses; APs and switches have room for so many. */
export const MOST_MEMBERS = 1000;

/** Applies an edit of an access class, which sites share; classes stay ordered by name. */
export function applyClass(intent: Intent, operation: ClassOperation): Applied | Refused {
  const classes = intent.estate.classes ?? [];
  if (operation.type === 'class.add') {
    const added = normalised(operation.accessClass);
    if (classes.some(({ id }) => id === added.id)) return refuse(flaw('class.exists', 'This class is already there.'));
    const flaws = check(added, intent.estate);
    if (flaws.length > 0) return refuse(...flaws);
    return done(intent, [...classes, added], { type: 'class.remove', classId: added.id });
  }
  const before = classes.find(({ id }) => id === operation.classId);
  if (!before) return refuse(flaw('class.unknown', 'This class is no longer in the estate.'));
  const others = classes.filter(({ id }) => id !== before.id);
  if (operation.type === 'class.remove') return done(intent, others, { type: 'class.add', accessClass: before });
  const clash = changed(before, operation);
  if (clash)
    return refuse(flaw('class.changed', `Somebody changed the ${clash} of “${before.name}” meanwhile.`, clash));
  const next = normalised({ ...before, ...operation.to });
  const flaws = check(next, intent.estate);
  if (flaws.length > 0) return refuse(...flaws);
  const inverse: Operation = { ...operation, from: pick(next, operation.to), to: pick(before, operation.to) };
  return done(carrySharedName(intent, 'class', before.name, next.name), [...others, next], inverse);
}

function check(one: AccessClass, { classes = [] }: EstatePart): Flaw[] {
  const flaws: Flaw[] = [];
  if (one.name === '') flaws.push(flaw('class.name-empty', 'Give the class a name.', 'name'));
  else if (one.name.length > 60) flaws.push(flaw('class.name-long', 'A class has 60 characters at most.', 'name'));
  const others = classes.filter(({ id }) => id !== one.id);
  if (others.some(({ name }) => name.toLowerCase() === one.name.toLowerCase()))
    flaws.push(flaw('class.name-taken', `There is already a class “${one.name}”.`, 'name'));
  if (one.segment === '') flaws.push(flaw('class.segment-none', 'Choose the segment its clients join.', 'segment'));
  if (one.members.length > MOST_MEMBERS) {
    const text = `A class has ${MOST_MEMBERS} clients at most; this one has ${one.members.length}.`;
    flaws.push(flaw('class.many', text, 'members'));
  }
  const seen = new Map<string, string>();
  for (const { name, members, reach } of others)
    if (reachesMeet(reach, one.reach)) for (const { mac } of members) seen.set(mac, `in the class “${name}”`);
  for (const { mac } of one.members) {
    const known = seen.get(mac);
    if (parseMac(mac) === null)
      flaws.push(flaw('class.mac', `“${mac}” is no MAC address; write it like 02:1a:00:00:00:07.`, 'members'));
    else if (known) flaws.push(flaw('class.mac-taken', `${mac} is ${known} already.`, 'members'));
    else seen.set(mac, 'here');
  }
  return flaws;
}

function normalised(one: AccessClass): AccessClass {
  const members = one.members.map(({ mac, name }) => {
    const value = parseMac(mac);
    return { mac: value === null ? mac.trim() : formatMac(value), name: name.trim() };
  });
  return { ...one, name: one.name.trim(), segment: one.segment.trim(), members };
}

function done(intent: Intent, classes: readonly AccessClass[], inverse: Operation): Applied {
  const { classes: _old, ...rest } = intent.estate;
  const sorted = [...classes].sort((a, b) => (a.name < b.name ? -1 : 1));
  const estate = classes.length === 0 ? rest : { ...rest, classes: sorted };
  return { ok: true, intent: { ...intent, estate }, inverse };
}
