import { KEPT_DAYS, MOST_REGISTERED_TOLD, type RegisterKeeping } from '@iron-lattice/core/entry';
import { Joi, type Shapes } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, MAC, route, type Route } from '../../platform/route';
import type { KeepingService } from './keeping.service';
import type { ClientSaid, RegisterService } from './register.service';

/** Characters of what is looked for; and of a text, before it is looked at. */
const [MOST_WORDS, MOST_TEXT] = [100, 2000];
/** Sites, and SSIDs, of whose clients nothing is kept. */
const MOST_NOTHING = 2000;

const said = Joi.object({
  name: Joi.string().max(MOST_TEXT).allow('').required(),
  note: Joi.string().max(MOST_TEXT).allow('').required(),
} satisfies Shapes<ClientSaid>).required();
const ids = Joi.array().items(Joi.string().uuid()).unique().max(MOST_NOTHING).required();
const keeping = Joi.object({
  days: Joi.number().integer().min(KEPT_DAYS.least).max(KEPT_DAYS.most).required(),
  siteIds: ids,
  ssidIds: ids,
} satisfies Shapes<RegisterKeeping>);

/** Everybody who was seen, and what of that is kept. */
export const registerRoutes = (register: RegisterService, kept: KeepingService): Route[] => [
  route({
    method: 'get',
    path: '/api/clients',
    summary: 'Everybody who was seen and is not erased: those seen last, and how many there are',
    who: EVERYONE,
    shared: true,
    query: { words: Joi.string().max(MOST_WORDS).allow(''), siteId: Joi.string().uuid() },
    handle: ({ query }) => register.list({ words: query['words'], siteId: query['siteId'] }),
  }),
  route({
    method: 'get',
    path: '/api/clients/:mac/stays',
    summary: 'Where a client was and as what, the latest first',
    who: EVERYONE,
    params: { mac: MAC.required() },
    handle: ({ params }) => register.stays(params['mac']!),
  }),
  route<{ was: ClientSaid; to: ClientSaid }>({
    method: 'patch',
    path: '/api/clients/:mac',
    summary: 'Give a client a name and a note, at once: what was seen there, and what is to be',
    who: CHANGERS,
    params: { mac: MAC.required() },
    body: Joi.object({ was: said, to: said }),
    handle: ({ params, body, caller }) => register.say(params['mac']!, body.was, body.to, caller.id),
  }),
  route<{ macs: string[] }>({
    method: 'post',
    path: '/api/clients/forget',
    summary: 'Erase clients with all that is kept of them; whoever comes again is new',
    who: CHANGERS,
    body: Joi.object({ macs: Joi.array().items(MAC).min(1).max(MOST_REGISTERED_TOLD).required() }),
    handle: ({ body, caller }) => register.forget(body.macs, caller.id),
  }),
  route({
    method: 'get',
    path: '/api/register-keeping',
    summary: 'For how long clients are kept, and where nothing of them is',
    who: EVERYONE,
    handle: () => kept.now(),
  }),
  route<RegisterKeeping>({
    method: 'post',
    path: '/api/register-keeping/look',
    summary: 'How many clients would be erased at once if that were kept; nothing is changed',
    who: CHANGERS,
    body: keeping,
    handle: ({ body }) => kept.erases(body),
  }),
  route<RegisterKeeping>({
    method: 'post',
    path: '/api/register-keeping',
    summary: 'Keep clients so from now on, and erase at once what is not to be kept',
    who: CHANGERS,
    body: keeping,
    handle: ({ body, caller }) => kept.set(body, caller.id),
  }),
];
