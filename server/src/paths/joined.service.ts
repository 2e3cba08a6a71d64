import type { JoinedSiteView, JoinedView } from '@iron-lattice/core/assess';
import { isUnanswered, parseIp } from '@iron-lattice/core/address';
import { sheetFor } from '@iron-lattice/core/hardware';
import { uplinkSettings } from '@iron-lattice/core/intent';
import type { Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { Site } from '../intent/intent.model';
import { unknown } from '../platform/app-error';
import { rosterDeviceOf } from '../roster/device.model';
import type { RosterService } from '../roster/roster.service';
import { tunnelsTold } from '../roster/tunnels-told';

/** How sites are joined to each other, as people see it. */
export class JoinedService {
  constructor(
    private readonly database: Sequelize,
    private readonly drafts: Pick<DraftService, 'open'>,
    private readonly rosters: Pick<RosterService, 'roster' | 'devices'>,
  ) {}

  /** Sites that can be joined, and how tunnels fare that there are. */
  async all(): Promise<JoinedView> {
    const [sites, roster, told] = await Promise.all([
      Site.findAll({ attributes: ['id', 'name', 'coordinates'], order: ['name'], raw: true }),
      this.rosters.roster(),
      tunnelsTold(this.database),
    ]);
    const gateways = new Map<string, { id: string; name: string }[]>();
    for (const row of roster) {
      const device = rosterDeviceOf(row);
      if (sheetFor(device).kind !== 'gateway') continue;
      const here = gateways.get(device.siteId) ?? [];
      gateways.set(device.siteId, [...here, { id: device.id, name: device.name }]);
    }
    return {
      sites: sites.map(({ id, name, coordinates }) => ({ id, name, coordinates, gateways: gateways.get(id) ?? [] })),
      live: Object.fromEntries(told),
    };
  }

  /** What can be shared of a site, and at which addresses its gateways are found. */
  async at(draftId: string, siteId: string): Promise<JoinedSiteView> {
    const [{ intent }, devices] = await Promise.all([this.drafts.open(draftId), this.rosters.devices(siteId)]);
    const site = intent.sites.get(siteId);
    if (!site) throw unknown('site');
    return {
      segments: site.segments
        .filter(({ off }) => !off)
        .map(({ id, name, subnet, isolation }) => ({ id, name, subnet, apart: isolation?.segments ?? false })),
      pair: site.pair ? [site.pair.firstId, site.pair.secondId] : [],
      uplinks: devices.flatMap((row) => {
        const device = rosterDeviceOf(row);
        if (sheetFor(device).kind !== 'gateway') return [];
        const addresses = new Map((row.report?.uplinks ?? []).map(({ port, address }) => [port, address]));
        return uplinkSettings(site, device).map(({ port, title, way, fixed }) => {
          const own = way === 'static' ? (fixed?.address.split('/')[0] ?? null) : null;
          const ip = own === null ? null : parseIp(own);
          return {
            ...{ deviceId: device.id, gateway: device.name, port, title, address: addresses.get(port) ?? null },
            fixed: ip && !isUnanswered(ip) ? own : null,
          };
        });
      }),
    };
  }
}
