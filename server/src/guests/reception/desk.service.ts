import { MOST_DESK_TOLD, type DeskCodes, type DeskGuests, type DeskView } from '@iron-lattice/core/guests';
import { asksPassphrase } from '@iron-lattice/core/document';
import { joinText } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import { AppError, unknown } from '../../platform/app-error';
import type { Caller } from '../../platform/route';
import type { CodeService } from '../code.service';
import type { LivePortals } from '../portals-live';
import type { VisitList } from '../visit-list';
import type { VisitService } from '../visit.service';

/** What reception does: codes and visits of the sites that it looks after, and nothing of any other. */
export class DeskService {
  constructor(
    private readonly database: Sequelize,
    private readonly codes: CodeService,
    private readonly visits: VisitService,
    private readonly list: VisitList,
    private readonly portals: LivePortals,
    private readonly portalUrl: () => string,
  ) {}

  /** Portals of its sites that take codes, as guests find them now. */
  async view(caller: Caller): Promise<DeskView> {
    const sites = await this.database.query<{ id: string; name: string }>(
      'SELECT id, name FROM site WHERE id = ANY(ARRAY(SELECT jsonb_array_elements_text(:siteIds::jsonb))::uuid[]) ORDER BY name',
      { replacements: { siteIds: JSON.stringify(sitesOf(caller)) }, type: QueryTypes.SELECT },
    );
    const shown: DeskView['sites'][number][] = [];
    for (const { id, name } of sites) {
      const here = await this.portals.here(id);
      const portals = here.flatMap(({ portal, ssids }) => {
        if (!portal.ways.includes('code')) return [];
        const joins = ssids.map((ssid) => ({
          name: ssid.name,
          join: asksPassphrase(ssid.security) ? null : joinText(ssid.name, null),
        }));
        return [{ id: portal.id, name: portal.name, visit: portal.visit, kinds: portal.kinds ?? [], ssids: joins }];
      });
      shown.push({ id, name, portals });
    }
    return { portalUrl: this.portalUrl(), sites: shown };
  }

  async guests(caller: Caller): Promise<DeskGuests> {
    const siteIds = sitesOf(caller);
    if (siteIds.length === 0) return { codes: [], visits: [] };
    const [codes, visits] = await Promise.all([
      this.codes.listAt(siteIds, MOST_DESK_TOLD),
      this.list.of(siteIds, { most: MOST_DESK_TOLD }),
    ]);
    return { codes, visits };
  }

  /** @throws AppError `thing.unknown` where the site is none of theirs, `code.refused` where nothing there takes codes. */
  async make(
    caller: Caller,
    { portalId, siteId, ...asked }: DeskCodes,
  ): Promise<{ id: string; name: string; code: string }[]> {
    if (!sitesOf(caller).includes(siteId)) throw unknown('site');
    const live = await this.portals.at(siteId, portalId);
    if (!live?.portal.ways.includes('code'))
      throw new AppError(
        'code.refused',
        'No portal of this name takes codes at this site any more. Load the page again.',
      );
    return this.codes.make({ portalId, ...asked, runs: 'used', useBy: null, siteIds: [siteId] }, caller.id);
  }

  /** @throws AppError `thing.unknown` unless every code opens none but their sites. */
  async mayCodes(caller: Caller, ids: readonly string[]): Promise<void> {
    if ((await this.codes.within(ids, sitesOf(caller))) < ids.length) throw unknown('visit code');
  }

  /** @throws AppError `thing.unknown` unless every visit is at one of their sites. */
  async mayVisits(caller: Caller, ids: readonly string[]): Promise<void> {
    if ((await this.list.within(ids, sitesOf(caller))) < ids.length) throw unknown('visit');
  }
}

const sitesOf = ({ siteIds = [] }: Caller): readonly string[] => siteIds;
