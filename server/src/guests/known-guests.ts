import { RESTING, termsVersion } from '@iron-lattice/core/guests';
import { openingAt } from '@iron-lattice/core/rules';
import { QueryTypes, type Sequelize } from 'sequelize';
import { clock } from '../platform/clock';
import { oneByOne } from '../platform/one-by-one';
import { placeSql } from './portal/guest-place';
import type { LivePortals } from './portals-live';
import type { VisitService } from './visit.service';

/** Guests whose devices a portal knows: they are let in again without being asked, for as long as it says. */
export class KnownGuests {
  constructor(
    private readonly database: Sequelize,
    private readonly portals: LivePortals,
    private readonly visits: Pick<VisitService, 'say'>,
  ) {}

  /**
   * Has a visit begin anew of each who came again: its last one ended by itself, it came by a way of its own that
   * the portal still has, it proved what it was asked to, it agreed to the terms that
   * are asked about now, and nobody keeps it out. @param macs of clients that a device has. @returns whether one began.
   */
  async comeAgain(portalId: string, siteId: string, deviceId: string, macs: readonly string[]): Promise<boolean> {
    const live = await this.portals.at(siteId, portalId);
    if (!live?.portal.known) return false;
    const { portal, hours, timeZone } = live;
    const now = clock.now();
    if (hours && !openingAt(hours, timeZone, now).open) return false;
    // Ways that somebody has by itself, and that the portal still has.
    const ways = RESTING.filter((way) => portal.ways.includes(way));
    const versions = Object.fromEntries(portal.languages.map((each) => [each, termsVersion(portal, each)]));
    const begun = await oneByOne(() =>
      this.database.query<{ mac: string }>(BEGIN, {
        replacements: {
          ...{ portalId, siteId, deviceId, macs: JSON.stringify(macs), ways: JSON.stringify(ways) },
          ...{ now: new Date(now), known: portal.known, rest: portal.rest ?? 0, idle: portal.idle ?? null },
          ...{ until: new Date(now + portal.visit * 60_000), agree: portal.agree === true },
          versions: JSON.stringify(versions),
        },
        type: QueryTypes.SELECT,
      }),
    );
    this.visits.say(begun.map(({ mac }) => ({ portalId, mac })));
    return begun.length > 0;
  }
}

const BEGIN = `
WITH last AS (
  SELECT DISTINCT ON (mac) * FROM visit WHERE portal_id = :portalId AND mac IN (SELECT jsonb_array_elements_text(:macs::jsonb))
  ORDER BY mac, ended_at DESC NULLS FIRST),
due AS (
  SELECT l.* FROM last l LEFT JOIN guest_ask a ON a.id = l.ask_id
  WHERE l.way IN (SELECT jsonb_array_elements_text(:ways::jsonb)) AND l.ended_by IS NULL
    AND (l.ended_why = 'idle' OR l.until <= :now AND l.until + :rest * interval '1 minute' <= :now) AND (l.ended_at IS NULL OR l.ended_why = 'idle' OR l.ended_at >= l.until)
    AND (l.way = 'accept' OR a.state = 'yes') AND COALESCE(l.asked_at, l.begun) + :known * interval '1 minute' > :now
    AND (NOT :agree OR l.terms = (:versions::jsonb)->>l.language) AND NOT EXISTS (SELECT 1 FROM guest_block b WHERE b.mac = l.mac)),
closed AS (UPDATE visit SET ended_at = until WHERE ended_at IS NULL AND id IN (SELECT id FROM due) RETURNING 1)
INSERT INTO visit (id, portal_id, site_id, device_id, place, mac, way, ask_id, language, terms, begun, until, idle, asked_at)
SELECT gen_random_uuid(), d.portal_id, :siteId, :deviceId, COALESCE(${placeSql(':deviceId', 'd.mac')}, d.place),
  d.mac, d.way, d.ask_id, d.language, d.terms, :now, :until, :idle::int, COALESCE(d.asked_at, d.begun)
FROM (SELECT count(*) FROM closed) first, due d
ON CONFLICT (portal_id, mac) WHERE ended_at IS NULL DO NOTHING RETURNING mac`;
