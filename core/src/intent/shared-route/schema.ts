import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { MOST_ROUTE_NAME } from '../route/route';
import { purpose, reach, shapesOfList, text, type Shapes } from '../shape';
import type { SharedRoute } from './shared-route';

const fields = {
  name: text(MOST_ROUTE_NAME),
  prefix: text(60),
  via: Joi.alternatives(
    Joi.object({
      kind: Joi.valid('segment').required(),
      segment: text(200),
      nth: Joi.number().min(-1e9).max(1e9).required(),
    }),
    Joi.object({ kind: Joi.valid('uplink').required(), title: text(200) }),
    Joi.object({ kind: Joi.valid('nowhere').required() }),
  ).required(),
  metric: Joi.number().min(-1e9).max(1e9).allow(null),
  tracks: Joi.string().max(60).allow(null),
  reach,
  off: Joi.boolean().allow(null),
  purpose,
} satisfies Shapes<FieldsOf<SharedRoute>>;

export const sharedRouteShapes = shapesOfList('sharedRoute', 'estate', fields, { item: 'route' });
