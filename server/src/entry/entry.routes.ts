import type { EntryTestRequest, SessionChangeRequest } from '@iron-lattice/core/entry';
import { METHODS } from '@iron-lattice/core/radius';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, MAC, route, type Route } from '../platform/route';
import type { ClientNamer } from '../roster/client-names-offer';
import type { RosterService } from '../roster/roster.service';
import type { EntryTestService } from './entry-test.service';
import type { FailureBook } from './failure-book';
import { serverHealth } from './server-health';
import type { SessionChangeService } from './session-change.service';
import type { TakenBook } from './taken-book';
import { unknownClients } from './unknown-clients';

/** What routes of sessions are made of. */
export interface OfSessions {
  readonly changes: SessionChangeService;
  readonly taken: TakenBook;
  readonly failures: FailureBook;
  /** What people call clients. */
  readonly called: ClientNamer;
}

export const entryRoutes = (tests: EntryTestService, rosters: RosterService, sessions: OfSessions): Route[] => [
  route({
    method: 'get',
    path: '/api/sites/:siteId/taken',
    summary: 'What clients of a site took since they came, in octets, as devices counted last',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => sessions.taken.at(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/entry-failures',
    summary: 'Who was known to nobody or turned away at a site in the last seven days, and why; the latest first',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => sessions.failures.at(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/server-health',
    summary: 'Which RADIUS servers answered the devices of a site when they asked last',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => serverHealth(rosters, params['siteId']!),
  }),
  route<SessionChangeRequest>({
    method: 'post',
    path: '/api/devices/:id/session-changes',
    summary: 'End a session, or change its class until its client is asked for anew (RFC 5176)',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ mac: MAC.required(), classId: ID.allow(null).required() }),
    handle: ({ params, body, caller }) => sessions.changes.change(params['id']!, body, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/unknown-clients',
    summary: 'Clients of a site that are asked who they are and that nobody knows, and why',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => unknownClients(rosters, sessions.called, params['siteId']!),
  }),
  route<EntryTestRequest>({
    method: 'post',
    path: '/api/drafts/:id/radius/:server/test',
    summary: 'Have a device ask a RADIUS server of a draft for somebody; changes nothing, keeps nothing',
    who: CHANGERS,
    params: { id: ID, server: ID },
    body: Joi.object({
      deviceId: ID,
      method: Joi.valid(...METHODS).required(),
      user: Joi.string().max(253).required(),
      password: Joi.string().max(128).allow('').required(),
      mac: MAC,
      at: Joi.string().max(64),
    }),
    handle: ({ params, body }) => tests.test(params['id']!, params['server']!, body),
  }),
];
