import { Joi } from '../../schema';
import { isolation } from '../segment/schema';
import { id, purpose, reach, shapesOfList, text, type Shapes } from '../shape';
import type { SsidFields } from './operations';

const fields = {
  name: text(200),
  security: Joi.string().valid('wpa2-psk', 'wpa2-wpa3-psk', 'wpa3-sae').required(),
  passphrase: Joi.object({ secret: id }).required(),
  bands: Joi.array()
    .items(Joi.string().valid('2.4', '5', '6'))
    .max(3)
    .unique()
    .required(),
  segment: text(200),
  reach,
  isolation,
  purpose,
  byClass: Joi.boolean().allow(null),
} satisfies Shapes<SsidFields>;

export const ssidShapes = shapesOfList('ssid', 'estate', fields);
