import { sameValue, type Flaw } from '../base';
import { BANDS } from '../hardware';
import type { Rule } from '../rules';
import { apply } from './apply';
import type { RosterLookup } from './edit';
import type { Kept } from './kept-list';
import type { EstatePart, Intent, Part, SitePart } from './part';
import type { Operation } from './registry';

/** How a list of things is edited: its noun, the field of an `add` that holds the thing, and whether the estate has it too. */
interface ListOf {
  readonly noun: string;
  readonly item?: string;
  readonly scoped?: true;
}
/** How each field of a part becomes another: as a list of things, in a way of its own, or not at all. */
type How = ListOf | 'own' | 'never';
const SITE_FIELDS: Readonly<Record<keyof SitePart, How>> = {
  ...{ kind: 'never', id: 'never', name: 'never', code: 'never', country: 'never', timeZone: 'never' },
  managementId: 'never',
  segments: { noun: 'segment' },
  duties: { noun: 'duty' },
  pools: { noun: 'pool' },
  sets: { noun: 'set', scoped: true },
  guarantees: { noun: 'guarantee', scoped: true },
  ports: 'own',
  bands: 'own',
  radios: 'own',
  mesh: 'own',
  meshAps: 'own',
  uplinks: 'own',
  leaving: 'own',
  courses: { noun: 'course' },
  translations: { noun: 'translation' },
  publications: { noun: 'publication' },
  routes: { noun: 'route' },
  routers: { noun: 'router' },
  pacts: { noun: 'pact' },
  pair: 'own',
  rules: 'own',
};
const ESTATE_FIELDS: Readonly<Record<keyof EstatePart, How>> = {
  ...{ kind: 'never', id: 'never', name: 'never' },
  sets: { noun: 'set', scoped: true },
  hours: { noun: 'hours' },
  portals: { noun: 'portal' },
  ssids: { noun: 'ssid' },
  classes: { noun: 'class', item: 'accessClass' },
  recipes: { noun: 'recipe' },
  routes: { noun: 'sharedRoute', item: 'route' },
  radius: { noun: 'radius' },
  overlay: 'own',
  members: { noun: 'member' },
  joins: 'never',
  landings: 'never',
  guarantees: { noun: 'guarantee', scoped: true },
  rulesBefore: 'own',
  rulesAfter: 'own',
  controller: 'own',
};
const BOOKS = { rulesBefore: 'before', rulesAfter: 'after' } as const;
type Fields = Readonly<Record<string, unknown>>;

/**
 * Edits that make one state of a part into another, each by itself: what was added, changed and taken away. Some may have to
 * wait for others, which `stepsTo` sees to.
 */
export function stepsBetween(from: Part, to: Part): Operation[] {
  const steps: Operation[] = [];
  const of = from.kind === 'site' ? { siteId: from.id } : {};
  for (const [list, how] of Object.entries(from.kind === 'site' ? SITE_FIELDS : ESTATE_FIELDS)) {
    if (typeof how === 'string') continue;
    const { noun, item = noun, scoped } = how;
    const whose = from.kind === 'estate' && scoped ? { shared: true } : of;
    steps.push(...listSteps(listIn(from, list), listIn(to, list), noun, item, whose));
  }
  if (from.kind === 'site' && to.kind === 'site') {
    steps.push(
      ...portSteps(from, to),
      ...radioSteps(from, to),
      ...meshSteps(from, to),
      ...uplinkSteps(from, to),
      ...pairSteps(from, to),
      ...ruleSteps(from.rules ?? [], to.rules ?? [], of),
    );
  } else if (from.kind === 'estate' && to.kind === 'estate') {
    for (const [field, book] of Object.entries(BOOKS) as [keyof typeof BOOKS, 'before' | 'after'][])
      steps.push(...ruleSteps(from[field] ?? [], to[field] ?? [], { book }));
    const [was, is] = [from.controller ?? [], to.controller ?? []];
    if (!same(was, is)) steps.push({ type: 'controller.set', from: was, to: is });
    if (!same(from.overlay, to.overlay))
      steps.push({ type: 'overlay.set', from: from.overlay ?? null, to: to.overlay ?? null });
  }
  return steps;
}

