import { TARGET_WAYS, type Watch } from '../../paths';
import { Joi, type Schema } from '../../schema';
import { id, list, type, type Shapes } from '../shape';
import {
  MOST_INSTEAD,
  MOST_NAME_SERVERS,
  MOST_TARGETS,
  MOST_TITLE,
  SIX_WAYS,
  UPLINK_WAYS,
  type LeavingFields,
  type UplinkFields,
} from './uplink';

const word = (most: number) => Joi.string().max(most).allow('');
const number = Joi.number().min(-1e9).max(1e9);
const fixed = Joi.object({ address: word(60).required(), gateway: word(60).required() }).allow(null);
const watch = Joi.object({
  targets: list(
    Joi.object({
      by: Joi.string()
        .valid(...TARGET_WAYS)
        .required(),
      to: word(253).required(),
      name: Joi.string().max(253),
    }),
    // One more than there may be, so that it is said in words.
    MOST_TARGETS + 1,
  ).required(),
  interval: number.required(),
  losses: number.required(),
  timeout: number.required(),
  good: number.required(),
  hold: number.required(),
} satisfies Shapes<Watch>).allow(null);

const entry = Joi.object({
  on: Joi.boolean(),
  title: word(MOST_TITLE).allow(null),
  way: Joi.string().valid(...UPLINK_WAYS),
  fixed,
  login: Joi.object({ user: word(128).required(), password: Joi.object({ secret: id }).required() }).allow(null),
  apn: word(100).allow(null),
  six: Joi.string().valid(...SIX_WAYS),
  fixed6: fixed,
  vlan: number.allow(null),
  mtu: number.allow(null),
  clamp: Joi.boolean(),
  mac: word(30).allow(null),
  dns: list(word(60), MOST_NAME_SERVERS + 1),
  down: number.allow(null),
  up: number.allow(null),
  below: number.allow(null),
  allowance: number.allow(null),
  anew: number,
  price: number.allow(null),
  translate: Joi.boolean(),
  role: Joi.string().valid('shares', 'standby'),
  weight: number,
  turn: number,
  instead: list(word(40), MOST_INSTEAD),
  watch,
} satisfies Shapes<Partial<UplinkFields>>)
  .allow(null)
  .required();

const leaving = Joi.object({
  by: Joi.string().valid('weight', 'capacity'),
  stay: Joi.boolean(),
  begins: Joi.string().valid('any', 'all'),
  back: Joi.alternatives(Joi.string().valid('hand', 'never'), number),
  parts: Joi.object().pattern(Joi.string().uuid(), number).max(4094),
} satisfies Shapes<Partial<LeavingFields>>)
  .allow(null)
  .required();

const of = { siteId: id, deviceId: id };
export const uplinkShapes: readonly Schema[] = [
  Joi.object({ type: type('uplink.set'), ...of, port: Joi.string().max(40).required(), from: entry, to: entry }),
  Joi.object({ type: type('uplink.leaving'), ...of, from: leaving, to: leaving }),
];
