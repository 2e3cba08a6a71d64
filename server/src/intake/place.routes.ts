import { Joi } from '@iron-lattice/core/schema';
import { CHANGERS, EVERYONE, ID, route, type Route } from '../platform/route';
import type { DeviceService } from './device.service';
import type { PlaceService } from './place.service';

/** A device's place: replacing, moving and releasing it, each said beforehand. */
export const placeRoutes = (places: PlaceService, devices: DeviceService): Route[] => [
  route({
    method: 'get',
    path: '/api/devices/:id/leftovers',
    summary: 'What its site would be left with without a device',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => places.leftovers(params['id']!),
  }),
  route({
    method: 'get',
    path: '/api/devices/:id/replacements',
    summary: 'Calling boxes that could take a device’s place, and what would be lost with each',
    who: EVERYONE,
    params: { id: ID },
    handle: ({ params }) => places.candidates(params['id']!),
  }),
  route<{ serial: string; despiteLosses: boolean }>({
    method: 'post',
    path: '/api/devices/:id/replace',
    summary: 'Let a calling box take a device’s place',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ serial: Joi.string().trim().max(40).required(), despiteLosses: Joi.boolean().required() }),
    handle: async ({ params, body, caller }) => {
      await places.replace(params['id']!, body.serial, body.despiteLosses, caller.id);
      return devices.get(params['id']!);
    },
  }),
  route<{ siteId: string }>({
    method: 'post',
    path: '/api/devices/:id/move',
    summary: 'Take a device to another site',
    who: CHANGERS,
    params: { id: ID },
    body: Joi.object({ siteId: ID }),
    handle: async ({ params, body, caller }) => {
      await places.move(params['id']!, body.siteId, caller.id);
      return devices.get(params['id']!);
    },
  }),
  route({
    method: 'post',
    path: '/api/devices/:id/release',
    summary: 'Let a device go, back to factory state',
    who: CHANGERS,
    params: { id: ID },
    handle: ({ params, caller }) => places.release(params['id']!, caller.id),
  }),
];