/** The edits that lead somewhere, or why they do not. */
export type Steps =
  | { readonly ok: true; readonly operations: readonly Operation[]; readonly intent: Intent }
  | { readonly ok: false; readonly flaws: readonly Flaw[] };

/**
 * The edits, in an order in which each holds, that make parts of an intent what they are in another.
 * @param keys of the parts: ids of sites, or `estate`. Those that either does not have are left as they are.
 */
export function stepsTo(start: Intent, target: Intent, keys: readonly string[], roster: RosterLookup): Steps {
  let intent = start;
  const operations: Operation[] = [];
  for (;;) {
    const left = keys.flatMap((key) => {
      const [now, then] = [partOf(intent, key), partOf(target, key)];
      return now && then ? stepsBetween(now, then) : [];
    });
    if (left.length === 0) return { ok: true, operations, intent };
    const flaws: Flaw[] = [];
    let done = 0;
    for (const step of left) {
      const outcome = apply(intent, step, roster);
      if (!outcome.ok) {
        flaws.push(...outcome.flaws);
        continue;
      }
      operations.push(step);
      intent = outcome.intent;
      done++;
    }
    // What changes nothing would go on for ever.
    if (done === 0 || operations.length > MOST_STEPS) return { ok: false, flaws };
  }
}

/** Edits of one way back. */
export const MOST_STEPS = 2000;

const partOf = ({ estate, sites }: Intent, key: string): Part | undefined =>
  key === 'estate' ? estate : sites.get(key);
const listIn = (part: Part, list: string): readonly Kept[] =>
  ((part as unknown as Fields)[list] ?? []) as readonly Kept[];
const same = (a: unknown, b: unknown): boolean => sameValue(a ?? null, b ?? null);

function listSteps(
  was: readonly Kept[],
  is: readonly Kept[],
  noun: string,
  item: string,
  whose: object,
): readonly Operation[] {
  const [before, after] = [new Map(was.map((each) => [each.id, each])), new Map(is.map((each) => [each.id, each]))];
  const step = (type: string, more: object): Operation => ({ type: `${noun}.${type}`, ...more, ...whose }) as never;
  return [
    ...was.filter(({ id }) => !after.has(id)).map(({ id }) => step('remove', { [`${noun}Id`]: id })),
    ...is.flatMap((each) => {
      const old = before.get(each.id);
      if (!old) return [step('add', { [item]: each })];
      const change = fieldsThatDiffer(old, each);
      return change ? [step('set', { [`${noun}Id`]: each.id, ...change })] : [];
    }),
  ];
}

function fieldsThatDiffer(was: object, is: object): { from: Fields; to: Fields } | null {
  const [a, b] = [was as Fields, is as Fields];
  const keys = [...new Set([...Object.keys(a), ...Object.keys(b)])].filter((key) => !same(a[key], b[key]));
  if (keys.length === 0) return null;
  const of = (fields: Fields): Fields => Object.fromEntries(keys.map((key) => [key, fields[key] ?? null]));
  return { from: of(a), to: of(b) };
}

function* portSteps(from: SitePart, to: SitePart): Generator<Operation> {
  for (const deviceId of new Set([...Object.keys(from.ports), ...Object.keys(to.ports)])) {
    const [was, is] = [from.ports[deviceId] ?? {}, to.ports[deviceId] ?? {}];
    for (const port of new Set([...Object.keys(was), ...Object.keys(is)])) {
      const change = { from: was[port] ?? null, to: is[port] ?? null };
      if (!same(change.from, change.to)) yield { type: 'port.set', siteId: from.id, deviceId, port, ...change };
    }
  }
}

