import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { id, shapesOfList, text, type Shapes } from '../shape';
import { MOST_ROUTE_NAME, type StaticRoute } from './route';

const fields = {
  deviceId: id,
  name: text(MOST_ROUTE_NAME),
  prefix: text(60),
  via: Joi.alternatives(
    Joi.object({ kind: Joi.valid('address').required(), address: text(60) }),
    Joi.object({ kind: Joi.valid('uplink').required(), port: Joi.string().max(40).required() }),
    Joi.object({ kind: Joi.valid('nowhere').required() }),
  ).required(),
  metric: Joi.number().min(-1e9).max(1e9).allow(null),
  tracks: Joi.string().max(60).allow(null),
  off: Joi.boolean().allow(null),
} satisfies Shapes<FieldsOf<StaticRoute>>;

export const routeShapes = shapesOfList('route', 'site', fields);
