import { Joi } from '../../schema';
import type { FieldsOf } from '../kept-list';
import { shapesOfList, text, type Shapes } from '../shape';
import type { Recipe } from './recipe';

const fields = {
  name: text(200),
  vlan: Joi.number().required(),
  purpose: text(400),
  domain: text(300),
  length: Joi.number().required(),
  parent: Joi.string().max(64).allow(null).required(),
  leaseSeconds: Joi.number().allow(null).required(),
} satisfies Shapes<FieldsOf<Recipe>>;

export const recipeShapes = shapesOfList('recipe', 'estate', fields);
