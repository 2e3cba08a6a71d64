import { BASIC_RATES, WIDTHS } from '../../radio';
import { Joi, type Schema } from '../../schema';
import { id, list, type, type Shapes } from '../shape';
import type { BandFields, RadioFields } from './radio';

const channel = Joi.number().integer().min(1).max(233);
const power = Joi.number().min(-100).max(100);
const width = Joi.number().valid(...WIDTHS);
const entry = (fields: Readonly<Record<string, Schema>>) => Joi.object(fields).allow(null).required();
const bandEntry = entry({
  on: Joi.boolean(),
  width,
  channels: Joi.alternatives(Joi.string().valid('legal'), list(channel, 59)),
  radar: Joi.boolean(),
  least: power,
  most: power.allow(null),
  refuge: channel.allow(null),
  slowest: Joi.number().valid(...BASIC_RATES),
} satisfies Shapes<Partial<BandFields>>);
const radioEntry = entry({
  on: Joi.boolean(),
  channel: channel.allow(null),
  width,
  power: power.allow(null),
  fixed: Joi.boolean(),
} satisfies Shapes<Partial<RadioFields>>);
const band = Joi.string().valid('2.4', '5', '6').required();

export const radioShapes: readonly Schema[] = [
  Joi.object({ type: type('radio.band'), siteId: id, band, from: bandEntry, to: bandEntry }),
  Joi.object({ type: type('radio.set'), siteId: id, deviceId: id, band, from: radioEntry, to: radioEntry }),
];
