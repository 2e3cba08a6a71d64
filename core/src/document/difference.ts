import { sameValue } from '../base';
import { targetWords } from '../paths';
import { writeService } from '../rules';
import type { DeviceDocument } from './document';

/** One readable line of what would change on a device. */
export interface DifferenceLine {
  readonly op: 'add' | 'remove' | 'change';
  /** Where, from the outside in, e.g. `ports 7`, `tagged`. */
  readonly path: readonly string[];
  readonly before: string | null;
  readonly after: string | null;
}

/** How many lines a difference adds and removes; a change counts as both. */
export interface DifferenceTally {
  readonly added: number;
  readonly removed: number;
}

/** A device's difference, line by line. */
export interface Difference extends DifferenceTally {
  readonly lines: readonly DifferenceLine[];
}

/** Fields that name an element of a list, so that elements are compared by name and not by place. */
const KEYS = ['vlan', 'port', 'name', 'code', 'first', 'band', 'to'] as const;
/** Lists whose elements are known by other fields than the first of KEYS that they have. */
const KEY_OF: Readonly<Record<string, readonly string[]>> = {
  choices: ['channel'],
  classes: ['name'],
  classLists: ['name'],
  ssids: ['name'],
  caps: ['name'],
  reservations: ['mac'],
  rules: ['name'],
  courses: ['name'],
  pacts: ['name'],
  published: ['name'],
  translations: ['name'],
  times: ['days', 'from'],
};
/** Lists whose elements are said as text: each is a line of its own, as one says it. */
const WORDS: Readonly<Record<string, (element: never) => string>> = {
  services: writeService,
  targets: targetWords,
};
/** Lists whose order decides. */
const ORDERED = new Set(['rules', 'courses', 'translations']);
/** Fields that mean nothing to people. Where elements are alike in name, they tell which is meant. */
const UNSAID = new Set(['id']);

/**
 * Compares two documents of a device leaf by leaf; list elements are matched by their key.
 * @param before null when the device has no document yet.
 * @throws RangeError for a list that it cannot tell the elements of: one would stand for all.
 */
export function differenceOf(before: DeviceDocument | null, after: DeviceDocument): Difference {
  const sides = leavesOf(before, after);
  let made = differences.get(sides);
  if (!made) differences.set(sides, (made = linesOf(sides)));
  return made;
}
/** What differs between lists that many devices are told, by the leaves of both. */
const differences = new WeakMap<Sides, Difference>();

function linesOf([old, now]: Sides): Difference {
  const lines: DifferenceLine[] = [];
  const differing = [...new Set([...old.keys(), ...now.keys()])].filter(
    (key) => valueIn(old, key) !== valueIn(now, key),
  );
  for (const key of differing.sort(byNaturalOrder)) {
    const [a, b] = [valueIn(old, key), valueIn(now, key)];
    const { path } = (now.get(key) ?? old.get(key))!;
    lines.push({ op: a === null ? 'add' : b === null ? 'remove' : 'change', path, before: a, after: b });
  }
  return {
    lines,
    added: lines.filter((line) => line.op !== 'remove').length,
    removed: lines.filter((line) => line.op !== 'add').length,
  };
}

/** As much of it as can be said without looking at the lines. */
export function tallyOf(before: DeviceDocument | null, after: DeviceDocument): DifferenceTally {
  const [old, now] = leavesOf(before, after);
  let kept = 0;
  for (const [key, { value }] of now) if (valueIn(old, key) === value) kept++;
  return { added: now.size - kept, removed: old.size - kept };
}

/** A value, and where it stands in words. */
interface Leaf {
  readonly path: readonly string[];
  readonly value: string;
}

const NOTHING: ReadonlyMap<string, Leaf> = new Map();

/** The leaves of two documents, without those of fields and elements of lists that are the same in both: most are, at most edits. */
function leavesOf(before: DeviceDocument | null, after: DeviceDocument): Sides {
  if (!before) return [NOTHING, flatten(after)];
  const [was, is] = [before, after] as unknown as Readonly<Record<string, unknown>>[];
  const fields = new Set([...Object.keys(was!), ...Object.keys(is!)]);
  const differing = [...fields]
    .map((field) => leavesOfField(field, was![field], is![field]))
    .filter((each) => each !== EQUAL);
  if (differing.length === 1) return differing[0]!;
  const all = (at: 0 | 1): ReadonlyMap<string, Leaf> => new Map(differing.flatMap((sides) => [...sides[at]]));
  return [all(0), all(1)];
}

type Sides = readonly [before: ReadonlyMap<string, Leaf>, after: ReadonlyMap<string, Leaf>];
const EQUAL: Sides = [NOTHING, NOTHING];
/** Of a list that many devices are told instead of the same other one. */
const compared = new WeakMap<object, { readonly with: unknown; readonly sides: Sides }>();

