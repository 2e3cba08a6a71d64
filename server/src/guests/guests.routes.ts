import {
  GUEST_WAYS,
  readContact,
  type Contact,
  MOST_CODE,
  LEAST_CODE,
  MOST_NEW_CODES,
  type CodesView,
  type NewCodes,
} from '@iron-lattice/core/guests';
import { LEAST_VISIT, MOST_VISIT } from '@iron-lattice/core/intent';
import { GUEST_SECURITIES, type GuestNetworkWish } from '@iron-lattice/core/lattice';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import type { CapPair, Caps } from '@iron-lattice/core/traffic';
import { CHANGERS, EVERYONE, ID, MAC, route, type Route } from '../platform/route';
import { MOST_ADDRESS } from '@iron-lattice/core/base';
import { AppError } from '../platform/app-error';
import type { CodeLetters } from './code-letters';
import type { CodeListService } from './code-list.service';
import type { CodeService } from './code.service';
import type { GuestNetworkService } from './guest-network.service';
import type { VisitList } from './visit-list';
import type { VisitService } from './visit.service';

/** Whom a code is sent to: a mail address, or a phone number. */
export const SEND_TO = Joi.object({ to: Joi.string().max(MOST_ADDRESS).required() });

/** @throws AppError `code.refused` where it is neither. */
export function contactOf(text: string): Contact {
  const contact = readContact(text);
  if (contact) return contact;
  const message = 'Write a mail address, or a phone number with its country, beginning with +.';
  throw new AppError('code.refused', message, [{ code: 'code.to', message, field: 'to' }]);
}

/** Sites that a code opens, and that get a guest network at once. */
const [MOST_SITES, MOST_NETWORK_SITES] = [1000, 50];
/** Octets of a list of codes. */
const MOST_LIST = 8_000_000;
/** Codes, and visits, of one request. */
const MOST_IDS = 10_000;
const ids = Joi.array().items(Joi.string().uuid()).min(1).max(MOST_IDS).unique().required();
const minutes = Joi.number().integer().min(LEAST_VISIT).max(MOST_VISIT).required();

/** Sites that a code opens; null: wherever its portal is. */
const sitesOpened = Joi.array().items(Joi.string().uuid()).min(1).max(MOST_SITES).unique().allow(null).required();

const asked = Joi.object({
  portalId: ID,
  count: Joi.number().integer().min(1).max(MOST_NEW_CODES).required(),
  name: Joi.string().max(400).allow('').required(),
  runs: Joi.valid('made', 'used').required(),
  minutes,
  useBy: Joi.string().isoDate().max(40).allow(null).required(),
  most: Joi.number().integer().allow(null).required(),
  siteIds: sitesOpened,
  length: Joi.number().integer().min(LEAST_CODE).max(MOST_CODE),
  code: Joi.string().max(40),
} satisfies Shapes<NewCodes>);

const pair = Joi.object({
  down: Joi.number().allow(null),
  up: Joi.number().allow(null),
} satisfies Shapes<CapPair>).allow(null);
const wish = Joi.object({
  name: Joi.string().max(200).allow('').required(),
  siteIds: Joi.array().items(Joi.string().uuid()).max(MOST_NETWORK_SITES).unique().required(),
  security: Joi.valid(...GUEST_SECURITIES).required(),
  bands: Joi.array()
    .items(Joi.valid('2.4', '5', '6'))
    .min(1)
    .max(3)
    .unique()
    .required(),
  ways: Joi.array()
    .items(Joi.valid(...GUEST_WAYS))
    .min(1)
    .max(GUEST_WAYS.length)
    .unique()
    .required(),
  visit: Joi.number().required(),
  hours: Joi.string().uuid().allow(null).required(),
  caps: Joi.object({ client: pair, all: pair, burst: Joi.number().allow(null) } satisfies Shapes<Caps>)
    .allow(null)
    .required(),
  dns: Joi.array().items(Joi.string().max(64)).max(8).unique().required(),
} satisfies Shapes<GuestNetworkWish>);

/** A guest network in one go. */
export const guestNetworkRoutes = (networks: GuestNetworkService): Route[] => [
  route<GuestNetworkWish>({
    method: 'post',
    path: '/api/drafts/:id/guest-network',
    summary: 'What a guest network would be made of, and the edits that make it; nothing is changed',
    who: CHANGERS,
    params: { id: ID },
    body: wish,
    handle: ({ params, body }) => networks.compose(params['id']!, body),
  }),
];

