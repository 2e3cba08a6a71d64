import type { SearchHit } from '@iron-lattice/core/base';
import { everyNoun } from '@iron-lattice/core/intent';
import { Joi } from '@iron-lattice/core/schema';
import { Op } from 'sequelize';
import type { WordFinder } from '../roster/user-offer';
import { Device } from '../roster/device.model';
import { Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { EVERYONE, route, type Route } from '../platform/route';

const MOST = 20;

/** Search over names, MACs, serial numbers and addresses of what is live. @param more who else knows things by name. */
export const searchRoutes = (intents: IntentService, more: readonly WordFinder[]): Route[] => [
  route({
    method: 'get',
    path: '/api/search',
    summary: 'Find sites, devices, segments, SSIDs, access classes, users, clients and what else has a name',
    who: EVERYONE,
    query: { q: Joi.string().trim().min(1).max(80).required() },
    handle: async ({ query }) => {
      const wanted = query['q']!.toLowerCase();
      const pattern = `%${wanted.replace(/[\\%_]/g, '\\$&')}%`;
      const fields = ['name', 'serial', 'mac', 'model', 'purpose'].map((name) => ({ [name]: { [Op.iLike]: pattern } }));
      const where = { [Op.or]: [...fields, { address: wanted }] };
      const [{ intent }, sites, devices, kept] = await Promise.all([
        intents.live(),
        Site.findAll({ attributes: ['id', 'address', 'purpose'] }),
        Device.findAll({ where, limit: MOST, order: ['name'] }),
        Promise.all(more.map((find) => find(wanted, MOST))),
      ]);
      const hits: SearchHit[] = [];
      const matches = (...texts: string[]): boolean => texts.some((text) => text.toLowerCase().includes(wanted));
      const said = new Map(sites.map((site) => [site.id, site]));
      for (const { id, name, code } of intent.sites.values()) {
        const { address = '', purpose = '' } = said.get(id) ?? {};
        if (matches(name, code, address, purpose))
          hits.push({ kind: 'site', id, siteId: id, title: name, detail: purpose ? `Site: ${purpose}` : 'Site' });
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
          detail: `${device.model} ${device.serial}${site}${device.purpose ? `: ${device.purpose}` : ''}`,
        });
      }
      return [...hits, ...kept.flat()].slice(0, MOST);
    },
  }),
];
