import Joi from 'joi';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { RolloutService } from './rollout.service';

export const rolloutRoutes = (rollouts: RolloutService): Route[] => [
  route({
    method: 'get',
    path: '/api/rollouts',
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
  route<{ draftId: string; despiteErrors: boolean }>({
    method: 'post',
    path: '/api/rollouts',
    summary: 'Roll a draft out',
    who: CHANGERS,
    status: 201,
    body: Joi.object({ draftId: ID, despiteErrors: Joi.boolean().default(false) }),
    handle: ({ body, caller }) => rollouts.start(body.draftId, body.despiteErrors, caller.id),
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