/** Visit codes and visits. */
/** @param portalUrl where guests sign in. */
export const guestRoutes = (
  codes: CodeService,
  visits: VisitService,
  list: VisitList,
  lists: CodeListService,
  portalUrl: () => string,
  letters: CodeLetters,
): Route[] => [
  route<{ to: string }>({
    method: 'post',
    path: '/api/codes/:id/send',
    summary: 'Send a visit code to somebody by mail or text message; says what the server or the gateway said',
    who: CHANGERS,
    params: { id: ID },
    body: SEND_TO,
    handle: ({ params, body, caller }) => letters.code(params['id']!, contactOf(body.to), caller.id),
  }),
  route({
    method: 'get',
    path: '/api/portals/:portalId/codes',
    summary: 'Visit codes of a portal, the latest first, without themselves',
    who: EVERYONE,
    params: { portalId: ID },
    shared: true,
    handle: async ({ params }): Promise<CodesView> => ({
      ...(await codes.list(params['portalId']!)),
      portalUrl: portalUrl(),
    }),
  }),
  route({
    method: 'get',
    path: '/api/codes/:id/open-visits',
    summary: 'How many visits that began with a code go on, by site',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => codes.openVisits(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/portal-address',
    summary: 'Where guests sign in, without the last slash; empty: nowhere yet',
    who: EVERYONE,
    handle: async () => ({ url: portalUrl() }),
  }),
  route<NewCodes>({
    method: 'post',
    path: '/api/codes',
    summary: 'Make visit codes, all or none; the answer has the codes themselves',
    who: CHANGERS,
    body: asked,
    status: 201,
    handle: async ({ body, caller }) => ({ codes: await codes.make(body, caller.id) }),
  }),
  route({
    method: 'post',
    path: '/api/portals/:portalId/code-list',
    summary: 'Look at a list of visit codes (CSV or XLSX), row by row; nothing is made',
    who: CHANGERS,
    params: { portalId: ID },
    upload: MOST_LIST,
    handle: ({ params, upload }) => lists.preview(params['portalId']!, upload),
  }),
  route({
    method: 'post',
    path: '/api/portals/:portalId/codes',
    summary: 'Make the visit codes of a list, all or none: as JSON; the answer has the codes themselves',
    who: CHANGERS,
    params: { portalId: ID },
    upload: MOST_LIST,
    status: 201,
    handle: async ({ params, upload, caller }) => ({ codes: await lists.make(params['portalId']!, upload, caller.id) }),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/codes/reveal',
    summary: 'Show visit codes themselves; noted in the journal',
    who: CHANGERS,
    body: Joi.object({ ids }),
    handle: ({ body, caller }) => codes.reveal(body.ids, caller.id),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/codes/revoke',
    summary: 'Take visit codes back; visits that began with them end',
    who: CHANGERS,
    body: Joi.object({ ids }),
    handle: async ({ body, caller }) => visits.say(await codes.revoke(body.ids, true, caller.id)),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/codes/restore',
    summary: 'Bring visit codes back that were taken back',
    who: CHANGERS,
    body: Joi.object({ ids }),
    handle: async ({ body, caller }) => visits.say(await codes.revoke(body.ids, false, caller.id)),
  }),
  route<{ ids: string[]; minutes: number }>({
    method: 'post',
    path: '/api/codes/extend',
    summary: 'Have visit codes last longer, and the visits that began with them',
    who: CHANGERS,
    body: Joi.object({ ids, minutes }),
    handle: async ({ body, caller }) => visits.say(await codes.extend(body.ids, body.minutes, caller.id)),
  }),
  route<{ ids: string[]; siteIds: string[] | null }>({
    method: 'post',
    path: '/api/codes/move',
    summary: 'Have visit codes open other sites; visits that began with one where it opens nothing any more end',
    who: CHANGERS,
    body: Joi.object({ ids, siteIds: sitesOpened }),
    handle: async ({ body, caller }) => visits.say(await codes.move(body.ids, body.siteIds, caller.id)),
  }),
  route({
    method: 'get',
    path: '/api/visits',
    summary: 'Visits of guests, the latest first: all, or those whose device, SSID or code holds a text',
    who: EVERYONE,
    shared: true,
    query: { siteId: Joi.string().uuid(), find: Joi.string().max(100) },
    handle: ({ query: { siteId, find = '' } }) => list.of(siteId === undefined ? null : [siteId], { find }),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/visits/end',
    summary: 'End visits at once',
    who: CHANGERS,
    body: Joi.object({ ids }),
    handle: ({ body, caller }) => visits.end(body.ids, caller.id),
  }),
  route<{ ids: string[]; minutes: number }>({
    method: 'post',
    path: '/api/visits/extend',
    summary: 'Have visits last longer',
    who: CHANGERS,
    body: Joi.object({ ids, minutes }),
    handle: ({ body, caller }) => visits.extend(body.ids, body.minutes, caller.id),
  }),
  route<{ on: boolean }>({
    method: 'post',
    path: '/api/guests/:mac/block',
    summary: 'Keep a device out of every portal, or let it try again; its visits end with that',
    who: CHANGERS,
    params: { mac: MAC.required() },
    body: Joi.object({ on: Joi.boolean().required() }),
    handle: ({ params, body, caller }) => visits.block(params['mac']!, body.on, caller.id),
  }),
];
