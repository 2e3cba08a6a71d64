import type { PortProbe, WalkRequest } from '@iron-lattice/core/bench';
import { credentialsShape } from '@iron-lattice/core/line';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, MAC, route, THEN, type Route } from '../platform/route';
import type { WalkService } from './walk.service';

export const walkRoutes = (walks: WalkService): Route[] => [
  route<WalkRequest>({
    method: 'post',
    path: '/api/walks',
    summary: 'Walk a probe; changes nothing',
    who: EVERYONE,
    body: Joi.object({
      siteId: ID,
      on: Joi.string().valid('draft', 'live').required(),
      draftId: Joi.string().uuid(),
      then: THEN,
      to: Joi.string().ip({ version: 'ipv4', cidr: 'forbidden' }),
      probe: Joi.alternatives(
        Joi.object({
          deviceId: ID,
          port: Joi.string().max(64).required(),
          mac: MAC,
          entry: credentialsShape,
          letIn: Joi.boolean(),
        } satisfies Shapes<PortProbe>),
        Joi.object({
          ssidId: ID,
          apId: ID,
          band: Joi.string().valid('2.4', '5', '6').required(),
          knowsPassphrase: Joi.boolean().required(),
          letIn: Joi.boolean(),
          key: Joi.string().uuid(),
          gives: Joi.string().min(8).max(64),
          old: Joi.boolean(),
          former: Joi.boolean(),
          mac: MAC,
          entry: credentialsShape,
        }),
      ).required(),
    }),
    handle: ({ body, caller }) => walks.walk(body, CHANGERS.includes(caller.role)),
  }),
];
