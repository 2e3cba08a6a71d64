import { differenceOf, hashOf, hashOfDocument, type Difference } from '../document';
import {
  resolve,
  stepsBetween,
  type KeptGuarantee,
  type Operation,
  type Part,
  type RosterDevice,
  type SitePair,
} from '../intent';
import { compileSite, rolloutOrder } from '../rollout';
import { writeEnds, writeServices, type Rule } from '../rules';
import { guaranteeWords } from './guarantee-results';
import type { ReviewedChange } from './site-review';

/** Objects of one part that are told one by one; beyond them they are counted. */
export const MOST_OBJECTS = 500;
/** Characters of a value that are told. */
const MOST_TEXT = 200;

/** Something that is not as it was, and the fields of it that differ. */
export interface ObjectChange {
  /** Of which noun it is. */
  readonly noun: string;
  /** What people call it. */
  readonly name: string;
  readonly what: 'added' | 'changed' | 'taken away' | 'moved';
  readonly fields: readonly { readonly name: string; readonly before: string; readonly after: string }[];
}

/** Two revisions beside each other: what sites share, and the sites at which anything differs. */
export interface RevisionComparison extends IntentComparison {
  readonly from: number;
  readonly to: number;
}

/** Two states of the estate: what sites share, and the sites that say something else. */
export interface IntentComparison {
  readonly shared: readonly ObjectChange[];
  readonly sites: readonly { readonly siteId: string; readonly name: string; readonly objects: number }[];
}

/** One site in two revisions: its own objects, and what its devices of today are told in each. */
export interface SiteComparison {
  readonly objects: readonly ObjectChange[];
  readonly changes: readonly ReviewedChange[];
  readonly differences: Readonly<Record<string, Difference>>;
}

/** What of a part is not as it was. @param nameOf names a device by its id. @param sites names of sites by theirs. */
export function objectChanges(
  from: Part,
  to: Part,
  nameOf: (deviceId: string) => string,
  sites: Names = new Map(),
): readonly ObjectChange[] {
  const names = new Map([...namesIn(from, to), ...sites]);
  // APs are named as those that others hang on.
  for (const part of [from, to])
    for (const { parents } of part.kind === 'site' ? Object.values(part.meshAps ?? {}) : [])
      if (parents !== 'any') for (const id of parents ?? []) names.set(id, nameOf(id));
  return stepsBetween(from, to)
    .slice(0, MOST_OBJECTS)
    .map((step): ObjectChange => {
      const [noun, way] = step.type.split('.') as [string, string];
      if (step.type === 'radio.band')
        return { noun, name: `${step.band} GHz`, what: 'changed', fields: fieldsOf(step, names) };
      if (step.type === 'mesh.site')
        return { noun, name: 'of the site', what: 'changed', fields: fieldsOf(step, names) };
      if ('deviceId' in step) {
        const where = step.type === 'radio.set' ? ` ${step.band} GHz` : 'port' in step ? ` ${step.port}` : '';
        const isNew = 'from' in step && step.type !== 'port.untagged' && !step.from;
        const what = WAYS[isNew ? 'add' : way] ?? 'changed';
        return { noun, name: `${nameOf(step.deviceId)}${where}`, what, fields: fieldsOf(step, names) };
      }
      const id = idOf(step, noun);
      return {
        noun,
        name: thingIn(to, id) ?? thingIn(from, id) ?? '',
        what: WAYS[way] ?? 'changed',
        fields: fieldsOf(step, names),
      };
    });
}

const WAYS: Readonly<Record<string, ObjectChange['what']>> = { add: 'added', remove: 'taken away', move: 'moved' };

/** The id of what an edit is of. */
function idOf(step: Operation, noun: string): string {
  const raw = step as unknown as Record<string, unknown>;
  const whole = raw[noun === 'class' ? 'accessClass' : noun] ?? (raw['rules'] as unknown[] | undefined)?.[0];
  const id = isRecord(whole) ? whole['id'] : (raw[`${noun}Id`] ?? (raw['ruleIds'] as unknown[] | undefined)?.[0]);
  return typeof id === 'string' ? id : '';
}

