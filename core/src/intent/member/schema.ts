import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { id, list, shapesOfList, text, texts, type Shapes } from '../shape';
import { MOST_DIRECT, MOST_PREFIXES, MOST_SPOKE_HUBS, type Member } from './member';

const ids = (most: number) => list(Joi.string().uuid(), most);

const fields = {
  siteId: id,
  deviceId: id,
  role: Joi.string().valid('hub', 'spoke').required(),
  hubs: ids(MOST_SPOKE_HUBS).required(),
  direct: ids(MOST_DIRECT).required(),
  segments: Joi.alternatives(Joi.string().valid('all'), ids(500)).required(),
  prefixes: texts(MOST_PREFIXES).required(),
  takes: texts(MOST_PREFIXES).allow(null).required(),
  leaves: Joi.string().valid('here', 'hub').required(),
  found: Joi.object().pattern(Joi.string().max(80), text(60)).max(16).required(),
  key: Joi.object({ secret: id, public: text(44) }).required(),
} satisfies Shapes<FieldsOf<Member>>;

export const memberShapes = shapesOfList('member', 'estate', fields);
