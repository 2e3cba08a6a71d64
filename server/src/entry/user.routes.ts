import { randomUUID } from 'node:crypto';
import { MOST_USERS, userKey, type Answering, type UserFields, type UsersView } from '@iron-lattice/core/entry';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import type { Bus } from '../platform/bus';
import { CHANGERS, EVERYONE, ID, MAC, route, whenLeft, type Route } from '../platform/route';
import type { AttemptLimits } from '../session/attempt-limits';
import type { UserSitesService } from './user-sites.service';
import type { UserListService } from './user-list.service';
import type { UserChange, UserService } from './user.service';

/** Octets of many users at once. */
const MOST_OCTETS = 12_000_000;

const ids = Joi.object({ ids: Joi.array().items(Joi.string().uuid()).min(1).max(MOST_USERS).required() });
const fields = Joi.object({
  name: Joi.string().max(1000),
  groups: Joi.array().items(Joi.string().max(200).allow('')).max(100),
  until: Joi.string().max(20).allow(null),
  most: Joi.number().allow(null),
  off: Joi.boolean(),
  note: Joi.string().max(4000).allow(''),
} satisfies Shapes<UserFields>);
const password = Joi.string().max(1000);

/** Users that the controller keeps. @param answering how its own RADIUS server fares. */
export const userRoutes = (
  users: UserService,
  lists: UserListService,
  answering: () => Answering,
  attempts: AttemptLimits,
  bus: Bus,
  sites: UserSitesService,
): Route[] => [
  route({
    method: 'get',
    path: '/api/drafts/:id/users/:user/sites',
    summary: 'What a user that the controller keeps would get at each site, by a draft',
    who: EVERYONE,
    params: { id: ID, user: ID },
    handle: ({ params }) => sites.at(params['id']!, params['user']!),
  }),
  route({
    method: 'get',
    path: '/api/users',
    summary: 'Users that the controller keeps, without their passwords, and whether it answers for them',
    who: EVERYONE,
    shared: true,
    handle: async (): Promise<UsersView> => ({ users: await users.list(), answering: answering() }),
  }),
  route({
    method: 'post',
    path: '/api/users',
    summary: 'Make users, all or none: a list of them as JSON; passwords that were drawn are told this once',
    who: CHANGERS,
    query: { token: Joi.string().uuid() },
    upload: MOST_OCTETS,
    status: 201,
    handle: async ({ upload, caller, query, context }) => {
      const made = await lists.read(upload);
      const token = query['token'] ?? randomUUID();
      const said = (done: number): void => {
        bus.send('live', { type: 'users-made', token, done, of: made.length }).catch(() => {}); // who waits sees the end
      };
      return users.add(made, caller.id, said, whenLeft(context));
    },
  }),
  route({
    method: 'post',
    path: '/api/user-list',
    summary: 'Look at a list of users (CSV or XLSX), row by row; nothing is made',
    who: CHANGERS,
    upload: MOST_OCTETS,
    handle: ({ upload }) => lists.preview(upload),
  }),
  route<UserChange>({
    method: 'patch',
    path: '/api/users/:id',
    summary: 'Change a user at once: the version that was seen, and what is to be',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ version: Joi.number().integer().required(), to: fields.required() }),
    handle: ({ params, body, caller }) => users.set(params['id']!, body, caller.id),
  }),
  route<{ password: string }>({
    method: 'post',
    path: '/api/users/:id/password',
    summary: 'Give a user another password; an empty one is drawn, and told this once',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ password: password.allow('').required() }),
    handle: async ({ params, body, caller }) => ({
      drawn: await users.setPassword(params['id']!, body.password, caller.id),
    }),
  }),
  route<{ mac?: string }>({
    method: 'post',
    path: '/api/users/:id/forget-devices',
    summary: 'Forget devices that a user came with, so that others may',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ mac: MAC }),
    handle: ({ params, body, caller }) => users.forgetDevices(params['id']!, body.mac, caller.id),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/users/remove',
    summary: 'Take users away: they are let in no more; for a day they can be brought back',
    who: CHANGERS,
    body: ids,
    handle: ({ body, caller }) => users.remove(body.ids, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/removed-users',
    summary: 'Users that were taken away, and can be brought back for a day; the latest first',
    who: EVERYONE,
    handle: () => users.removed(),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/users/restore',
    summary: 'Bring users back that were taken away',
    who: CHANGERS,
    body: ids,
    handle: ({ body, caller }) => users.restore(body.ids, caller.id),
  }),
  route<{ name: string; password: string; next: string }>({
    method: 'post',
    path: '/api/own-password',
    summary: 'A user of the network changes their own password, by the one they have',
    who: 'anyone',
    body: Joi.object({
      name: Joi.string().max(1000).required(),
      password: password.required(),
      next: password.required(),
    }),
    handle: ({ body, context }) =>
      attempts.guard(`user ${userKey(body.name)}`, context.ip, () => users.change(body.name, body.password, body.next)),
  }),
];
