import { Joi } from '../../schema';
import { list, purpose, shapesOfList, text, type Shapes } from '../shape';
import type { WeekSpan } from '../../rules';
import { MOST_CLOSED } from './hours';
import type { HoursFields } from './operations';

const span = {
  days: Joi.array().items(Joi.number().integer().min(1).max(7)).min(1).max(7).unique().required(),
  from: text(5),
  to: text(5),
} satisfies Shapes<WeekSpan>;
const fields = {
  name: text(200),
  times: list(Joi.object(span), 336).required(),
  closed: list(Joi.string().max(10), MOST_CLOSED + 1).allow(null),
  purpose,
} satisfies Shapes<HoursFields>;

export const hoursShapes = shapesOfList('hours', 'estate', fields);
