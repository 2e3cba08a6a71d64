import { MOST_WAIT_SECONDS, type RolloutRequest, type WavePlan } from '@iron-lattice/core/rollout';
import type { TakeRequest } from '@iron-lattice/core/assess';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, whenLeft, type Route } from '../platform/route';
import type { RevisionService } from './revision.service';
import type { RolloutService } from './rollout.service';

/** An address as a socket gives it, IPv4 as such. */
const addressOf = (ip: string): string => ip.replace(/^::ffff:/i, '');

const share = Joi.number().integer().min(1).max(99);
const yes = Joi.boolean().required();
/** How a draft is rolled out in waves. */
const PLAN = {
  canary: Joi.valid('none', 'device', 'kinds', 'site').required(),
  canarySiteId: Joi.string().uuid(),
  by: Joi.valid('together', 'site', 'tag', 'share').required(),
  shares: Joi.array().items(share).max(20).sort({ order: 'ascending' }).unique(),
  waitSeconds: Joi.number().integer().min(0).max(MOST_WAIT_SECONDS).required(),
  checks: Joi.object({
    inStep: yes,
    clients: Joi.number().integer().min(1).max(100).allow(null).required(),
    guarantees: yes,
    suites: yes,
  }).required(),
  within: Joi.string().max(400),
  onFailure: Joi.valid('pause', 'go-back').required(),
  forSilent: yes,
} satisfies Record<keyof WavePlan, unknown>;

const number = Joi.number().integer().min(0).max(1_000_000_000);

export const rolloutRoutes = (rollouts: RolloutService, revisions: RevisionService): Route[] => [
  route({
    method: 'get',
    path: '/api/rollouts',
    shared: true,
    summary: 'Rollouts, newest first',
    who: EVERYONE,
    handle: () => rollouts.list(),
  }),
  route({
    method: 'get',
    path: '/api/rollouts/:id',
    shared: true,
    summary: 'A rollout with the state of each device',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => rollouts.get(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/rollout-check',
    summary:
      'What rolling a draft out comes to: how many devices are told, and what stands against it: errors, guarantees broken, who would be cut off',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params, context }) => rollouts.check(params['id']!, addressOf(context.ip)),
  }),
  route<RolloutRequest>({
    method: 'post',
    path: '/api/rollouts',
    summary: 'Roll a draft out',
    who: CHANGERS,
    status: 201,
    body: Joi.object({
      draftId: ID,
      head: Joi.number().integer().min(0),
      despiteErrors: Joi.boolean().default(false),
      putRight: Joi.boolean(),
      reason: Joi.string().max(400).allow(''),
      sites: Joi.array().items(Joi.string().max(200)).max(2000),
      devices: Joi.number().integer().min(0).max(1_000_000),
      waves: Joi.object(PLAN),
    }),
    handle: ({ body, caller, context }) => rollouts.start(body, caller.id, addressOf(context.ip), whenLeft(context)),
  }),
  route({
    method: 'post',
    path: '/api/rollouts/:id/cancel',
    summary: 'Go back with a rollout: put back all that was told',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => rollouts.ask(params['id']!, 'back', caller.id),
  }),
  route({
    method: 'post',
    path: '/api/rollouts/:id/pause',
    summary: 'Pause a rollout at the device that is told now',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => rollouts.ask(params['id']!, 'pause', caller.id),
  }),
  route({
    method: 'post',
    path: '/api/rollouts/:id/stop',
    summary: 'Stop a rollout here: sites told as a whole stay so, those half told are put back, the others are behind',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => rollouts.ask(params['id']!, 'stop', caller.id),
  }),
  route({
    method: 'post',
    path: '/api/rollouts/:id/go-on',
    summary: 'Go on with a rollout that is paused',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => rollouts.goOn(params['id']!, caller.id),
  }),
  route<WavePlan>({
    method: 'post',
    path: '/api/drafts/:id/waves',
    summary: 'The waves in which a draft would be rolled out',
    who: EVERYONE,
    params: { id: ID },
    body: Joi.object(PLAN),
    handle: ({ params, body }) => rollouts.foreseen(params['id']!, body),
  }),
  route({
    method: 'get',
    path: '/api/revisions',
    summary: 'Revisions, newest first; 200 at once',
    who: EVERYONE,
    query: { before: number },
    handle: ({ query }) => revisions.list(query['before'] === undefined ? undefined : Number(query['before'])),
  }),
  route({
    method: 'get',
    path: '/api/revision-comparison',
    shared: true,
    summary: 'Two revisions beside each other; 0 is how the estate was founded',
    who: EVERYONE,
    query: { from: number.required(), to: number.required() },
    handle: ({ query }) => revisions.compare(Number(query['from']), Number(query['to'])),
  }),
  route({
    method: 'get',
    path: '/api/revision-comparison/sites/:siteId',
    shared: true,
    summary: 'One site in two revisions: objects, documents and lines, with the devices that there are now',
    who: EVERYONE,
    params: { siteId: ID },
    query: { from: number.required(), to: number.required() },
    handle: ({ params, query }) => revisions.compareSite(Number(query['from']), Number(query['to']), params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/compare/:other',
    shared: true,
    summary: 'A draft beside another one: what sites share, and the sites that say something else in the other',
    who: EVERYONE,
    params: { id: ID, other: ID },
    handle: ({ params }) => revisions.compareDrafts(params['id']!, params['other']!),
  }),
  route({
    method: 'get',
    path: '/api/drafts/:id/compare/:other/sites/:siteId',
    shared: true,
    summary: 'One site in two drafts: objects, documents and lines, with the devices that there are now',
    who: EVERYONE,
    params: { id: ID, other: ID, siteId: ID },
    handle: ({ params }) => revisions.compareDraftsAt(params['id']!, params['other']!, params['siteId']!),
  }),
  route<TakeRequest>({
    method: 'post',
    path: '/api/drafts/:id/take',
    summary: 'Make edits of another draft in this one too; what clashes is left, and told',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({
      from: ID,
      only: Joi.array().items(Joi.number().integer().min(1)).min(1).max(2000),
      despite: Joi.boolean(),
    }),
    handle: ({ params, body, caller }) => revisions.take(params['id']!, body, caller.id),
  }),
  route<{ revision: number; siteId: string | null }>({
    method: 'post',
    path: '/api/drafts/:id/back',
    summary: 'Put into a draft what makes a site, or the whole estate, what it was in a revision',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ revision: number.required(), siteId: ID.allow(null) }),
    handle: ({ params, body, caller }) => revisions.back(params['id']!, body.revision, body.siteId, caller.id),
  }),
];
