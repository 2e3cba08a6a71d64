import { formatMac, parseMac } from '../../address';
import { flaw, type Flaw } from '../../base';
import { byName, editsOfList } from '../kept-list';
import type { EstatePart } from '../part';
import { reachesMeet } from '../reach';
import type { AccessClass } from './class';
import { limitFlaws, plainLimits } from './limits';
import type { ClassOperation } from './operations';

/** Most clients of one class: a list stays readable. How many a box can know says its sheet. */
export const MOST_MEMBERS = 20_000;
/** Most groups of one class. */
const MOST_CLASS_GROUPS = 100;

/** Applies an edit of an access class, which sites share; classes stay ordered by name. */
export const applyClass = editsOfList<ClassOperation, AccessClass, 'estate'>({
  noun: 'class',
  item: 'accessClass',
  where: 'estate',
  list: 'classes',
  order: byName,
  normal: normalised,
  purposed: true,
  check: (_intent, estate, one) => check(one, estate),
  named: 'class',
});

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
  flaws.push(...groupFlaws(one, others), ...limitFlaws(one));
  const other = one.otherwise && others.find(({ otherwise, reach }) => otherwise && reachesMeet(reach, one.reach));
  if (other)
    flaws.push(
      flaw('class.otherwise', `“${other.name}” is the class of everybody else already where both reach.`, 'otherwise'),
    );
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

/** What is wrong with the groups whose class it is: which of two classes a user gets must not be chance. */
function groupFlaws({ groups, reach }: AccessClass, others: readonly AccessClass[]): Flaw[] {
  const flaws: Flaw[] = [];
  const taken = new Map<string, string>();
  for (const other of others)
    if (reachesMeet(other.reach, reach))
      for (const group of other.groups ?? []) taken.set(group.toLowerCase(), `gets the class “${other.name}” already`);
  if ((groups ?? []).length > MOST_CLASS_GROUPS)
    flaws.push(flaw('class.groups', `A class has ${MOST_CLASS_GROUPS} groups at most.`, 'groups'));
  for (const group of groups ?? []) {
    const key = group.toLowerCase();
    const known = taken.get(key);
    if (group.length > 60 || /[;,]/.test(group))
      flaws.push(flaw('class.group', `“${group}” is no group: 60 characters at most, no comma.`, 'groups'));
    else if (known) flaws.push(flaw('class.group-taken', `The group “${group}” ${known}.`, 'groups'));
    else taken.set(key, 'is there twice');
  }
  return flaws;
}

function normalised(one: AccessClass): AccessClass {
  const members = one.members.map(({ mac, name }) => {
    const value = parseMac(mac);
    return { mac: value === null ? mac.trim() : formatMac(value), name: name.trim() };
  });
  const groups = one.groups?.map((each) => each.trim()).filter((each) => each !== '');
  return {
    ...plainLimits(one),
    ...{ name: one.name.trim(), segment: one.segment.trim(), members },
    ...(groups === undefined ? {} : { groups: groups.length === 0 ? null : groups }),
  };
}
