import { Joi, type Schema } from '../../schema';
import { texts, type } from '../shape';

const addresses = texts(32).required();

export const controllerShapes: readonly Schema[] = [
  Joi.object({ type: type('controller.set'), from: addresses, to: addresses }),
];
