import { QueryTypes, type Sequelize } from 'sequelize';

/**
 * The SSID or port that a device last reported a client at, as a question for one value; none where it did not report it.
 * @param deviceId and `mac` as SQL has them.
 */
export const placeSql = (deviceId: string, mac: string): string =>
  `(SELECT c->>'ssid' FROM device b, jsonb_array_elements(COALESCE(b.report->'clients', '[]')) c WHERE b.id = ${deviceId} AND c->>'mac' = ${mac}
    UNION ALL
    SELECT c->>'port' FROM device b, jsonb_array_elements(COALESCE(b.report->'wired', '[]')) c WHERE b.id = ${deviceId} AND c->>'mac' = ${mac}
    LIMIT 1)`;

/** The same of one client; null: it was not reported. */
export async function placeOf(database: Sequelize, deviceId: string, mac: string): Promise<string | null> {
  const [row] = await database.query<{ place: string | null }>(`SELECT ${placeSql(':deviceId', ':mac')} AS place`, {
    replacements: { deviceId, mac },
    type: QueryTypes.SELECT,
  });
  return row?.place ?? null;
}
