import type { NewSite } from '@iron-lattice/core/intake';
import Joi from 'joi';
import { CHANGERS, EVERYONE, route, type Route } from '../platform/route';
import type { SiteService } from './site.service';

export const siteRoutes = (sites: SiteService): Route[] => [
  route({
    method: 'get',
    path: '/api/estate',
    summary: 'The estate and its sites, with device states',
    who: EVERYONE,
    handle: () => sites.estate(),
  }),
  route<NewSite>({
    method: 'post',
    path: '/api/sites',
    summary: 'Add a site',
    who: CHANGERS,
    status: 201,
    body: Joi.object({
      name: Joi.string().max(60).allow('').required(),
      code: Joi.string().max(20).allow('').required(),
      country: Joi.string().max(60).allow('').required(),
      timeZone: Joi.string().max(60).allow('').required(),
    }),
    handle: ({ body, caller }) => sites.add(body, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/site-code',
    summary: 'A free short form for a site name',
    who: EVERYONE,
    query: { name: Joi.string().max(60).required() },
    handle: async ({ query }) => ({ code: await sites.proposeCode(query['name']!) }),
  }),
];
