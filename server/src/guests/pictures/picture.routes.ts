import { isPictureId, MOST_PICTURE, PICTURE_USES, type PictureUse } from '@iron-lattice/core/guests';
import { Joi } from '@iron-lattice/core/schema';
import { unknown } from '../../platform/app-error';
import { CHANGERS, EVERYONE, route, type Route } from '../../platform/route';
import type { PictureService } from './picture.service';

/** Pictures of portals. */
export const pictureRoutes = (pictures: PictureService): Route[] => [
  route({
    method: 'post',
    path: '/api/portal-pictures',
    summary: 'Bring a picture for portals, as PNG, JPEG or SVG: it is drawn anew, as large as it is shown, and kept',
    who: CHANGERS,
    query: { as: Joi.valid(...PICTURE_USES).required() },
    status: 201,
    upload: MOST_PICTURE,
    handle: ({ query, upload, caller }) => pictures.add(query['as'] as PictureUse, upload, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/portal-pictures/:id',
    summary: 'A picture of portals, as WebP',
    who: EVERYONE,
    params: { id: Joi.string().hex().length(64).required() },
    handle: async ({ params, context }) => {
      const bytes = isPictureId(params['id']!) ? await pictures.read(params['id']!) : null;
      if (!bytes) throw unknown('picture');
      context.type = 'image/webp';
      context.body = bytes;
    },
  }),
];
