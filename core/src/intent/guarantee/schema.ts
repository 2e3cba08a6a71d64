import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { ends, services } from '../rule/schema';
import { shapesOfList, type Shapes } from '../shape';
import type { KeptGuarantee } from './guarantee';

const fields = {
  kind: Joi.string().valid('never', 'always', 'only').required(),
  from: ends.required(),
  to: ends.required(),
  services,
  besides: ends.allow(null),
  tag: Joi.string().max(60).allow('', null),
} satisfies Shapes<FieldsOf<KeptGuarantee>>;

export const guaranteeShapes = shapesOfList('guarantee', 'scope', fields);
