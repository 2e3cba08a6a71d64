import { Joi } from '../../schema';
import { list, minutes, pair, purpose, reach, shapesOfList, text, type Shapes } from '../shape';
import type { ClassMember } from './class';
import type { ClassFields } from './operations';

const member = { mac: text(64), name: text(80) } satisfies Shapes<ClassMember>;
const fields = {
  name: text(200),
  segment: text(200),
  members: list(Joi.object(member), 20_000).required(),
  groups: list(text(200), 200).allow(null),
  otherwise: Joi.boolean().allow(null),
  rate: pair,
  session: minutes,
  idle: minutes,
  again: minutes,
  reach,
  purpose,
} satisfies Shapes<ClassFields>;

export const classShapes = shapesOfList('class', 'estate', fields, { item: 'accessClass' });
