import { randomUUID } from 'node:crypto';
import type { Sequelize } from 'sequelize';
import { clock } from '../platform/clock';
import { oneByOne } from '../platform/one-by-one';
import type { LivePortal } from './portals-live';
import type { Guest, VisitService } from './visit.service';

/** Who somebody is whom others vouch for: a name, and a mail address that is proven to be theirs. */
export interface Proven {
  readonly name: string;
  readonly mail: string | null;
}

/**
 * Lets a guest in who proved who they are, and keeps that beside the visit.
 * @returns whether it is in; its device may be kept out.
 */
export async function letInProven(
  database: Sequelize,
  visits: Pick<VisitService, 'letIn' | 'say'>,
  guest: Guest,
  { portal }: LivePortal,
  way: 'user' | 'account',
  { name, mail }: Proven,
): Promise<boolean> {
  const now = clock.now();
  const id = randomUUID();
  const isIn = await oneByOne(() =>
    database.transaction(async (transaction) => {
      await database.query(
        `INSERT INTO guest_ask (id, portal_id, site_id, device_id, place, mac, way, language, terms, contact, contact_by, said, state, sponsors, first, at, until, answered_at)
         VALUES (:id, :portalId, :siteId, :deviceId, :place, :mac, :way, :language, :terms, :mail, :by, :said, 'yes', '{}', false, :now, :now, :now)`,
        {
          replacements: {
            ...{ ...guest, id, way, mail, by: mail === null ? null : 'mail' },
            ...{ said: JSON.stringify({ name }), now: new Date(now) },
          },
          transaction,
        },
      );
      return visits.letIn(guest, way, now + portal.visit * 60_000, id, transaction);
    }),
  );
  visits.say([guest]);
  return isIn;
}
