import { flaw, type Flaw } from '../base';
import { refuse, withPart, type EditContext, type NamedKind, type Outcome } from './edit';
import { putBySite, saidOf } from './by-site';
import { changed, pick, type Change } from './field-change';
import type { AnyOperation } from './noun';
import type { EstatePart, Intent, Part, SitePart } from './part';
import { normalPurpose, purposeFlaws, type Purposed } from './purpose';

/** A thing of a list: told apart by its id. */
export interface Kept {
  readonly id: string;
}
export type FieldsOf<Item extends Kept> = Omit<Item, 'id'>;

/** Whose something is. */
export interface OfSite {
  readonly siteId: string;
}
/** What belongs to a site, or to the estate. */
export type OfScope = OfSite | { readonly shared: true };
/** What sites share says nothing of whose it is. */
export type OfEstate = unknown;

/**
 * Edits of things that are kept in a list: added whole, changed field by field, taken away. A change names the values it
 * saw (`from`) as well as those it wants (`to`), so that it is refused rather than merged when somebody else changed the
 * same field in between.
 */
export type KeptOperation<Noun extends string, Item extends Kept, Of, Key extends string = Noun> =
  | ({ readonly type: `${Noun}.add` } & { readonly [K in Key]: Item } & Of)
  | ({ readonly type: `${Noun}.remove` } & { readonly [K in `${Noun}Id`]: string } & Of)
  | ({ readonly type: `${Noun}.set` } & { readonly [K in `${Noun}Id`]: string } & Change<FieldsOf<Item>> & Of);

/** Where a list is kept: in a site, in the estate, or in either. */
interface Homes {
  readonly site: SitePart;
  readonly estate: EstatePart;
  readonly scope: Part;
}
const THERE: Readonly<Record<keyof Homes, string>> = { site: 'at the site', estate: 'in the estate', scope: 'there' };

/** How a list is kept. */
export interface KeptList<Item extends Kept, Where extends keyof Homes> {
  /** Name of the noun. */
  readonly noun: string;
  /** What people call one of it, where that is another word. */
  readonly title?: string;
  /** Field of an `add` that holds the thing, where it is not called as the noun. */
  readonly item?: string;
  readonly where: Where;
  /** Field of the part that holds the list. */
  readonly list: keyof Homes[Where] & string;
  /** Whether the list is there though it is empty. */
  readonly always?: true;
  /** The order it is kept in; absent: as they came. */
  readonly order?: (a: Item, b: Item) => number;
  /** Whether people may say of each what it is for. */
  readonly purposed?: true;
  /** Fields that say something of single sites: an edit speaks of some of them, and others may speak of others meanwhile. */
  readonly bySite?: readonly (keyof Item & string)[];
  /** The same thing in the one way it is kept. */
  readonly normal?: (item: Item) => Item;
  readonly check: (intent: Intent, home: Homes[Where], item: Item, context: EditContext) => readonly Flaw[];
  /** Why it has to stay; null where it may go. */
  readonly stays?: (intent: Intent, home: Homes[Where], item: Item, context: EditContext) => Flaw | null;
  /** Why it may not become another; null where it may. */
  readonly fixed?: (
    intent: Intent,
    home: Homes[Where],
    change: { readonly before: Item; readonly next: Item },
    context: EditContext,
  ) => Flaw | null;
  /** What others know it as; they follow it to another name. */
  readonly named?: NamedKind;
}

/** Orders by name. */
export const byName = (a: { readonly name: string }, b: { readonly name: string }): number =>
  a.name < b.name ? -1 : a.name > b.name ? 1 : 0;

export const siteGone = (): Flaw => flaw('site.unknown', 'This site is no longer in the estate.');

type Raw<Item extends Kept> = Change<Item> & Readonly<Record<string, unknown>> & { readonly type: string };

