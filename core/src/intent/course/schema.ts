import type { PathNeeds, Steadiness } from '../../paths';
import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { ends, services } from '../rule/schema';
import { id, list, shapesOfList, text, type Shapes } from '../shape';
import { MOST_COURSE_NAME, MOST_COURSE_PORTS, MOST_MARKS, type Course } from './course';

const number = Joi.number().min(-1e9).max(1e9);
const fields = {
  deviceId: id,
  name: text(MOST_COURSE_NAME),
  turn: number.required(),
  from: ends.required(),
  to: ends.required(),
  services,
  dscp: list(number, MOST_MARKS).allow(null),
  ports: list(Joi.string().max(40), MOST_COURSE_PORTS).required(),
  how: Joi.string().valid('first', 'share').required(),
  otherwise: Joi.string().valid('usual', 'nothing').required(),
  needs: Joi.object({
    loss: number,
    latency: number,
    jitter: number,
    voice: number,
  } satisfies Shapes<PathNeeds>).allow(null),
  steady: Joi.object({
    bad: number.required(),
    good: number.required(),
    margin: number.required(),
  } satisfies Shapes<Steadiness>).allow(null),
  off: Joi.boolean().allow(null),
} satisfies Shapes<FieldsOf<Course>>;

export const courseShapes = shapesOfList('course', 'site', fields);
