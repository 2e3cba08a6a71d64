import { QueryTypes, type Sequelize } from 'sequelize';

/** The SSID or port of a device that a client is at, as it last reported it; null: it did not report the client. */
export async function placeOf(database: Sequelize, deviceId: string, mac: string): Promise<string | null> {
  const [row] = await database.query<{ place: string }>(
    `SELECT c->>'ssid' AS place FROM device, jsonb_array_elements(COALESCE(report->'clients', '[]')) c WHERE id = :deviceId AND c->>'mac' = :mac
     UNION ALL
     SELECT c->>'port' FROM device, jsonb_array_elements(COALESCE(report->'wired', '[]')) c WHERE id = :deviceId AND c->>'mac' = :mac
     LIMIT 1`,
    { replacements: { deviceId, mac }, type: QueryTypes.SELECT },
  );
  return row?.place ?? null;
}
