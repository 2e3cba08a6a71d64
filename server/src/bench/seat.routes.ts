import type { KeptProbe, SeatQuestion, SuiteQuestion } from '@iron-lattice/core/bench';
import { credentialsShape } from '@iron-lattice/core/line';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, MAC, route, type Route } from '../platform/route';
import type { SeatService } from './seat.service';

const probe = {
  ssid: Joi.string().max(32),
  port: Joi.string().max(16),
  mac: MAC,
  key: Joi.string().uuid(),
  does: Joi.valid('ping', 'trace', 'lookup', 'connect').required(),
  protocol: Joi.valid('tcp', 'udp'),
  number: Joi.number().integer().min(0).max(65_535),
};
const place = {
  deviceId: ID,
  target: Joi.alternatives(Joi.string().ip({ cidr: 'forbidden' }), Joi.string().hostname()).required(),
};
const tried = {
  ...place,
  probe: Joi.object({ ...probe, entry: credentialsShape, gives: Joi.string().min(8).max(64) })
    .xor('ssid', 'port')
    .required(),
};
/** What is kept says nothing of who somebody is, nor of a key that it gives: it would keep a password. */
const kept = { ...place, probe: Joi.object(probe).xor('ssid', 'port').required() };

export const seatRoutes = (seats: SeatService): Route[] => [
  route<SeatQuestion>({
    method: 'post',
    path: '/api/drafts/:id/sites/:siteId/seat-tries',
    summary: 'Have a pretend client on an SSID or a port try something, beside what the draft says of it',
    who: CHANGERS,
    params: { id: ID, siteId: ID },
    body: Joi.object(tried),
    handle: ({ params, body }) => seats.try(params['id']!, params['siteId']!, body),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/probes',
    summary: 'A site’s kept probes',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => seats.probes(params['siteId']!),
  }),
  route<Omit<KeptProbe, 'id'>>({
    method: 'post',
    path: '/api/sites/:siteId/probes',
    summary: 'Keep a probe under a name; one of the same name moves',
    who: CHANGERS,
    status: 201,
    params: { siteId: ID },
    body: Joi.object({
      name: Joi.string().trim().min(1).max(60).required(),
      seat: Joi.object({
        deviceId: ID,
        ssid: Joi.string().max(32),
        port: Joi.string().max(16),
        mac: MAC,
        key: Joi.string().uuid(),
      })
        .xor('ssid', 'port')
        .required(),
    }),
    handle: ({ params, body }) => seats.keepProbe(params['siteId']!, body),
  }),
  route({
    method: 'delete',
    path: '/api/sites/:siteId/probes/:probeId',
    summary: 'Drop a kept probe',
    who: CHANGERS,
    params: { siteId: ID, probeId: ID },
    handle: ({ params }) => seats.dropProbe(params['siteId']!, params['probeId']!),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/suite',
    summary: 'A site’s kept questions, and the last times they were asked',
    who: EVERYONE,
    params: { siteId: ID },
    handle: async ({ params }) => ({
      questions: await seats.questions(params['siteId']!),
      runs: await seats.runs(params['siteId']!),
    }),
  }),
  route<Omit<SuiteQuestion, 'id'>>({
    method: 'post',
    path: '/api/sites/:siteId/suite',
    summary: 'Keep a question with the answer it should have',
    who: CHANGERS,
    status: 201,
    params: { siteId: ID },
    body: Joi.object({ ...kept, expects: Joi.valid('answer', 'none').required() }),
    handle: ({ params, body }) => seats.keep(params['siteId']!, body),
  }),
  route({
    method: 'delete',
    path: '/api/sites/:siteId/suite/:questionId',
    summary: 'Drop a kept question',
    who: CHANGERS,
    params: { siteId: ID, questionId: ID },
    handle: ({ params }) => seats.drop(params['siteId']!, params['questionId']!),
  }),
  route({
    method: 'post',
    path: '/api/sites/:siteId/suite-runs',
    summary: 'Ask all kept questions now',
    who: CHANGERS,
    status: 201,
    params: { siteId: ID },
    handle: ({ params }) => seats.run(params['siteId']!),
  }),
];
