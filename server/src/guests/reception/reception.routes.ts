import {
  MOST_CODE_DEVICES,
  MOST_DESK_CODES,
  MOST_RECEPTION_SITES,
  type DeskCodes,
  type ReceptionistChange,
  type ReceptionistFields,
} from '@iron-lattice/core/guests';
import { LEAST_VISIT, MOST_VISIT } from '@iron-lattice/core/intent';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, RECEPTION, route, type Route } from '../../platform/route';
import type { CodeLetters } from '../code-letters';
import { contactOf, SEND_TO } from '../guests.routes';
import type { CodeService } from '../code.service';
import type { VisitService } from '../visit.service';
import type { DeskService } from './desk.service';
import type { ReceptionistService } from './receptionist.service';

/** Codes, and visits, of one request of reception. */
const MOST_IDS = 500;
const ids = Joi.array().items(Joi.string().uuid()).min(1).max(MOST_IDS).unique().required();
const minutes = Joi.number().integer().min(LEAST_VISIT).max(MOST_VISIT).required();
const fields = Joi.object({
  name: Joi.string().max(400).allow('').required(),
  email: Joi.string().max(200).allow('').required(),
  siteIds: Joi.array().items(Joi.string().uuid()).max(MOST_RECEPTION_SITES).unique().required(),
} satisfies Shapes<ReceptionistFields>);

const some = fields.fork(['name', 'email', 'siteIds'], (each) => each.optional());

/** Who sits at receptions: seen by everybody who may look, changed by who may change. */
export const receptionistRoutes = (receptionists: ReceptionistService): Route[] => [
  route({
    method: 'get',
    path: '/api/receptionists',
    summary: 'People at receptions',
    who: EVERYONE,
    handle: () => receptionists.list(),
  }),
  route<ReceptionistFields>({
    method: 'post',
    path: '/api/receptionists',
    summary: 'Add somebody at a reception; the answer has a password that is told this once',
    who: CHANGERS,
    body: fields,
    status: 201,
    handle: ({ body, caller }) => receptionists.add(body, caller.id),
  }),
  route<ReceptionistChange>({
    method: 'patch',
    path: '/api/receptionists/:id',
    summary: 'Change who somebody at a reception is, and which sites’ guests they look after',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ from: some.required(), to: some.required() }),
    handle: ({ params, body, caller }) => receptionists.set(params['id']!, body, caller.id),
  }),
  route<object>({
    method: 'post',
    path: '/api/receptionists/:id/password',
    summary: 'Draw a new password for somebody at a reception; their sessions end',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({}),
    handle: ({ params, caller }) => receptionists.renew(params['id']!, caller.id),
  }),
  route({
    method: 'delete',
    path: '/api/receptionists/:id',
    summary: 'Take somebody at a reception away; their sessions end, their codes stay',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => receptionists.remove(params['id']!, caller.id),
  }),
];

/** What reception may: codes and visits of its own sites. */
export const deskRoutes = (
  desk: DeskService,
  codes: CodeService,
  visits: VisitService,
  letters: CodeLetters,
): Route[] => [
  route<{ to: string }>({
    method: 'post',
    path: '/api/reception/codes/:id/send',
    summary: 'Send a visit code to somebody by mail or text message; says what the server or the gateway said',
    who: RECEPTION,
    params: { id: ID },
    body: SEND_TO,
    handle: async ({ params, body, caller }) => {
      await desk.mayCodes(caller, [params['id']!]);
      return letters.code(params['id']!, contactOf(body.to), caller.id);
    },
  }),
  route({
    method: 'get',
    path: '/api/reception',
    summary: 'Sites of whoever asks, and the portals there that take codes',
    who: RECEPTION,
    handle: ({ caller }) => desk.view(caller),
  }),
  route({
    method: 'get',
    path: '/api/reception/guests',
    summary: 'Visit codes and visits of the sites of whoever asks, the latest first',
    who: RECEPTION,
    handle: ({ caller }) => desk.guests(caller),
  }),
  route<DeskCodes>({
    method: 'post',
    path: '/api/reception/codes',
    summary: 'Make visit codes for one of the sites of whoever asks; the answer has the codes themselves',
    who: RECEPTION,
    body: Joi.object({
      portalId: ID,
      siteId: ID,
      count: Joi.number().integer().min(1).max(MOST_DESK_CODES).required(),
      name: Joi.string().max(400).allow('').required(),
      minutes,
      most: Joi.number().integer().min(1).max(MOST_CODE_DEVICES).allow(null).required(),
    } satisfies Shapes<DeskCodes>),
    status: 201,
    handle: async ({ body, caller }) => ({ codes: await desk.make(caller, body) }),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/reception/codes/reveal',
    summary: 'Show visit codes themselves; noted in the journal',
    who: RECEPTION,
    body: Joi.object({ ids }),
    handle: async ({ body, caller }) => {
      await desk.mayCodes(caller, body.ids);
      return codes.reveal(body.ids, caller.id);
    },
  }),
  ...([true, false] as const).map((on) =>
    route<{ ids: string[] }>({
      method: 'post',
      path: `/api/reception/codes/${on ? 'revoke' : 'restore'}`,
      summary: on ? 'Take visit codes back; visits that began with them end' : 'Bring visit codes back',
      who: RECEPTION,
      body: Joi.object({ ids }),
      handle: async ({ body, caller }) => {
        await desk.mayCodes(caller, body.ids);
        visits.say(await codes.revoke(body.ids, on, caller.id));
      },
    }),
  ),
  route<{ ids: string[]; minutes: number }>({
    method: 'post',
    path: '/api/reception/codes/extend',
    summary: 'Have visit codes last longer, and the visits that began with them',
    who: RECEPTION,
    body: Joi.object({ ids, minutes }),
    handle: async ({ body, caller }) => {
      await desk.mayCodes(caller, body.ids);
      visits.say(await codes.extend(body.ids, body.minutes, caller.id));
    },
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/reception/visits/end',
    summary: 'End visits at once',
    who: RECEPTION,
    body: Joi.object({ ids }),
    handle: async ({ body, caller }) => {
      await desk.mayVisits(caller, body.ids);
      await visits.end(body.ids, caller.id);
    },
  }),
  route<{ ids: string[]; minutes: number }>({
    method: 'post',
    path: '/api/reception/visits/extend',
    summary: 'Have visits last longer',
    who: RECEPTION,
    body: Joi.object({ ids, minutes }),
    handle: async ({ body, caller }) => {
      await desk.mayVisits(caller, body.ids);
      await visits.extend(body.ids, body.minutes, caller.id);
    },
  }),
];
