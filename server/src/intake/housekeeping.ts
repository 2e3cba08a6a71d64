import type { Sequelize } from 'sequelize';
import { Recurring } from '../platform/recurring';

const EVERY_MS = 600_000;

/** What is thrown away when nobody can want it any more; each can be done by any controller, at any time. */
const RULES: readonly string[] = [
  // A device that called, is nobody's, and went away: it is known anew when it calls again.
  `DELETE FROM device d WHERE site_id IS NULL AND expected_site_id IS NULL AND claimed_at IS NULL AND NOT online
     AND heard_at < now() - interval '1 hour' AND NOT EXISTS (SELECT FROM rollout_step s WHERE s.device_id = d.id)`,
  `UPDATE hitch SET settled_at = now() WHERE settled_at IS NULL AND device_id IS NULL AND last_at < now() - interval '1 day'`,
  `DELETE FROM hitch WHERE settled_at < now() - interval '90 days'`,
  `DELETE FROM command_answer WHERE at < now() - interval '15 minutes'`,
  `DELETE FROM list_preview WHERE at < now() - interval '1 hour'`,
  `DELETE FROM bus_message WHERE at < now() - interval '5 minutes'`,
];

/** Clears away, now and then, what has expired. */
export const housekeepingOf = (database: Sequelize, failed: (error: unknown) => void): Recurring =>
  new Recurring(
    async () => {
      for (const sql of RULES) await database.query(sql);
    },
    EVERY_MS,
    failed,
  );
