import { MULTICAST_WAYS, ROAM_AIDS, SECURITIES } from '../../document';
import { Joi } from '../../schema';
import { isolation } from '../segment/schema';
import { caps, id, list, purpose, reach, shapesOfList, text, type Shapes } from '../shape';
import { MOST_RING_SEGMENTS, MOST_SENDERS, OWN_GATEWAY, type EXCEPTABLE } from './ssid';
import type { SsidFields } from './operations';

/** Most sites at which APs are chosen, or something is otherwise. */
const MOST_SITES = 1000;
const dbm = Joi.number().integer().allow(null);
const hours = Joi.string().uuid().allow(null);
const bands = Joi.array()
  .items(Joi.string().valid('2.4', '5', '6'))
  .max(3)
  .unique();
const tunnel = Joi.alternatives(Joi.string().valid(OWN_GATEWAY), Joi.string().uuid()).allow(null);
const multicast = Joi.string()
  .valid(...MULTICAST_WAYS)
  .allow(null);
const number = Joi.number().integer().allow(null);
/** What one site says otherwise: all of it may be left out. */
const exception = Joi.object({
  off: Joi.boolean(),
  segment: text(200).optional(),
  tunnel,
  passphrase: Joi.object({ secret: id }),
  bands,
  hours,
  caps: caps.optional(),
  join: dbm,
  stay: dbm,
  most: number,
  hidden: Joi.boolean(),
  steer: Joi.boolean(),
  multicast,
} satisfies Record<(typeof EXCEPTABLE)[number], unknown>);
const fields = {
  name: text(200),
  security: Joi.string()
    .valid(...SECURITIES)
    .required(),
  passphrase: Joi.object({ secret: id }).allow(null).required(),
  ring: Joi.array()
    .items(Joi.string().max(200))
    .max(MOST_RING_SEGMENTS)
    .unique((a: string, b: string) => a.toLowerCase() === b.toLowerCase())
    .allow(null),
  keysAt: Joi.string().valid('servers').allow(null),
  former: Joi.object({ secret: id, until: text(10) }).allow(null),
  bands: bands.required(),
  segment: text(200),
  tunnel,
  reach,
  isolation,
  purpose,
  byClass: Joi.boolean().allow(null),
  off: Joi.boolean().allow(null),
  hidden: Joi.boolean().allow(null),
  join: dbm,
  stay: dbm,
  most: number,
  steer: Joi.boolean().allow(null),
  roam: Joi.array()
    .items(Joi.string().valid(...ROAM_AIDS))
    .max(ROAM_AIDS.length)
    .unique()
    .allow(null),
  multicast,
  caps,
  hours,
  portal: Joi.string().uuid().allow(null),
  apTags: Joi.object().pattern(Joi.string().uuid(), Joi.string().max(40)).max(MOST_SITES).allow(null),
  exceptions: Joi.object().pattern(Joi.string().uuid(), exception).max(MOST_SITES).allow(null),
  aps: Joi.object()
    .pattern(Joi.string().uuid(), list(Joi.string().uuid(), MOST_SENDERS).unique())
    .max(MOST_SITES)
    .allow(null),
} satisfies Shapes<SsidFields>;

export const ssidShapes = shapesOfList('ssid', 'estate', fields);
