import { Joi } from '../../schema';
import { caps, id, list, purpose, shapesOfList, text, type Shapes } from '../shape';
import type { SegmentFields } from './operations';
import type { AddressService, AddressSpan, Isolation, Reservation, Segment6, ServiceOption } from './segment';

const address = Joi.string().max(64);
const span = Joi.object({ first: text(64), last: text(64) } satisfies Shapes<AddressSpan>);
const servedFrom = Joi.alternatives(
  Joi.object({ kind: Joi.string().valid('gateway').required() }),
  Joi.object({ kind: Joi.string().valid('switch').required(), deviceId: id, address: text(64) }),
  Joi.object({ kind: Joi.string().valid('relay').required(), server: text(64) }),
  Joi.object({
    kind: Joi.string().valid('ap').required(),
    how: Joi.string().valid('each', 'one', 'tree').required(),
    deviceIds: list(Joi.string().uuid(), 500).required(),
  }),
);
const reservation = { mac: text(64), address: text(64), name: text(80) } satisfies Shapes<Reservation>;
const option = { code: Joi.number().required(), value: text(600) } satisfies Shapes<ServiceOption>;
const service = {
  first: text(64),
  last: text(64),
  leaseSeconds: Joi.number().required(),
  also: list(span, 32),
  exclude: list(span, 64),
  reservations: list(Joi.object(reservation), 4096),
  dns: list(address, 8),
  route: address,
  ntp: list(address, 8),
  options: list(Joi.object(option), 64),
  from: servedFrom,
  off: Joi.boolean(),
} satisfies Shapes<AddressService>;
const v6 = {
  prefix: text(64),
  gateway: text(64),
  mode: Joi.string().valid('slaac', 'stateless', 'stateful').required(),
  first: address,
  last: address,
} satisfies Shapes<Segment6>;
const apart = {
  segments: Joi.boolean(),
  clients: Joi.boolean(),
  gateway: Joi.boolean(),
} satisfies Shapes<Isolation>;
/** What clients are kept apart from; null: nothing. */
export const isolation = Joi.object(apart).allow(null);

const fields = {
  name: text(200),
  vlan: Joi.number().required(),
  subnet: text(64),
  gateway: text(64),
  addresses: Joi.object(service).allow(null).required(),
  // A segment need not have the following; null takes them away.
  off: Joi.boolean().allow(null),
  domain: Joi.string().max(300).allow('', null),
  purpose,
  v6: Joi.object(v6).allow(null),
  recipeId: Joi.string().uuid().allow(null),
  isolation,
  caps,
  routed: Joi.string().max(40).allow(null),
} satisfies Shapes<SegmentFields>;

export const segmentShapes = shapesOfList('segment', 'site', fields);
