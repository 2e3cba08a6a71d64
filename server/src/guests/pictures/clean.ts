import { MOST_PIXELS, PICTURE_SIZE, type PictureMade, type PictureUse } from '@iron-lattice/core/guests';
import sharp, { type Metadata } from 'sharp';
import { AppError } from '../../platform/app-error';

/** Seconds that a picture may take to be drawn. */
const PATIENCE_S = 15;
/** How well it is kept at first, and then less and less until it is small enough; then its sides are shortened. */
const [QUALITIES, SHORTER, MOST_SHORTER] = [[86, 74, 60, 45], 0.75, 8] as const;

// Nothing but these is read, from what was brought and from nowhere else.
sharp.block({ operation: ['VipsForeignLoad'] });
sharp.unblock({
  operation: ['VipsForeignLoadPngBuffer', 'VipsForeignLoadJpegBuffer', 'VipsForeignLoadSvgBuffer'],
});
sharp.concurrency(1);
sharp.cache(false);

/** A picture as it is kept: WebP (RFC 9649), drawn anew, so that nothing of what was brought is in it but what is seen. */
export interface Cleaned extends Omit<PictureMade, 'picture'> {
  readonly bytes: Buffer;
  readonly width: number;
  readonly height: number;
}

/**
 * Draws a picture anew, as large as it may be shown. Scripts, links and what a camera wrote into it are gone.
 * @throws AppError `picture.refused` with what it is not.
 */
export async function cleaned(use: PictureUse, brought: Buffer): Promise<Cleaned> {
  const limit = PICTURE_SIZE[use];
  const { format, width, height } = await sizeOf(brought);
  const most = Math.min(limit.width / width, limit.height / height);
  // What is drawn from lines is drawn as large as it may be.
  const share = format === 'svg' ? most : Math.min(1, most);
  let [wide, high] = [Math.max(1, Math.round(width * share)), Math.max(1, Math.round(height * share))];
  for (let shorter = 0; shorter <= MOST_SHORTER; shorter++) {
    const drawn = await draw(brought, wide, high, format === 'svg' ? Math.min(2400, 72 * Math.max(1, share)) : null);
    for (const quality of QUALITIES) {
      const { data, info } = await sharp(drawn.data, { raw: drawn.info })
        .webp({ quality, alphaQuality: quality, effort: 4 })
        .toBuffer({ resolveWithObject: true });
      if (data.length > limit.octets) continue;
      const was = { kind: format, width, height, octets: brought.length };
      const scaled = format !== 'svg' && info.width < width;
      return { bytes: data, width: info.width, height: info.height, octets: data.length, was, scaled };
    }
    [wide, high] = [Math.max(1, Math.round(wide * SHORTER)), Math.max(1, Math.round(high * SHORTER))];
  }
  throw refused('It cannot be made small enough. Take one with fewer details.');
}

async function read(brought: Buffer): Promise<Metadata> {
  try {
    return await sharp(brought, { limitInputPixels: false, failOn: 'error' }).metadata();
  } catch {
    throw refused('It is no PNG, JPEG or SVG that can be read.');
  }
}

/** The kind of a picture, and its size as it is seen. */
async function sizeOf(brought: Buffer): Promise<{ format: 'png' | 'jpeg' | 'svg'; width: number; height: number }> {
  const { format, autoOrient } = await read(brought);
  if (format !== 'png' && format !== 'jpeg' && format !== 'svg') throw refused('Take a PNG, a JPEG or an SVG.');
  const { width, height } = autoOrient;
  if (!(width > 0) || !(height > 0)) throw refused('It has no size. Give it a width and a height.');
  if (width * height > MOST_PIXELS)
    throw refused(`It has ${width} × ${height} pixels; ${MOST_PIXELS / 1e6} million are the most.`);
  return { format, width, height };
}

async function draw(brought: Buffer, width: number, height: number, density: number | null) {
  try {
    return await sharp(brought, {
      limitInputPixels: MOST_PIXELS,
      failOn: 'error',
      ...(density === null ? {} : { density }),
    })
      .autoOrient()
      .resize({ width, height, fit: 'fill' })
      .ensureAlpha()
      .timeout({ seconds: PATIENCE_S })
      .raw()
      .toBuffer({ resolveWithObject: true });
  } catch {
    throw refused('It cannot be drawn: it is damaged, or takes too long.');
  }
}

const refused = (message: string): AppError => new AppError('picture.refused', message);
