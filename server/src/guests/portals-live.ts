import {
  isNamedAt,
  leadingPorts,
  reaches,
  ssidAt,
  type EstatePart,
  type Hours,
  type LeadingPort,
  type Portal,
  type SitePart,
  type Ssid,
} from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import type { IntentService } from '../intent/intent.service';

/** How long what is live at a site is remembered, in milliseconds: hundreds of guests come a second. */
const REMEMBERED_MS = 1000;
const MOST_SITES = 2000;

/** A portal as the devices of a site were told it. */
export interface LivePortal {
  readonly portal: Portal;
  readonly siteName: string;
  /** IANA name. */
  readonly timeZone: string;
  /** When guests are let in; absent: always. */
  readonly hours?: Hours;
  /** SSIDs and ports that lead to it there; none where answers of servers alone do. */
  readonly ssids: readonly Ssid[];
  readonly ports: readonly LeadingPort[];
}

/** Portals as they are live at single sites: an SSID or a port there leads to them, or an answer of a server may. */
export class LivePortals {
  private readonly known = new Map<
    string,
    { readonly at: number; readonly found: Promise<ReadonlyMap<string, LivePortal>> }
  >();

  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly drafts: DraftService,
  ) {}

  /** What a portal is at a site; undefined: nothing there leads to it. */
  async at(siteId: string, portalId: string): Promise<LivePortal | undefined> {
    return (await this.of(siteId)).get(portalId);
  }

  /** What is live became another, or is becoming it. */
  forget(): void {
    this.known.clear();
  }

  /** Every portal of a site. */
  async here(siteId: string): Promise<readonly LivePortal[]> {
    return [...(await this.of(siteId)).values()];
  }

  private of(siteId: string): Promise<ReadonlyMap<string, LivePortal>> {
    const now = performance.now(); // no clock that is set back keeps what is old
    const known = this.known.get(siteId);
    if (known && now - known.at < REMEMBERED_MS) return known.found;
    const found = this.read(siteId);
    if (this.known.size >= MOST_SITES) this.known.clear();
    this.known.set(siteId, { at: now, found });
    found.catch(() => this.known.delete(siteId));
    return found;
  }

  private async read(siteId: string): Promise<ReadonlyMap<string, LivePortal>> {
    // Devices that a rollout has told already send guests here before it is live at their site. Rollouts are read
    // first: one that ends meanwhile is then live in what is read after them, and missing in neither.
    const coming = await this.database.query<{ draft_id: string }>(
      'SELECT draft_id FROM rollout WHERE ended_at IS NULL',
      {
        type: QueryTypes.SELECT,
      },
    );
    const pair = await this.intents.pairNow(siteId);
    const next = await Promise.all(coming.map(({ draft_id: id }) => this.drafts.recent(id)));
    const all = [
      ...next.map(({ intent }) => ({ estate: intent.estate, site: intent.sites.get(siteId) })),
      ...(pair ? [pair] : []),
    ];
    return new Map(all.flatMap(({ estate, site }) => (site ? portalsAt(estate, site) : [])));
  }
}

/** Portals that something at a site leads to, by id. */
function portalsAt(estate: EstatePart, site: SitePart): [string, LivePortal][] {
  const { ssids, portals = [], hours = [] } = estate;
  const { id, name, timeZone } = site;
  const leading = ssids.filter(({ reach, portal }) => portal && reaches(reach, id)).map((ssid) => ssidAt(ssid, id));
  const ports = leadingPorts(site);
  return portals.flatMap((portal) => {
    const own = leading.filter((ssid) => ssid.portal === portal.id);
    const plugs = ports.get(portal.id) ?? [];
    const open = hours.find((each) => each.id === portal.hours);
    const live = { portal, siteName: name, timeZone, ssids: own, ports: plugs, ...(open ? { hours: open } : {}) };
    const leads = own.length > 0 || plugs.length > 0 || isNamedAt(portal, estate, id);
    return leads ? [[portal.id, live]] : [];
  });
}
