import { Joi } from '@iron-lattice/core/schema';
import { MOST_RING_SEGMENTS } from '@iron-lattice/core/intent';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import { SEGMENT_FORMATS, type LatticeService, type RingSegmentsBody, type SegmentFormat } from './lattice.service';

/** Octets of a list of segments. */
const MOST = 2_000_000;

/** The address plan, clients and leases, and segments as files. */
export const latticeRoutes = (lattice: LatticeService): Route[] => [
  route({
    method: 'get',
    path: '/api/drafts/:id/address-plan',
    shared: true,
    summary: 'Every prefix of the estate as a draft has it, with how full it is',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => lattice.plan(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/next-free-prefix',
    summary: 'The next free prefix of a length inside another',
    who: EVERYONE,
    params: { id: ID },
    query: { parent: Joi.string().max(64).required(), length: Joi.number().integer().min(0).max(128).required() },
    handle: ({ params, query }) => lattice.nextFree(params['id']!, query['parent']!, Number(query['length'])),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/clients',
    summary: 'Who has which address at a site, where attached, since when',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => lattice.clients(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/sites/:siteId/segments/:format',
    summary: 'A site’s segments as CSV, as RFC 7951 JSON (`ietf`), or as a Kea DHCPv4 configuration (`kea`)',
    who: EVERYONE,
    params: {
      id: ID,
      siteId: ID,
      format: Joi.string()
        .valid(...SEGMENT_FORMATS)
        .required(),
    },
    handle: async ({ params, context }) => {
      const { name, type, text } = await lattice.write(
        params['id']!,
        params['siteId']!,
        params['format'] as SegmentFormat,
      );
      context.attachment(name);
      context.type = type;
      return text;
    },
  }),
  route({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/segment-list',
    summary: 'Look at a list of segments (CSV or XLSX), row by row: the edits it would make; nothing is changed',
    who: CHANGERS,
    params: { id: ID, siteId: ID },
    upload: MOST,
    handle: ({ params, upload }) => lattice.preview(params['id']!, params['siteId']!, upload),
  }),
  route<RingSegmentsBody>({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/ring-segments',
    summary:
      'The segments that keys of a ring would lead to, and the edits that make those that are missing; nothing is changed',
    who: EVERYONE,
    params: { id: ID, siteId: ID },
    body: Joi.object({
      ssidId: ID,
      recipeId: Joi.string().uuid().allow(null).required(),
      length: Joi.number().integer().min(16).max(29).required(),
      rows: Joi.array()
        .items(Joi.object({ name: Joi.string().min(1).max(200).required(), vlan: Joi.number().integer().required() }))
        .min(1)
        .max(MOST_RING_SEGMENTS)
        .required(),
    }),
    handle: ({ params, body }) => lattice.ringSegments(params['id']!, params['siteId']!, body),
  }),
  route<{ siteIds: string[] }>({
    method: 'post',
    path: '/api/drafts/:id/recipes/:recipeId/stamp',
    summary: 'What stamping a recipe into sites would do; nothing is changed',
    who: EVERYONE,
    params: { id: ID, recipeId: ID },
    body: Joi.object({ siteIds: Joi.array().items(Joi.string().uuid()).min(1).max(2000).required() }),
    handle: ({ params, body }) => lattice.stamp(params['id']!, params['recipeId']!, body.siteIds),
  }),
];
