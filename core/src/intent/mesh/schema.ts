import { Joi, type Schema } from '../../schema';
import { id, list, type, type Shapes } from '../shape';
import { MOST_HOPS, MOST_PARENTS, type MeshFields, type MeshSite } from './mesh';

const band = Joi.string().valid('2.4', '5', '6');
const hops = Joi.number().integer().min(1).max(MOST_HOPS);
const siteEntry = Joi.object({
  when: Joi.string().valid('never', 'fallback').required(),
  band: band.required(),
  hops: hops.required(),
  key: Joi.object({ secret: id }).required(),
} satisfies Shapes<MeshSite>)
  .allow(null)
  .required();
const entry = Joi.object({
  when: Joi.string().valid('never', 'fallback', 'always'),
  band,
  hops,
  parents: Joi.alternatives(Joi.string().valid('any'), list(Joi.string().uuid(), MOST_PARENTS)),
} satisfies Shapes<Partial<MeshFields>>)
  .allow(null)
  .required();

export const meshShapes: readonly Schema[] = [
  Joi.object({ type: type('mesh.site'), siteId: id, from: siteEntry, to: siteEntry }),
  Joi.object({ type: type('mesh.set'), siteId: id, deviceId: id, from: entry, to: entry }),
];
