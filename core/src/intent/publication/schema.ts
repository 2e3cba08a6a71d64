import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { ends } from '../rule/schema';
import { id, list, shapesOfList, text, type Shapes } from '../shape';
import { MOST_PUBLICATION_NAME, MOST_PUBLISHED_AT, type Publication } from './publication';

const fields = {
  deviceId: id,
  name: text(MOST_PUBLICATION_NAME),
  ports: list(Joi.string().max(40), MOST_PUBLISHED_AT).required(),
  protocol: Joi.string().valid('tcp', 'udp', 'both').required(),
  outside: text(40),
  address: text(60),
  inside: Joi.number().min(-1e9).max(1e9).allow(null),
  from: ends.required(),
  hours: Joi.string().uuid().allow(null),
  within: Joi.boolean().allow(null),
  log: Joi.boolean().allow(null),
  off: Joi.boolean().allow(null),
} satisfies Shapes<FieldsOf<Publication>>;

export const publicationShapes = shapesOfList('publication', 'site', fields);
