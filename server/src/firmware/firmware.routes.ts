import type { UpdateRequest } from '@iron-lattice/core/firmware';
import { Joi } from '@iron-lattice/core/schema';
import { AppError } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { CatalogueService } from '../roster/catalogue.service';
import type { UpdateService } from './update.service';
import { clock } from '../platform/clock';

/** Octets of a release as a file: its image in base64 and what is said of it. */
const MOST = 64_000_000;
const updating = Joi.object({
  deviceIds: Joi.array().items(Joi.string().uuid()).min(1).max(20_000).required(),
  release: Joi.string().max(40),
  mode: Joi.valid('now', 'window', 'staged').required(),
});
/** The catalogue of releases and updates to them. */
export const firmwareRoutes = (catalogue: CatalogueService, updates: UpdateService, heavy: Heavy): Route[] => [
  route({
    method: 'get',
    path: '/line/firmware/:model/:version',
    summary: 'The image of a release, for devices',
    who: 'anyone',
    params: { model: Joi.string().max(40).required(), version: Joi.string().max(40).required() },
    handle: async ({ params, context }) => {
      context.type = 'application/octet-stream';
      return catalogue.image(params['model']!, params['version']!);
    },
  }),
  route({
    method: 'get',
    path: '/api/firmware',
    summary: 'The catalogue of releases',
    who: EVERYONE,
    handle: () => catalogue.list(),
  }),
  route({
    method: 'post',
    path: '/api/firmware',
    summary: 'Add a release to the catalogue, from its file',
    who: CHANGERS,
    status: 201,
    upload: MOST,
    handle: async ({ upload, caller }) => {
      const read = await heavy.read('read-release', upload);
      if (!read.ok) throw new AppError('firmware.refused', read.reason);
      await catalogue.add({ ...read.release, image: Buffer.from(read.release.image) }, caller.id);
      return catalogue.list();
    },
  }),
  route<UpdateRequest>({
    method: 'post',
    path: '/api/firmware/plan',
    summary: 'What an update would do, device by device',
    who: EVERYONE,
    body: updating,
    handle: ({ body }) => updates.plan(body, clock.date()),
  }),
  route<UpdateRequest>({
    method: 'post',
    path: '/api/firmware/updates',
    summary: 'Update devices: now, in their sites’ windows, or one of each model first',
    who: CHANGERS,
    status: 201,
    body: updating,
    handle: ({ body, caller }) => updates.start(body, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/firmware/updates',
    summary: 'The latest updates and how each device gets on',
    who: EVERYONE,
    handle: () => updates.list(),
  }),
  route({
    method: 'post',
    path: '/api/firmware/updates/:id/cancel',
    summary: 'Call off what has not begun',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => updates.cancel(params['id']!, caller.id),
  }),
  route({
    method: 'post',
    path: '/api/firmware/updates/:id/go-on',
    summary: 'Go on with the rest although the first device failed',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => updates.goOn(params['id']!, caller.id),
  }),
];
