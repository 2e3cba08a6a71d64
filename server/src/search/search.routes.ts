import type { SearchHit } from '@iron-lattice/core/base';
import { Joi } from '@iron-lattice/core/schema';
import { Op } from 'sequelize';
import { Device } from '../intake/device.model';
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
        for (const segment of site.segments) {
          if (!matches(segment.name, segment.subnet, segment.gateway, String(segment.vlan))) continue;
          const detail = `Segment ${segment.vlan} at ${site.name}, ${segment.subnet}`;
          hits.push({ kind: 'segment', id: segment.id, siteId: site.id, title: segment.name, detail });
        }
      }
      for (const ssid of intent.estate.ssids)
        if (matches(ssid.name))
          hits.push({ kind: 'ssid', id: ssid.id, siteId: null, title: ssid.name, detail: 'SSID' });
      for (const { id, name, members } of intent.estate.classes ?? []) {
        const member = members.find((each) => matches(each.mac, each.name));
        if (!member && !matches(name)) continue;
        const detail = member && !matches(name) ? `Access class of ${member.name || member.mac}` : 'Access class';
        hits.push({ kind: 'class', id, siteId: null, title: name, detail });
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
