import { randomUUID } from 'node:crypto';
import { checkRouteList, routeTable, routesOf, uplinkSettings, type RouteListPreview } from '@iron-lattice/core/intent';
import type { DraftService } from '../intent/draft.service';
import { AppError, unknown } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
import { writeTable } from '../platform/list-table';

/** Routes of a gateway as a list: written, and looked at before it is taken. */
export class RouteListService {
  constructor(
    private readonly drafts: Pick<DraftService, 'open'>,
    private readonly heavy: Pick<Heavy, 'read'>,
  ) {}

  /** The routes that a draft has of a gateway, as CSV. @throws AppError where the site has no such gateway. */
  async write(draftId: string, siteId: string, deviceId: string): Promise<{ name: string; text: string }> {
    const { site, device } = await this.at(draftId, siteId, deviceId);
    return { name: `${device.name}-routes.csv`, text: writeTable(routeTable(routesOf(site, deviceId))) };
  }

  /** Looks at a list of routes; nothing is changed. */
  async preview(draftId: string, siteId: string, deviceId: string, bytes: Buffer): Promise<RouteListPreview> {
    const [read, { intent, roster, site, device }] = await Promise.all([
      this.heavy.read('read-table', bytes),
      this.at(draftId, siteId, deviceId),
    ]);
    if (!read.ok) throw new AppError('list.refused', read.reason);
    const titles = new Map(
      uplinkSettings(site, device).flatMap(({ port, title }) =>
        [port, ...(title === null ? [] : [title])].map((word) => [word.toLowerCase(), port] as const),
      ),
    );
    const devices = new Map(roster.map((each) => [each.id, each]));
    return checkRouteList(read.table, intent, { siteId, deviceId, titles }, (id) => devices.get(id), randomUUID);
  }

  private async at(draftId: string, siteId: string, deviceId: string) {
    const { intent, roster } = await this.drafts.open(draftId);
    const site = intent.sites.get(siteId);
    const device = roster.find((each) => each.id === deviceId && each.siteId === siteId);
    if (!site) throw unknown('site');
    if (!device) throw unknown('gateway at this site');
    return { intent, roster, site, device };
  }
}
