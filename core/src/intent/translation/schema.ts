import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { ends } from '../rule/schema';
import { id, shapesOfList, text, type Shapes } from '../shape';
import { MOST_TRANSLATION_NAME, type Translation } from './translation';

const fields = {
  deviceId: id,
  name: text(MOST_TRANSLATION_NAME),
  turn: Joi.number().min(-1e9).max(1e9).required(),
  port: text(40),
  from: ends.required(),
  to: ends.required(),
  as: Joi.string().valid('uplink', 'itself', 'pool').required(),
  pool: Joi.string().max(100).allow('', null),
  off: Joi.boolean().allow(null),
} satisfies Shapes<FieldsOf<Translation>>;

export const translationShapes = shapesOfList('translation', 'site', fields);
