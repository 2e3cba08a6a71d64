import { MOST_VISITS_TOLD, type GuestState, type Said, type VisitView } from '@iron-lattice/core/guests';
import { QueryTypes, type Sequelize } from 'sequelize';
import { likeOf } from '../platform/like';
import type { ClientNamer } from '../roster/client-names-offer';
import type { WordFinder } from '../roster/user-offer';
import type { LivePortal, LivePortals } from './portals-live';
import { OUT, stateOf, usesOf, type UseRow, type VisitRow } from './visit-state';

/** What is told of what a guest said. */
interface ListedAsk {
  readonly said: Said | null;
  readonly contact: string | null;
  readonly asked: 'open' | 'yes' | 'no' | 'left' | null;
  readonly answered_by: string | null;
  readonly whom: string | null;
}
/** Most clients that are called as somebody looks for. */
const MOST_FOUND = 500;

/** Visits of guests, as people see them. */
export class VisitList {
  constructor(
    private readonly database: Sequelize,
    private readonly portals: LivePortals,
    /** What clients are called, and which are called so. */
    private readonly hosts: ClientNamer,
    private readonly clients: WordFinder,
  ) {}

  /** How many of some visits are at some sites. */
  async within(ids: readonly string[], siteIds: readonly string[]): Promise<number> {
    const [row] = await this.select<{ count: number }>(
      `SELECT count(*)::int AS count FROM visit WHERE id = ANY(ARRAY[:ids]::uuid[])
       AND site_id = ANY(ARRAY(SELECT jsonb_array_elements_text(:siteIds::jsonb))::uuid[])`,
      { ids: [...ids], siteIds: JSON.stringify(siteIds) },
    );
    return row!.count;
  }

  /** Visits, the latest first. @param find text that device, its name, SSID, what their code is for, or what the guest said holds; empty: all. */
  async of(
    siteIds: readonly string[] | null,
    { most = MOST_VISITS_TOLD, find = '' }: { most?: number; find?: string } = {},
  ): Promise<VisitView[]> {
    const called = find.trim() === '' ? [] : (await this.clients(find, MOST_FOUND)).map(({ id }) => id);
    const rows = await this.select<
      VisitRow & ListedAsk & { code_name: string | null; octets: string; seconds: number; blocked: boolean }
    >(
      `SELECT v.*, c.name AS code_name, b.mac IS NOT NULL AS blocked, u.octets, u.seconds,
         a.said, a.contact, a.state AS asked, a.answered_by, a.whom
       FROM visit v LEFT JOIN visit_code c ON c.id = v.code_id LEFT JOIN guest_ask a ON a.id = v.ask_id LEFT JOIN guest_block b ON b.mac = v.mac
       LEFT JOIN LATERAL (SELECT COALESCE(sum(octets), 0)::bigint AS octets, COALESCE(sum(seconds), 0)::int AS seconds FROM guest_use g
         WHERE g.portal_id = v.portal_id AND g.mac = v.mac AND g.last_at >= v.begun AND g.at <= COALESCE(v.ended_at, v.until)) u ON true
       WHERE ${siteIds ? 'v.site_id = ANY(ARRAY[:siteIds]::uuid[])' : 'true'}
         AND ${
           find === ''
             ? 'true'
             : `(v.mac LIKE :like OR ${called.length > 0 ? 'v.mac IN (SELECT jsonb_array_elements_text(:called::jsonb)) OR' : ''} v.place ILIKE :like OR c.name ILIKE :like OR a.contact ILIKE :like
           OR a.answered_by ILIKE :like OR a.said->>'name' ILIKE :like OR a.said->>'company' ILIKE :like)`
         }
       ORDER BY v.begun DESC LIMIT :most`,
      {
        siteIds: siteIds ? [...siteIds] : [],
        most,
        called: JSON.stringify(called),
        like: likeOf(find.trim().toLowerCase()),
      },
    );
    const lives = new Map<string, LivePortal>();
    const macs = new Map<string, string[]>();
    for (const { portal_id: portalId, site_id: siteId, mac, ended_at: ended } of rows) {
      const live = ended ? undefined : await this.portals.at(siteId, portalId);
      if (!live) continue;
      lives.set(`${siteId} ${portalId}`, live);
      const there = macs.get(portalId) ?? [];
      macs.set(portalId, there);
      there.push(mac);
    }
    // Of a portal all at once: there may be thousands.
    const uses = new Map<string, UseRow[]>();
    for (const { portal } of new Map([...lives.values()].map((live) => [live.portal.id, live])).values())
      for (const use of await usesOf(this.database, portal, macs.get(portal.id)!))
        uses.set(`${portal.id} ${use.mac}`, [...(uses.get(`${portal.id} ${use.mac}`) ?? []), use]);
    const names = await this.hosts([...new Set(rows.map(({ mac }) => mac))]);
    return rows.map((row): VisitView => {
      const live = row.ended_at ? undefined : lives.get(`${row.site_id} ${row.portal_id}`);
      const state = live
        ? stateOf(row, uses.get(`${row.portal_id} ${row.mac}`) ?? [], live)
        : { ...OUT, until: row.until.getTime() };
      return {
        ...{ id: row.id, portalId: row.portal_id, siteId: row.site_id, mac: row.mac, way: row.way },
        host: names.get(row.mac) ?? '',
        code: row.code_id === null ? null : { id: row.code_id, name: row.code_name ?? '' },
        ...{ at: row.place, deviceId: row.device_id, begun: row.begun.toISOString(), until: row.until.toISOString() },
        endedAt: row.ended_at?.toISOString() ?? null,
        ...{ octets: Number(row.octets), seconds: row.seconds, left: state.left },
        state: listed(row, state),
        ...{ told: row.told_at !== null, blocked: row.blocked, terms: row.terms, who: whoOf(row) },
      };
    });
  }

  private select<T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> {
    return this.database.query<T>(sql, { replacements, type: QueryTypes.SELECT });
  }
}

/** How a visit stands: whether its guest has to wait for another is no matter of it. */
function listed({ ended_at: ended, ended_why: why }: VisitRow, state: GuestState): VisitView['state'] {
  if (ended) return why ?? 'ended';
  if (state.letIn) return state.slowed ? 'slow' : 'in';
  return state.why === null || state.why === 'rest' ? 'over' : state.why;
}

const whoOf = ({ said, contact, asked, answered_by: sponsor, whom }: ListedAsk): VisitView['who'] =>
  said === null ? null : { said, contact, proven: asked === 'yes', sponsor, whom };
