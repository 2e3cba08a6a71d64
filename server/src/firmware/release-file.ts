import type { FirmwareRelease } from '@iron-lattice/core/firmware';
import { Joi } from '@iron-lattice/core/schema';

/** A release as its file says it. */
export interface ReleaseFile extends FirmwareRelease {
  readonly image: Uint8Array;
}
export type ReadRelease =
  { readonly ok: true; readonly release: ReleaseFile } | { readonly ok: false; readonly reason: string };

/** Characters of an image in base64; with what is said of it that is as much as a file may have. */
const MOST_IMAGE = 63_900_000;

const day = Joi.string()
  .max(10)
  .pattern(/^\d{4}-\d{2}-\d{2}$/)
  .custom((text: string, helpers) => {
    const date = new Date(`${text}T00:00:00Z`);
    const is = !Number.isNaN(date.getTime()) && date.toISOString().startsWith(text);
    return is ? text : helpers.error('any.invalid');
  });
const schema = Joi.object({
  format: Joi.valid('iron-lattice.firmware/1').required(),
  model: Joi.string().max(40).required(),
  version: Joi.string().max(40).required(),
  releasedOn: day.required(),
  notes: Joi.string().max(4000).meta({ lines: true }).allow('').required(),
  minimumPrevious: Joi.string().max(40).allow(null).required(),
  unsupported: Joi.boolean().default(false),
  holdsLine: Joi.boolean().default(true),
  image: Joi.string().max(MOST_IMAGE).base64().required(),
});

/** Reads a release from its file (JSON with the image in base64). It may have megabytes: on a thread of its own. */
export function readRelease(bytes: Uint8Array): ReadRelease {
  let value: unknown;
  try {
    value = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch {
    return { ok: false, reason: 'This is no release file: it is not JSON.' };
  }
  const checked = schema.validate(value) as { error?: Error; value: Omit<ReleaseFile, 'image'> & { image: string } };
  if (checked.error)
    return {
      ok: false,
      reason: `This is no release file: ${checked.error.message.replaceAll('"', '').slice(0, 200)}.`,
    };
  const { model, version, releasedOn, notes, minimumPrevious, unsupported, holdsLine, image } = checked.value;
  const release = { model, version, releasedOn, notes, minimumPrevious, unsupported, holdsLine };
  return { ok: true, release: { ...release, image: new Uint8Array(Buffer.from(image, 'base64')) } };
}
