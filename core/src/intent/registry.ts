import { accessClass } from './class/noun';
import { controller } from './controller/noun';
import { course } from './course/noun';
import { duty } from './duty/noun';
import { guarantee } from './guarantee/noun';
import { hours } from './hours/noun';
import { member } from './member/noun';
import { mesh } from './mesh/noun';
import type { AnyOperation, Noun } from './noun';
import { overlay } from './overlay/noun';
import { pair } from './pair/noun';
import { pool } from './pool/noun';
import { port } from './port/noun';
import { portal } from './portal/noun';
import { publication } from './publication/noun';
import { radio } from './radio/noun';
import { radius } from './radius/noun';
import { recipe } from './recipe/noun';
import { route } from './route/noun';
import { pact } from './pact/noun';
import { router } from './router/noun';
import { rule } from './rule/noun';
import { segment } from './segment/noun';
import { set } from './set/noun';
import { sharedRoute } from './shared-route/noun';
import { ssid } from './ssid/noun';
import { translation } from './translation/noun';
import { uplink } from './uplink/noun';

/** The nouns of intent, by what the types of their edits begin with. Whatever asks of every noun goes through here. */
export const NOUNS = {
  segment,
  port,
  duty,
  radio,
  mesh,
  uplink,
  course,
  translation,
  publication,
  route,
  router,
  pact,
  sharedRoute,
  pair,
  overlay,
  member,
  pool,
  set,
  rule,
  guarantee,
  controller,
  recipe,
  class: accessClass,
  ssid,
  hours,
  radius,
  portal,
} as const;

type OperationOf<N> = N extends Noun<infer Op> ? Op : never;

/** One typed edit of intent, of any noun. */
export type Operation = OperationOf<(typeof NOUNS)[keyof typeof NOUNS]>;

/** All nouns, as far as they are alike. */
export const everyNoun = (): readonly Noun<AnyOperation>[] => Object.values(NOUNS) as unknown as Noun<AnyOperation>[];

/** The noun that an edit is of. @throws RangeError when there is none. */
export function nounOf({ type }: AnyOperation): Noun<AnyOperation> {
  const name = type.slice(0, type.indexOf('.'));
  if (!Object.hasOwn(NOUNS, name)) throw new RangeError(`there is no noun for edits of the type ${type}`);
  return NOUNS[name as keyof typeof NOUNS] as unknown as Noun<AnyOperation>;
}

/** Key of the part an operation changes: a site's id, or `estate`. */
export const partKeyOf = (operation: Operation): string => ('siteId' in operation ? operation.siteId : 'estate');

/** An edit in words, such as “the pool “Guests” added”. */
export const wordsOf = (operation: Operation): string => nounOf(operation).words(operation);
