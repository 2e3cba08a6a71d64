import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { portFields } from '../port/schema';
import { purpose, shapesOfList, text, type Shapes } from '../shape';
import type { PortDuty } from './duty';

const fields = { name: text(200), purpose, ...portFields } satisfies Shapes<FieldsOf<PortDuty>>;
/** Null takes a field away. */
const change = Joi.object({
  name: Joi.string().max(200).allow(''),
  purpose,
  ...Object.fromEntries(Object.entries(portFields).map(([key, schema]) => [key, schema.allow(null)])),
}).required();

export const dutyShapes = shapesOfList('duty', 'site', fields, { change });
