import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { SweepService } from './sweep.service';

interface Start {
  readonly prefix: string;
  readonly deviceId: string | null;
  readonly siteId: string | null;
}

/** Sweeps of a prefix by the controller or a gateway. */
export const sweepRoutes = (sweeps: SweepService): Route[] => [
  route({
    method: 'get',
    path: '/api/sweeps',
    summary: 'The latest sweeps, of a site or of none',
    who: EVERYONE,
    query: { siteId: Joi.string().uuid() },
    handle: ({ query }) => sweeps.list(query['siteId'] ?? null),
  }),
  route({
    method: 'get',
    path: '/api/sweeps/:id',
    summary: 'A sweep and how far it is',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => sweeps.get(params['id']!),
  }),
  route<Start>({
    method: 'post',
    path: '/api/sweeps',
    summary: 'Look at every address of a prefix for devices that wait',
    who: CHANGERS,
    status: 201,
    body: Joi.object({
      prefix: Joi.string().max(50).allow('').required(),
      deviceId: Joi.string().uuid().allow(null).required(),
      siteId: Joi.string().uuid().allow(null).required(),
    }),
    handle: ({ body, caller }) => sweeps.start(body.prefix, body.deviceId, body.siteId, caller.id),
  }),
  route({
    method: 'post',
    path: '/api/sweeps/:id/stop',
    summary: 'Stop a sweep',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params }) => sweeps.stop(params['id']!),
  }),
  route<{ address: string }>({
    method: 'post',
    path: '/api/sweeps/:id/invitations',
    summary: 'Have a device that a sweep found call this controller',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ address: Joi.string().ip({ cidr: 'forbidden' }).required() }),
    handle: ({ params, body, caller }) => sweeps.invite(params['id']!, body.address, caller.id),
  }),
];
