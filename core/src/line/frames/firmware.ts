import { Joi } from '../../schema';
import { hash, short, text, type FrameShapes } from './fields';

/** How an update goes. */
export type FirmwareFromDevice =
  | { readonly type: 'firmware-progress'; readonly id: string; readonly percent: number; readonly restarting: boolean }
  | { readonly type: 'firmware-failed'; readonly id: string; readonly reason: string };
export interface FirmwareFromController {
  readonly type: 'firmware';
  readonly id: string;
  readonly release: string;
  /** Octets of the image. */
  readonly size: number;
  readonly sha256: string;
  /** Where the controller serves the image. */
  readonly path: string;
}

const id = short.required();

export const firmwareFrames = {
  device: {
    'firmware-progress': {
      id,
      percent: Joi.number().integer().min(0).max(100).required(),
      restarting: Joi.boolean().required(),
    },
    'firmware-failed': { id, reason: text.required() },
  } satisfies FrameShapes<FirmwareFromDevice>,
  controller: {
    firmware: {
      id,
      release: short.required(),
      size: Joi.number().integer().min(1).required(),
      sha256: hash.required(),
      path: Joi.string()
        .pattern(/^\/[0-9A-Za-z/._-]+$/)
        .required(),
    },
  } satisfies FrameShapes<FirmwareFromController>,
};
