import type { DeviceDocument } from '../../document';
import { Joi } from '../../schema';
import { hash, short, text, type FrameShapes } from './fields';

/** Documents: told, on trial, kept, gone back from, or refused; and what a device runs that nobody told it. */
export type DocumentFromDevice =
  | { readonly type: 'applied'; readonly hash: string }
  | { readonly type: 'kept'; readonly hash: string }
  | {
      readonly type: 'went-back';
      readonly hash: string;
      readonly runs: string | null;
      readonly reason: string;
      /** It applied the document and said so, and waited as long as it was told to for an answer. */
      readonly unanswered?: true;
    }
  | { readonly type: 'refused'; readonly hash: string; readonly runs: string | null; readonly reason: string }
  /** Somebody changed at the device itself what it runs. */
  | { readonly type: 'changed'; readonly hash: string }
  /** What it runs, as it was asked for. */
  | { readonly type: 'told-back'; readonly hash: string; readonly document: DeviceDocument };
export type DocumentFromController =
  | {
      readonly type: 'document';
      readonly hash: string;
      readonly document: DeviceDocument;
      /** Values of the secrets the document refers to, by id. */
      readonly secrets: Readonly<Record<string, string>>;
      /** How long the device waits for `keep` before it goes back. */
      readonly keepWithinSeconds: number;
    }
  | { readonly type: 'keep'; readonly hash: string }
  /** Asks for the document of that hash, which it says it runs. */
  | { readonly type: 'tell-back'; readonly hash: string };

const document = Joi.object({ format: Joi.string().valid('iron-lattice.document/1').required() })
  .unknown()
  .required();
const one = { hash: hash.required() };
const why = { ...one, runs: hash.allow(null).required(), reason: text.required() };

export const documentFrames = {
  device: {
    applied: one,
    kept: one,
    'went-back': { ...why, unanswered: Joi.valid(true) },
    refused: why,
    changed: one,
    'told-back': { ...one, document },
  } satisfies FrameShapes<DocumentFromDevice>,
  controller: {
    document: {
      ...one,
      document,
      secrets: Joi.object().pattern(short, Joi.string().max(128)).required(),
      keepWithinSeconds: Joi.number().min(0.1).max(600).required(),
    },
    keep: one,
    'tell-back': one,
  } satisfies FrameShapes<DocumentFromController>,
};
