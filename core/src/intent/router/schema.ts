import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { ends, services } from '../rule/schema';
import { list, purpose, shapesOfList, text, type Shapes } from '../shape';
import { MOST_ASSUMED, MOST_BEHIND, MOST_ROUTER_NAME, type AssumedRule, type SiteRouter } from './router';

const assumed = {
  id: Joi.string().max(100).required(),
  verdict: Joi.valid('allow', 'deny').required(),
  from: ends.required(),
  to: ends.required(),
  services,
} satisfies Shapes<AssumedRule>;

const fields = {
  name: text(MOST_ROUTER_NAME),
  deviceId: Joi.string().uuid().allow(null),
  meets: Joi.object({ segmentId: Joi.string().uuid().required(), address: text(60) }).allow(null),
  at: Joi.object({ deviceId: Joi.string().uuid().required(), port: Joi.string().max(40).required() }).allow(null),
  ownWayOut: Joi.boolean().allow(null),
  behind: list(Joi.string().max(60), MOST_BEHIND).allow(null),
  lets: list(Joi.object(assumed), MOST_ASSUMED).allow(null),
  purpose,
} satisfies Shapes<FieldsOf<SiteRouter>>;

export const routerShapes = shapesOfList('router', 'site', fields);
