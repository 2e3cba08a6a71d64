import { boundFlaw, type RingKeyFlaw } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize, type Transaction } from 'sequelize';

/** Names of the keys of a ring that devices are bound to, by MAC address. Keys that were taken back or are over bind nobody. */
export async function boundIn(
  database: Sequelize,
  ssidId: string,
  { but = null, transaction }: { readonly but?: string | null; readonly transaction?: Transaction } = {},
): Promise<ReadonlyMap<string, string>> {
  const rows = await database.query<{ mac: string; name: string }>(
    `SELECT unnest(macs) AS mac, name FROM ring_key
     WHERE ssid_id = :ssidId AND revoked_at IS NULL AND cardinality(macs) > 0 AND (CAST(:but AS uuid) IS NULL OR id <> :but)
       AND (ends IS NULL OR left(ends, 10) >= to_char(now() - interval '1 day', 'YYYY-MM-DD'))`,
    { replacements: { ssidId, but }, type: QueryTypes.SELECT, ...(transaction ? { transaction } : {}) },
  );
  return new Map(rows.map(({ mac, name }) => [mac, name]));
}

/** Keys of which a device is bound to another of the ring, by row. */
export async function boundFlaws(
  database: Sequelize,
  ssidId: string,
  keys: readonly { readonly macs: readonly string[] }[],
  transaction: Transaction,
): Promise<RingKeyFlaw[]> {
  if (keys.every(({ macs }) => macs.length === 0)) return [];
  const bound = await boundIn(database, ssidId, { transaction });
  return keys.flatMap(({ macs }, row): RingKeyFlaw[] => {
    const found = boundFlaw(macs, bound);
    return found ? [{ ...found, row }] : [];
  });
}
