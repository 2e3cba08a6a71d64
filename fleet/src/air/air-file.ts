import type { Band } from '@iron-lattice/core/hardware';
import { Joi } from '@iron-lattice/core/schema';
import type { Place, Wall } from './path-loss';

/** A network of somebody else's, heard around an AP of ours. */
export interface Stranger {
  readonly bssid: string;
  readonly ssid: string;
  readonly security: string;
  readonly band: Band;
  /** Primary channel of 20 MHz, and the number of the middle of the whole. */
  readonly channel: number;
  readonly centre: number;
  readonly width: number;
  /** EIRP in dBm. */
  readonly power: number;
  /** Serial number of an AP of the place that it is in. */
  readonly near: string;
  readonly at: Place;
  /** Share of the time in which it sends: always the same, or by the hour (UTC). */
  readonly busy: number | readonly number[];
}

/** What is in the air: who stands where, walls, others. Places with the same cables have a drawing of their own, in metres. */
export interface AirFile {
  /** By serial number of an AP, or MAC address of a client. */
  readonly places?: Readonly<Record<string, Place>>;
  readonly walls?: readonly (Wall & { readonly near: string })[];
  readonly strangers?: readonly Stranger[];
  /** What part of the time that the law asks for radios really wait: below 1 for tests alone. */
  readonly hurry?: number;
}

const place = Joi.array().items(Joi.number()).length(3);
const spot = Joi.array().items(Joi.number()).length(2).required();
const share = Joi.number().min(0).max(1);
const mac = Joi.string().pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/);
const text = Joi.string().required();

export const airSchema = Joi.object({
  places: Joi.object().pattern(Joi.string(), place),
  walls: Joi.array().items(
    Joi.object({
      near: text,
      from: spot,
      to: spot,
      loss: Joi.object({ 2.4: Joi.number(), 5: Joi.number(), 6: Joi.number() }).required(),
    }),
  ),
  strangers: Joi.array().items(
    Joi.object({
      bssid: mac.required(),
      ssid: Joi.string().allow('').required(),
      security: text,
      band: Joi.valid('2.4', '5', '6').required(),
      channel: Joi.number().required(),
      centre: Joi.number().required(),
      width: Joi.number().required(),
      power: Joi.number().required(),
      near: text,
      at: place.required(),
      busy: Joi.alternatives(share, Joi.array().items(share).length(24)).required(),
    }),
  ),
  hurry: Joi.number().min(0).max(1),
});
