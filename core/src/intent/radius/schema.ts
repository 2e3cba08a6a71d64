import { MAC_FORMATS } from '../../radius';
import { Joi } from '../../schema';
import { id, purpose, reach, shapesOfList, text, type Shapes } from '../shape';
import type { RadiusFields } from './operations';

const number = Joi.number().required();
const fields = {
  name: text(200),
  own: Joi.boolean().allow(null),
  address: text(253).allow(''),
  port: number,
  accounting: Joi.number().allow(null),
  secret: Joi.object({ secret: id }).required(),
  order: number,
  timeout: number,
  tries: number,
  dead: number,
  macs: Joi.string()
    .valid(...MAC_FORMATS)
    .allow(null)
    .required(),
  source: Joi.string().valid('device', 'gateway').required(),
  unsigned: Joi.boolean().allow(null),
  authority: Joi.string().max(20_000).meta({ lines: true }).allow(null),
  certificateName: Joi.string().max(253).allow(null),
  reach,
  purpose,
} satisfies Shapes<RadiusFields>;

export const radiusShapes = shapesOfList('radius', 'estate', fields);
