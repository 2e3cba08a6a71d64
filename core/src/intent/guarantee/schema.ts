import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { ends, services } from '../rule/schema';
import { id, purpose, shapesOfList, type Shapes } from '../shape';
import type { KeptGuarantee } from './guarantee';

const fields = {
  kind: Joi.string().valid('never', 'always', 'only', 'served').required(),
  from: ends.required(),
  to: ends.required(),
  services,
  toSite: id.allow(null).optional(),
  besides: ends.allow(null),
  apart: Joi.boolean().allow(null),
  within: Joi.number().min(-1e6).max(1e6).allow(null),
  fails: Joi.number().valid(1, 2).allow(null),
  tag: Joi.string().max(60).allow('', null),
  purpose,
} satisfies Shapes<FieldsOf<KeptGuarantee>>;

export const guaranteeShapes = shapesOfList('guarantee', 'scope', fields);
