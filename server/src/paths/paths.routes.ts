import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { PathService } from './path.service';

/** How sites leave. */
export const pathsRoutes = (paths: PathService): Route[] => [
  route({
    method: 'get',
    path: '/api/sites/:siteId/paths',
    summary: 'How the gateways of a site leave now, and what became of their uplinks lately',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => paths.of(params['siteId']!),
  }),
  route({
    method: 'post',
    path: '/api/devices/:id/uplinks-back',
    summary: 'Have a gateway use again what is good of its uplinks',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => paths.bringBack(params['id']!, caller.id),
  }),
  route<{ port: string }>({
    method: 'post',
    path: '/api/devices/:id/uplink-capacity',
    summary: 'Have a gateway measure what one of its uplinks can do, in megabits a second',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ port: Joi.string().max(40).required() }),
    handle: ({ params, body, caller }) => paths.measure(params['id']!, body.port, caller.id),
  }),
];
