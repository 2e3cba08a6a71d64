import { Joi, type Schema } from '../../schema';
import { id, list, text, type, type Shapes } from '../shape';
import { MOST_POWER, MOST_TRACKED, type Pair } from './pair';

const ports = list(Joi.string().max(40), MOST_TRACKED).required();
const said = Joi.object({
  firstId: id,
  secondId: id,
  router: Joi.number().required(),
  advert: Joi.number().required(),
  back: Joi.boolean().required(),
  tracks: Joi.object({ first: ports, second: ports }).required(),
  when: Joi.string().valid('all', 'any').required(),
  leases: Joi.boolean().required(),
  power: Joi.object({ first: text(MOST_POWER), second: text(MOST_POWER) }).required(),
} satisfies Shapes<Pair>)
  .allow(null)
  .required();

export const pairShapes: readonly Schema[] = [Joi.object({ type: type('pair.set'), siteId: id, from: said, to: said })];
