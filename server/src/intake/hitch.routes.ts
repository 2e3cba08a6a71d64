import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { HitchService } from './hitch.service';
import type { SheetService } from './sheet.service';

/** Hitches, and the hardware sheets that settle some of them. */
export const hitchRoutes = (hitches: HitchService, sheets: SheetService): Route[] => [
  route({
    method: 'get',
    path: '/api/hitches',
    shared: true,
    summary: 'What keeps devices from coming in or staying in step',
    who: EVERYONE,
    query: { siteId: Joi.string().uuid() },
    handle: async ({ query }) => ({ hitches: await hitches.list(query['siteId']) }),
  }),
  route({
    method: 'post',
    path: '/api/hitches/:id/retry',
    summary: 'Try again what was not done',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => hitches.retry(params['id']!, caller.id),
  }),
  route({
    method: 'delete',
    path: '/api/hitches/:id',
    summary: 'Take a hitch off the list',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => hitches.dismiss(params['id']!, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/hardware-sheets',
    summary: 'All hardware sheets, shipped and supplied',
    who: EVERYONE,
    handle: () => sheets.list(),
  }),
  route({
    method: 'post',
    path: '/api/hardware-sheets',
    summary: 'Supply the hardware sheet of a model we ship none of',
    who: CHANGERS,
    status: 201,
    body: Joi.object().unknown(true),
    handle: ({ body, caller }) => sheets.supply(body, caller.id),
  }),
];