function leavesOfField(field: string, a: unknown, b: unknown): Sides {
  if (a === b) return EQUAL;
  const known = Array.isArray(b) ? compared.get(b) : undefined;
  if (known && known.with === a) return known.sides;
  let sides = EQUAL;
  if (!sameValue(a, b)) {
    const [left, right] = elementsThatDiffer(field, a, b) ?? [a, b];
    const of = (value: unknown): ReadonlyMap<string, Leaf> =>
      value === undefined ? NOTHING : flatten({ [field]: value });
    sides = [of(left), of(right)];
  }
  if (Array.isArray(a) && Array.isArray(b)) compared.set(b, { with: a, sides });
  return sides;
}

/**
 * Of two lists with the same elements by name the elements that differ; null where they have others, where several have one name, or
 * where what stands beside an element says something of it.
 */
function elementsThatDiffer(
  list: string,
  a: unknown,
  b: unknown,
): readonly [before: unknown[], after: unknown[]] | null {
  if (!Array.isArray(a) || !Array.isArray(b) || a.length !== b.length || ORDERED.has(list)) return null;
  if (Object.hasOwn(WORDS, list)) return null;
  const names = new Set<string>();
  const [before, after]: unknown[][] = [[], []];
  for (const [i, one] of (a as unknown[]).entries()) {
    const other: unknown = b[i];
    const name = nameIn(list, one);
    if (name === null || name !== nameIn(list, other) || names.has(name)) return null;
    names.add(name);
    if (sameValue(one, other)) continue;
    before!.push(one);
    after!.push(other);
  }
  return [before!, after!];
}

/** What an element of a list is called; null: nothing tells. */
function nameIn(list: string, element: unknown): string | null {
  if (typeof element !== 'object' || element === null || Array.isArray(element)) return null;
  const of = element as Readonly<Record<string, unknown>>;
  const fields = fieldsOf(list, of);
  return fields.length === 0 || fields.some((field) => of[field] === undefined)
    ? null
    : fields.map((field) => String(of[field])).join(' ');
}

const fieldsOf = (list: string, element: object): readonly string[] =>
  KEY_OF[list] ?? KEYS.filter((each) => each in element).slice(0, 1);

const valueIn = (leaves: ReadonlyMap<string, Leaf>, key: string): string | null => leaves.get(key)?.value ?? null;

const SEPARATOR = '\u0000';
/** Stands before a member of a set in a key; what follows is not part of the path. */
const IN_SET = '\u0001';

const isPlain = (item: unknown): boolean => typeof item !== 'object' || item === null;

/** @param key like `path`, as one text, where what is alike in words differs. */
function flatten(
  value: unknown,
  path: readonly string[] = [],
  key = '',
  into = new Map<string, Leaf>(),
): Map<string, Leaf> {
  if (Array.isArray(value)) {
    const list = path[path.length - 1] ?? '';
    const words = Object.hasOwn(WORDS, list) ? WORDS[list] : undefined;
    const items: readonly unknown[] = words
      ? value.map((item: unknown) => (isPlain(item) ? item : words(item as never)))
      : value;
    if (items.every(isPlain)) {
      // A list of plain values is a set: each is a line of its own, so one tag more reads as one line more.
      for (const item of items) into.set(key + IN_SET + String(item), { path, value: String(item) });
    } else flattenList(items, list, path, key, into);
  } else if (typeof value === 'object' && value !== null) {
    for (const [field, item] of Object.entries(value))
      if (!UNSAID.has(field)) flatten(item, [...path, field], within(key, field), into);
  } else into.set(key, { path, value: String(value) });
  return into;
}

const within = (key: string, name: string): string => (key === '' ? name : key + SEPARATOR + name);

function flattenList(
  items: readonly unknown[],
  list: string,
  path: readonly string[],
  key: string,
  into: Map<string, Leaf>,
): void {
  const met = new Map<string, number>();
  let before: string | null = null;
  for (const item of items) {
    if (isPlain(item) || Array.isArray(item))
      throw new RangeError(`the list ${list} holds what is no object beside objects`);
    const element = item as Readonly<Record<string, unknown>>;
    const fields = fieldsOf(list, element);
    const name = nameIn(list, element);
    if (name === null) throw new RangeError(`nothing tells the elements of the list ${list} apart`);
    // Alike in name: by their ids, else by their order.
    const count = met.get(name) ?? 0;
    met.set(name, count + 1);
    const said = count === 0 ? name : `${name} (${count + 1})`;
    const id = typeof element['id'] === 'string' && ORDERED.has(list) ? element['id'] : said;
    const rest = Object.entries(element).filter(([field]) => !fields.includes(field) && !UNSAID.has(field));
    // Where the order decides, a line says what each comes behind: one that moves is few lines.
    const behind = ORDERED.has(list) ? before : null;
    before = said;
    const [here, keyed] = [[...path, said], within(key, id)];
    // An element without anything but its name is still there.
    if (rest.length === 0) into.set(within(keyed, 'there'), { path: [...here, 'there'], value: 'yes' });
    for (const [field, inner] of rest) flatten(inner, [...here, field], within(keyed, field), into);
    if (behind !== null) into.set(within(keyed, 'behind'), { path: [...here, 'behind'], value: behind });
    if (id !== name) into.set(within(keyed, 'name'), { path: [...path, name, 'name'], value: name });
  }
}

const collator = new Intl.Collator('en', { numeric: true });
const byNaturalOrder = (a: string, b: string): number => collator.compare(a, b);