/** What people call a thing of a part. */
function thingIn(part: Part, id: string): string | null {
  for (const list of Object.values(part)) {
    const found: unknown = Array.isArray(list)
      ? list.find((each: unknown) => isRecord(each) && each['id'] === id)
      : undefined;
    if (!isRecord(found)) continue;
    if (typeof found['name'] === 'string') return found['name'];
    if (found['kind'] !== undefined) return guaranteeWords(found as unknown as KeptGuarantee);
    const { verdict, from, to, services } = found as unknown as Rule;
    return `${verdict} ${writeEnds(from)} → ${writeEnds(to)} ${writeServices(services)}`;
  }
  return null;
}

/** A site in two states, with the devices that there are now: objects, documents and lines. */
export function compareSite(from: SitePair, to: SitePair, roster: readonly RosterDevice[]): SiteComparison {
  const documentsOf = ({ estate, site }: SitePair) => compileSite(resolve(estate, site), roster);
  const [before, after] = [documentsOf(from), documentsOf(to)];
  const differences: Record<string, Difference> = {};
  const changes = rolloutOrder(roster).flatMap(({ id, name }): ReviewedChange[] => {
    const [was, is] = [before.get(id), after.get(id)];
    if (!was || !is || hashOfDocument(was) === hashOfDocument(is)) return [];
    const difference = differenceOf(was, is);
    const told = hashOf(difference.lines);
    differences[told] = difference;
    return [{ deviceId: id, name, told, hash: hashOfDocument(is), away: '' }];
  });
  const names = new Map(roster.map(({ id, name }) => [id, name]));
  const objects = objectChanges(from.site, to.site, (id) => names.get(id) ?? 'a device that is gone');
  return { objects, changes, differences };
}

function fieldsOf(step: Operation, names: Names): ObjectChange['fields'] {
  if (!('from' in step) || !('to' in step)) return [];
  const { from, to }: { from: unknown; to: unknown } = step;
  if (step.type === 'rule.move') return [];
  if (!isRecord(from) && !isRecord(to)) return [{ name: '', before: textOf(from, names), after: textOf(to, names) }];
  const [a, b] = [isRecord(from) ? from : {}, isRecord(to) ? to : {}];
  return [...new Set([...Object.keys(a), ...Object.keys(b)])].flatMap((name) => {
    if (isSecret(a[name]) && isSecret(b[name])) return [{ name, before: 'a secret', after: 'another one' }];
    const [before, after] = [textOf(a[name], names), textOf(b[name], names)];
    return before === after ? [] : [{ name, before, after }];
  });
}

const isSecret = (value: unknown): boolean => isRecord(value) && 'secret' in value;
const isRecord = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

/** What things of a part are called, by their ids. */
type Names = ReadonlyMap<string, string>;

function namesIn(...parts: Part[]): Names {
  const names = new Map<string, string>();
  for (const list of parts.flatMap((part) => Object.values(part) as unknown[])) {
    if (!Array.isArray(list)) continue;
    for (const each of list as unknown[])
      if (isRecord(each) && typeof each['id'] === 'string' && typeof each['name'] === 'string')
        names.set(each['id'], each['name']);
  }
  return names;
}

/** A value as people read it: by name, and nothing of a secret. */
function textOf(value: unknown, names: Names): string {
  const text =
    value === null || value === undefined
      ? ''
      : Array.isArray(value)
        ? value.map((each) => textOf(each, names)).join(', ')
        : isSecret(value)
          ? 'a secret'
          : isRecord(value)
            ? Object.entries(value)
                .filter(([key]) => key !== 'id')
                .map(([key, each]) => `${key} ${textOf(each, names)}`)
                .join(' ')
            : typeof value === 'string'
              ? (names.get(value) ?? value)
              : JSON.stringify(value);
  return text.length > MOST_TEXT ? `${text.slice(0, MOST_TEXT)}…` : text;
}
