import {
  ASK_FIELDS,
  GUEST_WAYS,
  LANGUAGES,
  MOST_DOMAINS,
  MOST_GROUP_PEOPLE,
  MOST_ISSUER,
  MOST_QUIET,
  MOST_GROUPS,
  MOST_KINDS,
  MOST_SPONSORS,
  MOST_TOLD,
  USER_CHECKS,
  type AccountIssuer,
  type CodeKind,
  type PageWords,
  type Picture,
  type SponsorGroup,
  type Sponsors,
} from '../../guests';
import { Joi } from '../../schema';
import { list, minutes, pair, purpose, shapesOfList, text, texts, type Shapes } from '../shape';
import type { PortalFields } from './operations';
import { MOST_WORDS } from './portal';

/** What is too long is said in words, up to what nobody means. */
const lines = (most: number) =>
  Joi.string()
    .max(most * 2)
    .allow('')
    .required()
    .meta({ lines: true });
const words = {
  title: text(MOST_WORDS.title * 2),
  text: lines(MOST_WORDS.text),
  terms: lines(MOST_WORDS.terms),
  news: lines(MOST_WORDS.news),
} satisfies Shapes<PageWords>;
const language = Joi.string().valid(...LANGUAGES);
/** Lists that are longer than may be are told so in words, up to what nobody means. */
const many = (most: number) => texts(most * 2).required();
const sponsors = Joi.object({
  domains: many(MOST_DOMAINS),
  people: many(MOST_SPONSORS),
  groups: list(
    Joi.object({ name: text(200), people: many(MOST_GROUP_PEOPLE) } satisfies Shapes<SponsorGroup>),
    MOST_GROUPS * 2,
  ).required(),
  told: many(MOST_TOLD),
  within: Joi.number().required(),
} satisfies Shapes<Sponsors>).allow(null);
const asks = Joi.object(Object.fromEntries(ASK_FIELDS.map((field) => [field, Joi.valid('may', 'must')]))).allow(null);
const side = Joi.number().integer().min(1).max(4096).required();
const picture = Joi.object({
  id: Joi.string().hex().lowercase().length(64).required(),
  width: side,
  height: side,
} satisfies Shapes<Picture>).allow(null);
const link = Joi.string().max(2000).allow('', null);

const fields = {
  name: text(200),
  ways: Joi.array()
    .items(Joi.string().valid(...GUEST_WAYS))
    .max(GUEST_WAYS.length)
    .unique()
    .required(),
  asks,
  first: minutes,
  sponsors,
  users: Joi.valid(...USER_CHECKS, null),
  account: Joi.object({
    name: text(MOST_ISSUER.name * 2),
    issuer: text(MOST_ISSUER.issuer * 2),
    client: text(MOST_ISSUER.client * 2),
    secret: Joi.object({ secret: Joi.string().uuid().required() }).allow(null).required(),
    domains: many(MOST_DOMAINS),
  } satisfies Shapes<AccountIssuer>).allow(null),
  kinds: list(
    Joi.object({
      name: text(200),
      minutes: Joi.number().required(),
      most: Joi.number().allow(null).required(),
    } satisfies Shapes<CodeKind>),
    MOST_KINDS * 2,
  ).allow(null),
  visit: Joi.number().required(),
  dataADay: Joi.number().allow(null),
  minutesADay: minutes,
  idle: minutes,
  rest: minutes,
  known: minutes,
  slow: Joi.number().allow(null),
  rate: pair,
  hours: Joi.string().uuid().allow(null),
  landing: link,
  named: Joi.boolean().allow(null),
  garden: texts(1000).required(),
  quiet: texts(MOST_QUIET * 2).allow(null),
  newsLink: link,
  languages: list(language, LANGUAGES.length).unique().required(),
  words: Joi.object().pattern(language, Joi.object(words)).max(LANGUAGES.length).required(),
  agree: Joi.boolean().allow(null),
  ground: text(20),
  accent: text(20),
  logo: picture,
  backdrop: picture,
  purpose,
} satisfies Shapes<PortalFields>;

export const portalShapes = shapesOfList('portal', 'estate', fields);