function* radioSteps(from: SitePart, to: SitePart): Generator<Operation> {
  for (const band of BANDS) {
    const change = { from: from.bands?.[band] ?? null, to: to.bands?.[band] ?? null };
    if (!same(change.from, change.to)) yield { type: 'radio.band', siteId: from.id, band, ...change };
    for (const deviceId of new Set([...Object.keys(from.radios ?? {}), ...Object.keys(to.radios ?? {})])) {
      const one = { from: from.radios?.[deviceId]?.[band] ?? null, to: to.radios?.[deviceId]?.[band] ?? null };
      if (!same(one.from, one.to)) yield { type: 'radio.set', siteId: from.id, deviceId, band, ...one };
    }
  }
}

function* meshSteps(from: SitePart, to: SitePart): Generator<Operation> {
  const change = { from: from.mesh ?? null, to: to.mesh ?? null };
  if (!same(change.from, change.to)) yield { type: 'mesh.site', siteId: from.id, ...change };
  for (const deviceId of new Set([...Object.keys(from.meshAps ?? {}), ...Object.keys(to.meshAps ?? {})])) {
    const one = { from: from.meshAps?.[deviceId] ?? null, to: to.meshAps?.[deviceId] ?? null };
    if (!same(one.from, one.to)) yield { type: 'mesh.set', siteId: from.id, deviceId, ...one };
  }
}

function* uplinkSteps(from: SitePart, to: SitePart): Generator<Operation> {
  const keys = (a: object = {}, b: object = {}): Set<string> => new Set([...Object.keys(a), ...Object.keys(b)]);
  for (const deviceId of keys(from.uplinks, to.uplinks)) {
    const [was, is] = [from.uplinks?.[deviceId] ?? {}, to.uplinks?.[deviceId] ?? {}];
    for (const port of keys(was, is)) {
      const change = { from: was[port] ?? null, to: is[port] ?? null };
      if (!same(change.from, change.to)) yield { type: 'uplink.set', siteId: from.id, deviceId, port, ...change };
    }
  }
  for (const deviceId of keys(from.leaving, to.leaving)) {
    const change = { from: from.leaving?.[deviceId] ?? null, to: to.leaving?.[deviceId] ?? null };
    if (!same(change.from, change.to)) yield { type: 'uplink.leaving', siteId: from.id, deviceId, ...change };
  }
}

function pairSteps(was: SitePart, is: SitePart): readonly Operation[] {
  const change = { from: was.pair ?? null, to: is.pair ?? null };
  return same(change.from, change.to) ? [] : [{ type: 'pair.set', siteId: was.id, ...change }];
}

/** Rules come behind others: what moves is told once nothing is missing and nothing too many. */
function ruleSteps(was: readonly Rule[], is: readonly Rule[], of: object): readonly Operation[] {
  const step = (type: string, more: object): Operation => ({ type: `rule.${type}`, ...more, ...of }) as never;
  const [before, after] = [new Map(was.map((rule) => [rule.id, rule])), new Map(is.map((rule) => [rule.id, rule]))];
  const gone = was.filter(({ id }) => !after.has(id));
  const steps = gone.map(({ id }) => step('remove', { ruleIds: [id] }));
  for (const [i, rule] of is.entries()) {
    const old = before.get(rule.id);
    if (!old) steps.push(step('add', { rules: [rule], behind: is[i - 1]?.id ?? null }));
    const change = old && fieldsThatDiffer(old, rule);
    if (change) steps.push(step('set', { ruleId: rule.id, ...change }));
  }
  if (gone.length > 0 || is.some(({ id }) => !before.has(id))) return steps;
  const order = was.map(({ id }) => id);
  for (const [i, { id }] of is.entries()) {
    const at = order.indexOf(id);
    if (at === i) continue;
    steps.push(step('move', { ruleId: id, from: order[at - 1] ?? null, to: is[i - 1]?.id ?? null }));
    order.splice(at, 1);
    order.splice(i, 0, id);
  }
  return steps;
}
