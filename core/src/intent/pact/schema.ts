import { CIPHER_NAMES, GROUP_NAMES, HASH_NAMES, type Offer } from '../../ike';
import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { list, purpose, shapesOfList, text, type Shapes } from '../shape';
import {
  MOST_GATEWAY_NAME,
  MOST_KEY,
  MOST_PACT_NAME,
  MOST_PACT_PREFIXES,
  type Pact,
  type PactLasts,
  type PactWord,
} from './pact';

const some = (names: readonly string[]) => list(Joi.valid(...names), names.length).required();
const offer = Joi.object({
  ciphers: some(CIPHER_NAMES),
  hashes: some(HASH_NAMES),
  groups: some(GROUP_NAMES),
} satisfies Shapes<Offer>);
const prefixes = list(Joi.string().max(60), MOST_PACT_PREFIXES);
const seconds = Joi.number().required();

const word = {
  ike: offer.required(),
  esp: offer.required(),
  own: text(MOST_GATEWAY_NAME),
  other: text(MOST_GATEWAY_NAME),
  there: prefixes.required(),
  here: prefixes.required(),
} satisfies Shapes<PactWord>;

const fields = {
  name: text(MOST_PACT_NAME),
  at: Joi.string().max(60).allow('', null),
  own: text(MOST_GATEWAY_NAME),
  other: text(MOST_GATEWAY_NAME),
  key: Joi.object({ secret: Joi.string().max(MOST_KEY).required() }).required(),
  ike: offer.required(),
  esp: offer.required(),
  lasts: Joi.object({ ike: seconds, esp: seconds } satisfies Shapes<PactLasts>).allow(null),
  segments: list(Joi.string().uuid(), 64).required(),
  prefixes: prefixes.allow(null),
  behind: prefixes.required(),
  says: Joi.object(word).allow(null),
  purpose,
} satisfies Shapes<FieldsOf<Pact>>;

export const pactShapes = shapesOfList('pact', 'site', fields);
