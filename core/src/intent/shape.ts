import { MOST_REACHED } from './reach';
import { Joi, type Schema } from '../schema';

/** Pieces that shapes of edits are made of. */
export const id = Joi.string().uuid().required();
export const text = (most: number) => Joi.string().max(most).allow('').required();
/** What something is for, in people’s words. */
export const purpose = Joi.string().max(400).allow('', null);
export const list = (item: Schema, most: number) => Joi.array().items(item).max(most);
export const texts = (most: number) => list(Joi.string().max(200), most);
export const type = (name: string) => Joi.string().valid(name).required();
export const reach = Joi.alternatives(
  Joi.object({ kind: type('estate') }),
  Joi.object({
    kind: type('sites'),
    siteIds: list(Joi.string().uuid(), MOST_REACHED).min(1).required(),
    tag: Joi.string().max(40),
  }),
).required();

const cap = Joi.number().allow(null);
/** A limit down and one up, in kilobits a second. */
export const pair = Joi.object({ down: cap, up: cap }).allow(null);
/** What clients may take; what is wrong with it is said in words. */
export const caps = Joi.object({ client: pair, all: pair, burst: cap }).allow(null);

/** A time; what is wrong with it is said in words. */
export const minutes = Joi.number().allow(null);

export type { Shapes } from '../schema';

/** The same fields, each optional: what a `set` may name. */
export const some = (fields: Readonly<Record<string, Schema>>) =>
  Joi.object(Object.fromEntries(Object.entries(fields).map(([name, schema]) => [name, schema.optional()]))).required();

/** Whose something is: a site's alone, the estate's alone, or either. */
export const OF = {
  site: [{ siteId: id }],
  estate: [{}],
  scope: [{ siteId: id }, { shared: Joi.boolean().valid(true).required() }],
} as const;

/** Shapes of the edits of a list; see `KeptOperation`. */
export const shapesOfList = (
  noun: string,
  where: keyof typeof OF,
  fields: Readonly<Record<string, Schema>>,
  { item = noun, change = some(fields) }: { readonly item?: string; readonly change?: Schema } = {},
): readonly Schema[] =>
  OF[where].flatMap((of) => [
    Joi.object({ type: type(`${noun}.add`), ...of, [item]: Joi.object({ id, ...fields }).required() }),
    Joi.object({ type: type(`${noun}.remove`), ...of, [`${noun}Id`]: id }),
    Joi.object({ type: type(`${noun}.set`), ...of, [`${noun}Id`]: id, from: change, to: change }),
  ]);
