import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';

/**
 * Devices for which a rollout under way says what they should run: those of the wave that is told, and those told already, until
 * it is live at their site. Others follow what is live there.
 */
export async function devicesInRollout(database: Sequelize, transaction?: Transaction): Promise<Set<string>> {
  const rows = await database.query<{ device_id: string }>(
    `SELECT s.device_id FROM rollout_step s JOIN rollout r ON r.id = s.rollout_id
     LEFT JOIN rollout_site t ON t.rollout_id = r.id AND t.site_id = s.site_id
     WHERE r.ended_at IS NULL AND NOT coalesce(t.live, false) AND (s.state <> 'waiting' OR s.wave = r.wave)`,
    { type: QueryTypes.SELECT, ...(transaction ? { transaction } : {}) },
  );
  return new Set(rows.map((row) => row.device_id));
}

/** Devices that a rollout under way tells, or has yet to tell, in whichever wave: they stay where they are until then. */
export async function devicesToTell(database: Sequelize, transaction?: Transaction): Promise<Set<string>> {
  const rows = await database.query<{ device_id: string }>(
    `SELECT s.device_id FROM rollout_step s JOIN rollout r ON r.id = s.rollout_id
     LEFT JOIN rollout_site t ON t.rollout_id = r.id AND t.site_id = s.site_id
     WHERE r.ended_at IS NULL AND NOT coalesce(t.live, false)`,
    { type: QueryTypes.SELECT, ...(transaction ? { transaction } : {}) },
  );
  return new Set(rows.map((row) => row.device_id));
}

/** Whether a rollout under way tells a device a document at this moment. */
export async function isBeingTold(database: Sequelize, deviceId: string, hash: string): Promise<boolean> {
  const rows = await database.query(
    `SELECT 1 FROM rollout_step s JOIN rollout r ON r.id = s.rollout_id
     WHERE s.device_id = :deviceId AND s.hash = :hash AND s.state = 'telling' AND r.ended_at IS NULL`,
    { replacements: { deviceId, hash }, type: QueryTypes.SELECT },
  );
  return rows.length > 0;
}

/** Ids of rollouts under way, in an order that stays. */
export async function rolloutsUnderWay(database: Sequelize): Promise<readonly string[]> {
  const rows = await database.query<{ id: string }>('SELECT id FROM rollout WHERE ended_at IS NULL ORDER BY id', {
    type: QueryTypes.SELECT,
  });
  return rows.map(({ id }) => id);
}

/** Sites that rollouts under way touch, each with the name of the draft that is rolled out there. @param except the id of a draft. */
export async function sitesInRollout(
  database: Sequelize,
  except: string | null,
  transaction?: Transaction,
): Promise<Map<string, string>> {
  const rows = await database.query<{ site: string; name: string }>(
    `SELECT t.site_id AS site, r.draft_name AS name FROM rollout_site t JOIN rollout r ON r.id = t.rollout_id
     WHERE r.ended_at IS NULL AND r.draft_id IS DISTINCT FROM :except::uuid`,
    { replacements: { except }, type: QueryTypes.SELECT, ...(transaction ? { transaction } : {}) },
  );
  return new Map(rows.map(({ site, name }) => [site, name]));
}
