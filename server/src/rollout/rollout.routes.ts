import type { RolloutRequest } from '@iron-lattice/core/rollout';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { RolloutService } from './rollout.service';

/** An address as a socket gives it, IPv4 as such. */
const addressOf = (ip: string): string => ip.replace(/^::ffff:/i, '');

export const rolloutRoutes = (rollouts: RolloutService): Route[] => [
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
      despiteErrors: Joi.boolean().default(false),
      reason: Joi.string().max(400).allow(''),
      sites: Joi.array().items(Joi.string().max(200)).max(2000),
      devices: Joi.number().integer().min(0).max(1_000_000),
    }),
    handle: ({ body, caller, context }) => rollouts.start(body, caller.id, addressOf(context.ip)),
  }),
  route({
    method: 'post',
    path: '/api/rollouts/:id/cancel',
    summary: 'Stop a rollout and put back what was told',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => rollouts.cancel(params['id']!, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/revisions',
    summary: 'Revisions, newest first',
    who: EVERYONE,
    handle: () => rollouts.revisions(),
  }),
];
