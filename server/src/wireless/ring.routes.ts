import { Joi } from '@iron-lattice/core/schema';
import type { RingKeyFields } from '@iron-lattice/core/wireless';
import { CHANGERS, EVERYONE, ID, MAC, route, type Route } from '../platform/route';
import type { KeyListService } from './key-list.service';
import type { KeyChange, RingService } from './ring.service';

/** Octets of many keys at once. */
const MOST_OCTETS = 6_000_000;
/** Keys that are taken back, brought back or shown at once. */
const MOST_IDS = 10_000;

const ring = { ssidId: ID };
const ids = Joi.object({ ids: Joi.array().items(Joi.string().uuid()).min(1).max(MOST_IDS).required() });
const moment = Joi.string().max(16).allow(null);
const fields = Joi.object({
  name: Joi.string().max(1000),
  segment: Joi.string().max(200).allow(null),
  accessClass: Joi.string().max(200).allow(null),
  macs: Joi.array().items(MAC).max(1000),
  most: Joi.number().integer().allow(null),
  from: moment,
  until: moment,
  note: Joi.string().max(4000).allow(''),
} satisfies Record<keyof RingKeyFields, unknown>);

/** Keys of rings. @param changed is told of a ring that has keys which are new. */
export const ringRoutes = (rings: RingService, lists: KeyListService, changed: (ssidId: string) => void): Route[] => [
  route({
    method: 'get',
    path: '/api/rings/:ssidId',
    summary: 'The keys of a ring, without themselves, and who gives them',
    who: EVERYONE,
    params: ring,
    shared: true,
    handle: ({ params }) => rings.get(params['ssidId']!),
  }),
  route({
    method: 'post',
    path: '/api/rings/:ssidId/keys',
    summary: 'Make keys, all or none: a list of them as JSON',
    who: CHANGERS,
    params: ring,
    upload: MOST_OCTETS,
    status: 201,
    handle: async ({ params, upload, caller }) => {
      const ids = await rings.add(params['ssidId']!, await lists.read(upload), caller.id);
      changed(params['ssidId']!);
      return { ids };
    },
  }),
  route({
    method: 'post',
    path: '/api/rings/:ssidId/key-list',
    summary: 'Look at a list of keys (CSV or XLSX), row by row; nothing is made',
    who: CHANGERS,
    params: ring,
    upload: MOST_OCTETS,
    handle: ({ params, upload }) => lists.preview(params['ssidId']!, upload),
  }),
  route({
    method: 'get',
    path: '/api/rings/:ssidId/psk-file',
    summary: 'The keys as a wpa_psk_file of hostapd, with the VLAN of each at a site; noted in the journal',
    who: CHANGERS,
    params: ring,
    query: { siteId: ID },
    handle: async ({ params, query, caller, context }) => {
      const text = await lists.pskFile(params['ssidId']!, query['siteId']!, caller.id);
      context.attachment('ring.psk');
      context.type = 'text/plain';
      return text;
    },
  }),
  route<KeyChange>({
    method: 'patch',
    path: '/api/rings/:ssidId/keys/:id',
    summary: 'Change a key: what was seen, and what is to be',
    who: CHANGERS,
    params: { ...ring, id: ID },
    body: Joi.object({ from: fields.required(), to: fields.keys({ key: Joi.string().max(64) }).required() }),
    handle: async ({ params, body, caller }) => {
      await rings.set(params['ssidId']!, params['id']!, body, caller.id);
      if (body.to.key !== undefined) changed(params['ssidId']!);
    },
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/rings/:ssidId/revoke',
    summary: 'Take keys back: whoever is there with one is there no more',
    who: CHANGERS,
    params: ring,
    body: ids,
    handle: ({ params, body, caller }) => rings.revoke(params['ssidId']!, body.ids, caller.id),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/rings/:ssidId/restore',
    summary: 'Bring keys back that were taken back',
    who: CHANGERS,
    params: ring,
    body: ids,
    handle: ({ params, body, caller }) => rings.restore(params['ssidId']!, body.ids, caller.id),
  }),
  route<{ ids: string[] }>({
    method: 'post',
    path: '/api/rings/:ssidId/reveal',
    summary: 'Show keys themselves; noted in the journal',
    who: CHANGERS,
    params: ring,
    body: ids,
    handle: ({ params, body, caller }) => rings.reveal(params['ssidId']!, body.ids, caller.id),
  }),
  route({
    method: 'post',
    path: '/api/rings/:ssidId/keys/:id/forget-devices',
    summary: 'Forget which devices gave a key, so that others may',
    who: CHANGERS,
    params: { ...ring, id: ID },
    handle: ({ params, caller }) => rings.forgetDevices(params['ssidId']!, params['id']!, caller.id),
  }),
];
