import type { DeviceChange, DevicesChange } from '@iron-lattice/core/intake';
import type { ClaimRequest, ExpectRequest } from '@iron-lattice/core/intake';
import { MOST_PURPOSE } from '@iron-lattice/core/intent';
import { Joi } from '@iron-lattice/core/schema';
import type { LineService } from '../line/line.service';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { ClaimService } from './claim.service';
import type { DeviceChangeService } from './device-change.service';
import type { DeviceRowReader } from './device-rows';
import type { DeviceService } from './device.service';
import type { DriftService } from './drift.service';

const claim = Joi.object({
  serials: Joi.array().items(Joi.string().trim().min(1).max(40)).min(1).max(1000).required(),
});
const policy = Joi.valid('leave', 'window', 'at-once');
const tags = Joi.array().items(Joi.string().trim().lowercase().min(1).max(40)).max(50);
const ids = Joi.array().items(Joi.string().uuid()).min(1).max(20_000).required();
const text = Joi.string().max(200).allow('').required();

/** Devices: seeing them, taking them in, and what is said of each. */
export const deviceRoutes = (
  devices: DeviceService,
  rows: DeviceRowReader,
  claims: ClaimService,
  changes: DeviceChangeService,
  drifts: DriftService,
  lines: LineService,
): Route[] => [
  route({
    method: 'get',
    path: '/api/calling',
    shared: true,
    summary: 'Devices that call and are nobody’s yet',
    who: EVERYONE,
    handle: () => devices.list(null),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/devices',
    shared: true,
    summary: 'Devices of a site, with all that is known of them',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => devices.list(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/devices',
    shared: true,
    summary: 'Devices as tables show them: claimed, expected and calling',
    who: EVERYONE,
    query: {
      siteId: Joi.string().uuid(),
      limit: Joi.number().integer().min(1).max(100_000),
      since: Joi.string().pattern(/^\d{1,18}$/),
    },
    handle: ({ query: { siteId, limit, since } }) =>
      rows.rows({ siteId, since, limit: limit === undefined ? undefined : Number(limit) }),
  }),
  route({
    method: 'get',
    path: '/api/devices/:id',
    summary: 'A device',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => devices.get(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/devices/:id/history',
    summary: 'What happened to a device, newest first',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => devices.history(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/devices/:id/difference',
    summary: 'What a device should run against what it runs',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => devices.difference(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/devices/:id/drift',
    summary: 'What somebody changed at a device past this controller, and what of it the draft people work in can say',
    who: EVERYONE,
    params: { id: ID },
    handle: async ({ params }) => ({ drift: await drifts.of(params['id']!) }),
  }),
  route({
    method: 'get',
    path: '/api/devices/:id/proposals',
    summary: 'The next name of the convention and the next free fixed address',
    who: EVERYONE,
    params: { id: ID },
    handle: async ({ params }) => ({
      name: await changes.proposeName(params['id']!),
      ...(await changes.proposeAddress(params['id']!)),
    }),
  }),
  route<DeviceChange>({
    method: 'patch',
    path: '/api/devices/:id',
    summary: 'Change what is said of a device: name, address, light, tags, firmware policy',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({
      version: Joi.number().integer().min(0),
      name: Joi.string().max(80).allow(''),
      fixed: Joi.object({ address: text, length: text, gateway: text, dns: text }).allow(null),
      lightOff: Joi.boolean(),
      purpose: Joi.string().max(MOST_PURPOSE).allow(''),
      tags,
      policy,
    })
      .min(1)
      .with('tags', 'version'),
    handle: async ({ params, body, caller }) => {
      await changes.change(params['id']!, body, caller.id);
      return devices.get(params['id']!);
    },
  }),
  route<DevicesChange>({
    method: 'patch',
    path: '/api/devices',
    summary: 'Change tags or firmware policy of many devices',
    who: CHANGERS,
    body: Joi.object({ deviceIds: ids, addTags: tags, removeTags: tags, policy }),
    handle: ({ body, caller }) => changes.changeMany(body, caller.id),
  }),
  route<ClaimRequest>({
    method: 'post',
    path: '/api/sites/:siteId/claims',
    summary: 'Claim calling devices into a site, all or none',
    who: CHANGERS,
    params: { siteId: ID },
    status: 201,
    body: claim,
    handle: async ({ params, body, caller }) => {
      const claimedIds = await claims.claim(params['siteId']!, body.serials, caller.id);
      return { claimed: await Promise.all(claimedIds.map((id) => devices.get(id))) };
    },
  }),
  route<ClaimRequest>({
    method: 'post',
    path: '/api/sites/:siteId/claim-preview',
    summary: 'Names that a claim would give',
    who: EVERYONE,
    params: { siteId: ID },
    body: claim,
    handle: async ({ params, body }) => ({ names: await claims.preview(params['siteId']!, body.serials) }),
  }),
  route<ExpectRequest>({
    method: 'post',
    path: '/api/sites/:siteId/expected',
    summary: 'Announce a device by its label; one that calls already is claimed',
    who: CHANGERS,
    params: { siteId: ID },
    status: 201,
    body: Joi.object({
      serial: Joi.string()
        .trim()
        .uppercase()
        .pattern(/^[0-9A-Z][0-9A-Z-]{3,31}$/)
        .required(),
      model: Joi.string().max(40),
      mac: Joi.string().pattern(/^([0-9a-f]{2}:){5}[0-9a-f]{2}$/),
      fingerprint: Joi.string().hex().length(16),
    }),
    handle: async ({ params, body, caller }) => {
      const { id, claimed } = await claims.expect(params['siteId']!, body, caller.id);
      return { claimed, device: await devices.get(id) };
    },
  }),
  route<{ deviceIds: string[] }>({
    method: 'post',
    path: '/api/expected/removals',
    summary: 'Take announcements back',
    who: CHANGERS,
    body: Joi.object({ deviceIds: ids }),
    handle: async ({ body, caller }) => claims.unexpect(body.deviceIds, caller.id),
  }),
  route({
    method: 'post',
    path: '/api/devices/:id/retry',
    summary: 'Tell a stuck device its document again',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params }) => lines.retry(params['id']!),
  }),
];
