import type { EntryTestRequest } from '@iron-lattice/core/entry';
import { METHODS } from '@iron-lattice/core/radius';
import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, ID, MAC, route, type Route } from '../platform/route';
import type { EntryTestService } from './entry-test.service';

export const entryRoutes = (tests: EntryTestService): Route[] => [
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