/** Makes the `apply` of a noun that is kept in a list. */
export function editsOfList<Op extends AnyOperation, Item extends Kept, Where extends keyof Homes>(
  kept: KeptList<Item, Where>,
): (intent: Intent, operation: Op, context: EditContext) => Outcome<Op> {
  const { noun, where, normal: plain = (item) => item, purposed, bySite = [] } = kept;
  const normal = (item: Item): Item => (purposed ? normalPurpose<Item & Purposed>(plain(item)) : plain(item));
  const check: typeof kept.check = (intent, home, item, context) => [
    ...(purposed ? purposeFlaws(noun, item as Purposed) : []),
    ...kept.check(intent, home, item, context),
  ];
  const title = kept.title ?? noun;
  const [itemKey, idKey] = [kept.item ?? noun, `${noun}Id`];

  return (intent, operation, context) => {
    const raw = operation as unknown as Raw<Item>;
    const home = homeOf(intent, where, raw) as Homes[Where] | undefined;
    if (!home) return refuse(siteGone());
    const list = (home[kept.list] ?? []) as readonly Item[];
    const of = 'siteId' in raw ? { siteId: raw['siteId'] } : 'shared' in raw ? { shared: true } : {};
    const done = (items: readonly Item[], inverse: object, renamed = {}): Outcome<Op> => ({
      ok: true,
      intent: withPart(intent, withList(home, kept, items)),
      inverse: { ...inverse, ...of } as Op,
      ...renamed,
    });

    if (raw.type === `${noun}.add`) {
      const item = normal(raw[itemKey] as Item);
      if (list.some(({ id }) => id === item.id))
        return refuse(flaw(`${noun}.exists`, `This ${title} is already there.`));
      const flaws = check(intent, home, item, context);
      if (flaws.length > 0) return refuse(...flaws);
      return done([...list, item], { type: `${noun}.remove`, [idKey]: item.id });
    }
    const item = list.find(({ id }) => id === raw[idKey]);
    if (!item) return refuse(flaw(`${noun}.unknown`, `This ${title} is no longer ${THERE[where]}.`));
    if (raw.type === `${noun}.remove`) {
      const stays = kept.stays?.(intent, home, item, context);
      if (stays) return refuse(stays);
      const left = list.filter((each) => each !== item);
      return done(left, { type: `${noun}.add`, [itemKey]: item });
    }
    const clash = changed(item, raw, bySite);
    if (clash) {
      const which = nameOf(item) === null ? '' : ` of “${nameOf(item)}”`;
      return refuse(flaw(`${noun}.changed`, `Somebody changed the ${clash}${which} meanwhile.`, clash));
    }
    const sites = bySite.filter((field) => field in raw.to || field in raw.from);
    const put = sites.map((field) => [field, putBySite(item[field], raw.from[field], raw.to[field])] as const);
    const next = normal({ ...item, ...raw.to, ...Object.fromEntries(put) });
    const fixed = kept.fixed?.(intent, home, { before: item, next }, context);
    if (fixed) return refuse(fixed);
    const flaws = check(intent, home, next, context);
    if (flaws.length > 0) return refuse(...flaws);
    const said = (of: Item): object =>
      Object.fromEntries(sites.map((field) => [field, saidOf(of[field], raw.from[field], raw.to[field])]));
    const inverse = {
      ...operation,
      from: { ...pick(next, raw.to), ...said(next) },
      to: { ...pick(item, raw.to), ...said(item) },
    };
    const items = list.map((each) => (each === item ? next : each));
    return done(items, inverse, kept.named ? renamedFrom(kept.named, item, next, of) : {});
  };
}

/** An edit of a list in words. */
export function wordsOfList<Op extends AnyOperation>(noun: string, title: string, item = noun): (edit: Op) => string {
  return (edit) => {
    const raw = edit as unknown as Raw<Kept>;
    const name = nameOf(raw[item] ?? raw.from ?? {});
    const which = name === null ? title : `${title} “${name}”`;
    if (raw.type === `${noun}.add`) return `the ${which} added`;
    if (raw.type === `${noun}.remove`) return `a ${title} taken away`;
    return `${Object.keys(raw.to).join(', ')} of the ${which} changed`;
  };
}

const nameOf = (item: unknown): string | null => {
  const name = (item as { name?: unknown }).name;
  return typeof name === 'string' ? name : null;
};

function homeOf(intent: Intent, where: keyof Homes, raw: Readonly<Record<string, unknown>>): Part | undefined {
  if (where === 'estate' || (where === 'scope' && !('siteId' in raw))) return intent.estate;
  return intent.sites.get(raw['siteId'] as string);
}

/** A part with a list as it is now, in its order; an empty one is left out. */
function withList<Item extends Kept, Where extends keyof Homes>(
  home: Homes[Where],
  { list, order, always }: KeptList<Item, Where>,
  items: readonly Item[],
): Part {
  const { [list]: _old, ...rest } = home as Part & Record<string, unknown>;
  if (items.length === 0 && !always) return rest as unknown as Part;
  return { ...rest, [list]: order ? [...items].sort(order) : items } as unknown as Part;
}

function renamedFrom(kind: NamedKind, before: unknown, next: unknown, of: object): object {
  const [from, to] = [nameOf(before)!, nameOf(next)!];
  return from === to ? {} : { renamed: { kind, from, to, ...of } };
}
