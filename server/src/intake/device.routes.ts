import type { ClaimRequest } from '@iron-lattice/core/intake';
import Joi from 'joi';
import type { LineService } from '../line/line.service';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { DeviceService } from './device.service';

const claim = Joi.object({
  serials: Joi.array().items(Joi.string().trim().min(1).max(40)).min(1).max(1000).required(),
});

export const deviceRoutes = (devices: DeviceService, lines: LineService): Route[] => [
  route({
    method: 'get',
    path: '/api/calling',
    summary: 'Devices that call and are nobody’s yet',
    who: EVERYONE,
    handle: () => devices.list(null),
  }),
  route({
    method: 'get',
    path: '/api/sites/:siteId/devices',
    summary: 'Devices of a site',
    who: EVERYONE,
    params: { siteId: ID },
    handle: ({ params }) => devices.list(params['siteId']!),
  }),
  route({
    method: 'get',
    path: '/api/devices/:id',
    summary: 'A device',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => devices.get(params['id']!),
  }),
  route<ClaimRequest>({
    method: 'post',
    path: '/api/sites/:siteId/claims',
    summary: 'Claim calling devices into a site, all or none',
    who: CHANGERS,
    params: { siteId: ID },
    status: 201,
    body: claim,
    handle: async ({ params, body, caller }) => ({
      claimed: await devices.claim(params['siteId']!, body.serials, caller.id),
    }),
  }),
  route<ClaimRequest>({
    method: 'post',
    path: '/api/sites/:siteId/claim-preview',
    summary: 'Names that a claim would give',
    who: EVERYONE,
    params: { siteId: ID },
    body: claim,
    handle: async ({ params, body }) => ({ names: await devices.previewClaim(params['siteId']!, body.serials) }),
  }),
  route<{ name: 'locate' | 'ping'; target: string }>({
    method: 'post',
    path: '/api/devices/:id/commands',
    summary: 'Have a device do something and answer',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({
      name: Joi.string().valid('locate', 'ping').required(),
      target: Joi.string().ip({ cidr: 'forbidden' }).allow('').required(),
    }),
    handle: ({ params, body }) => lines.command(params['id']!, body.name, body.target),
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
