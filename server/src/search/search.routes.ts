import type { SearchHit } from '@iron-lattice/core/base';
import { everyNoun } from '@iron-lattice/core/intent';
import { Joi } from '@iron-lattice/core/schema';
import { Op } from 'sequelize';
import { Device } from '../roster/device.model';
import type { IntentService } from '../intent/intent.service';
import { EVERYONE, route, type Route } from '../platform/route';

const MOST = 20;

/** Search over names, MACs, serial numbers and addresses of what is live. */
export const searchRoutes = (intents: IntentService): Route[] => [
  route({
    method: 'get',
    path: '/api/search',
    summary: 'Find sites, devices, segments, SSIDs and access classes',
    who: EVERYONE,
    query: { q: Joi.string().trim().min(1).max(80).required() },
    handle: async ({ query }) => {
      const wanted = query['q']!.toLowerCase();
      const pattern = `%${wanted.replace(/[\\%_]/g, '\\$&')}%`;
      const fields = ['name', 'serial', 'mac', 'model'].map((name) => ({ [name]: { [Op.iLike]: pattern } }));
      const where = { [Op.or]: [...fields, { address: wanted }] };
      const [{ intent }, devices] = await Promise.all([
        intents.live(),
        Device.findAll({ where, limit: MOST, order: ['name'] }),
      ]);
      const hits: SearchHit[] = [];
      const matches = (...texts: string[]): boolean => texts.some((text) => text.toLowerCase().includes(wanted));
      for (const site of intent.sites.values()) {
        if (matches(site.name, site.code))
          hits.push({ kind: 'site', id: site.id, siteId: site.id, title: site.name, detail: 'Site' });
      }
      for (const { find } of everyNoun()) {
        let left = MOST;
        for (const hit of find?.(intent, matches) ?? []) {
          if (left-- === 0) break;
          hits.push(hit);
        }
      }
      for (const device of devices) {
        const site = device.siteId
          ? ` at ${intent.sites.get(device.siteId)?.name}`
          : device.expectedSiteId
            ? ` expected at ${intent.sites.get(device.expectedSiteId)?.name}`
            : ', calling';
        hits.push({
          kind: 'device',
          id: device.id,
          siteId: device.siteId ?? device.expectedSiteId,
          title: device.name ?? device.serial,
          detail: `${device.model} ${device.serial}${site}`,
        });
      }
      return hits.slice(0, MOST);
    },
  }),
];
