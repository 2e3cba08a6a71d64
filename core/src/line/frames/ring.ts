import type { RingKey } from '../../document';
import { Joi } from '../../schema';
import { short, type FrameShapes } from './fields';

/** Most keys in one frame: it has to stay below what a frame may have. */
export const KEYS_A_FRAME = 1000;

/** Key rings: a device says how far it has one, and is told what changed since. */
export interface RingFromDevice {
  readonly type: 'ring-at';
  /** Id of the SSID. */
  readonly ssid: string;
  /** Change of the ring that it has come to; 0: it has none of it. */
  readonly at: number;
}
export interface RingFromController {
  readonly type: 'ring';
  readonly ssid: string;
  /** The change that this follows; 0: what the device has of the ring is dropped first. */
  readonly after: number;
  readonly at: number;
  readonly keys: readonly RingKey[];
  /** Ids of keys that are right no more. */
  readonly gone: readonly string[];
}

const at = Joi.number().integer().min(0).max(Number.MAX_SAFE_INTEGER).required();
const moment = Joi.string().min(10).max(16);
const key = Joi.object({
  id: short.required(),
  key: Joi.string().min(8).max(64).required(),
  segment: Joi.string().max(200),
  accessClass: Joi.string().max(200),
  macs: Joi.array().items(short).max(1000),
  full: Joi.valid(true),
  most: Joi.number().integer().min(1),
  from: moment,
  until: moment,
});

export const ringFrames = {
  device: { 'ring-at': { ssid: short.required(), at } } satisfies FrameShapes<RingFromDevice>,
  controller: {
    ring: {
      ssid: short.required(),
      after: at,
      at,
      keys: Joi.array().items(key).max(KEYS_A_FRAME).required(),
      gone: Joi.array().items(short).max(KEYS_A_FRAME).required(),
    },
  } satisfies FrameShapes<RingFromController>,
};
