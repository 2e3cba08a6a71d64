import type { GetsRequest, GetsTry } from '@iron-lattice/core/bench';
import { credentialsShape } from '@iron-lattice/core/line';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { GetsService } from './gets.service';

const asked = {
  siteId: ID,
  who: Joi.string().trim().min(1).max(253).required(),
  assumedId: Joi.string().uuid().allow(null).required(),
};

export const getsRoutes = (gets: GetsService): Route[] => [
  route<GetsRequest>({
    method: 'post',
    path: '/api/drafts/:id/gets',
    summary: 'What somebody would get at a site, at each SSID and port that is there; changes nothing',
    who: EVERYONE,
    params: { id: ID },
    body: Joi.object(asked),
    handle: ({ params, body }) => gets.at(params['id']!, body),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId/radius/:server/if-dead',
    summary: 'What happens at a site when a RADIUS server does not answer any more, by the draft; changes nothing',
    who: EVERYONE,
    params: { id: ID, siteId: ID, server: ID },
    handle: ({ params }) => gets.ifDies(params['id']!, params['siteId']!, params['server']!),
  }),
  route<GetsTry>({
    method: 'post',
    path: '/api/drafts/:id/gets/try',
    summary: 'Have a device of the place ask its servers for somebody, and compare; changes nothing, keeps nothing',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({
      ...asked,
      place: Joi.alternatives(
        Joi.object({ ssidId: ID }),
        Joi.object({ deviceId: ID, port: Joi.string().max(64).required() }),
      ).required(),
      entry: credentialsShape.allow(null).required(),
    }),
    handle: ({ params, body }) => gets.try(params['id']!, body),
  }),
];
