import type { CopySiteRequest, NewSite, SiteChange, SiteRemovalRequest } from '@iron-lattice/core/intake';
import { MOST_PURPOSE } from '@iron-lattice/core/intent';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { SiteRemovals } from './site-removals';
import type { SiteService } from './site.service';

const tags = Joi.array().items(Joi.string().trim().lowercase().min(1).max(40)).max(50);
const wish = {
  name: Joi.string().max(60).allow('').required(),
  code: Joi.string().max(20).allow('').required(),
  country: Joi.string().max(60).allow('').required(),
  timeZone: Joi.string().max(60).allow('').required(),
  address: Joi.string().max(200).allow('').default(''),
  tags: tags.default([]),
};

export const siteRoutes = (sites: SiteService, removals: SiteRemovals): Route[] => [
  route({
    method: 'get',
    path: '/api/estate',
    shared: true,
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
    body: Joi.object(wish),
    handle: ({ body, caller }) => sites.add(body, caller.id),
  }),
  route<CopySiteRequest>({
    method: 'post',
    path: '/api/site-copies',
    summary: 'Add a site with the segments of another, in address space of its own',
    who: CHANGERS,
    status: 201,
    body: Joi.object({ ...wish, from: ID }),
    handle: ({ body: { from, ...rest }, caller }) => sites.copy(rest, from, caller.id),
  }),
  route<SiteChange>({
    method: 'patch',
    path: '/api/sites/:siteId',
    summary: 'Change a site’s address and coordinates, what it is for, tags and update window',
    who: CHANGERS,
    params: { siteId: ID },
    body: Joi.object({
      version: Joi.number().integer().min(0).required(),
      address: Joi.string().max(200).allow('').required(),
      coordinates: Joi.object({
        latitude: Joi.number().min(-90).max(90).required(),
        longitude: Joi.number().min(-180).max(180).required(),
      })
        .allow(null)
        .required(),
      purpose: Joi.string().max(MOST_PURPOSE).allow('').required(),
      tags: tags.required(),
      window: Joi.object({
        day: Joi.number().required(),
        from: Joi.number().required(),
        minutes: Joi.number().required(),
      })
        .allow(null)
        .required(),
    }),
    handle: ({ params, body, caller }) => sites.change(params['siteId']!, body, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/removal',
    summary: 'What taking a site away would do, and whether it can be',
    who: CHANGERS,
    params: { siteId: ID },
    handle: ({ params }) => removals.look(params['siteId']!),
  }),
  route<SiteRemovalRequest>({
    method: 'post',
    path: '/api/sites/:siteId/removal',
    summary: 'Take a site away at which no device is, with the boxes that it expects and what drafts say of it',
    who: CHANGERS,
    status: 204,
    params: { siteId: ID },
    body: Joi.object({
      boxes: Joi.number().integer().min(0).max(100_000).required(),
      edits: Joi.number().integer().min(0).max(1_000_000).required(),
    }),
    handle: ({ params, body, caller }) => removals.remove(params['siteId']!, body, caller.id),
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
