import { PORT_ASKS } from '../../document';
import { Joi, type Schema } from '../../schema';
import { id, list, type, type Shapes } from '../shape';
import type { PortEntry, PortFields } from './port';

const segment = Joi.string().uuid();
/** Seconds: as far as IEEE 802.1X-2020 §8.6 goes, and nobody is asked anew over and over. */
const [MOST_QUIET, LEAST_AGAIN, MOST_AGAIN] = [65_535, 60, 604_800];
/** What may be said of a port and of a duty. */
export const portFields = {
  untagged: segment.allow(null),
  tagged: Joi.alternatives(Joi.string().valid('all'), list(segment.allow('aired'), 4094)),
  poe: Joi.string().valid('on', 'off'),
  priority: Joi.string().valid('low', 'high', 'critical'),
  speed: Joi.alternatives(Joi.string().valid('auto'), Joi.number().integer().min(10).max(800_000)),
  auth: Joi.string().valid('none', ...PORT_ASKS),
  hosts: Joi.string().valid('several', 'one', 'phone'),
  voice: segment.allow(null),
  guest: segment.allow(null),
  rejected: segment.allow(null),
  unanswered: segment.allow(null),
  quiet: Joi.number().integer().min(0).max(MOST_QUIET),
  again: Joi.number().integer().min(LEAST_AGAIN).max(MOST_AGAIN),
  isolated: Joi.boolean(),
  storm: Joi.number(),
  hours: Joi.string().uuid().allow(null),
  portal: Joi.string().uuid().allow(null),
} satisfies Shapes<Omit<PortFields, 'group'>>;

const entry = Joi.object({
  ...portFields,
  group: Joi.number().allow(null),
  dutyId: Joi.string().uuid(),
} satisfies Shapes<PortEntry>)
  .allow(null)
  .required();
const atPort = { siteId: id, deviceId: id, port: Joi.string().max(16).required() };
const untagged = segment.allow(null).required();

export const portShapes: readonly Schema[] = [
  Joi.object({ type: type('port.tag'), ...atPort, segmentId: id }),
  Joi.object({ type: type('port.untag'), ...atPort, segmentId: id }),
  Joi.object({ type: type('port.untagged'), ...atPort, from: untagged, to: untagged }),
  Joi.object({ type: type('port.set'), ...atPort, from: entry, to: entry }),
];
