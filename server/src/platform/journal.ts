import type { Sequelize, Transaction } from 'sequelize';

/**
 * Adds to the journal who did what; nothing takes an entry away again.
 * @param deviceId the one device it is about: the entry is part of that device's history.
 */
export async function note(
  database: Sequelize,
  personId: string | null,
  act: string,
  detail: object,
  transaction?: Transaction,
  deviceId: string | null = null,
): Promise<void> {
  await database.query(
    'INSERT INTO journal (person_id, act, detail, device_id) VALUES (:personId, :act, :detail, :deviceId)',
    {
      replacements: { personId, act, detail: JSON.stringify(detail), deviceId },
      ...(transaction ? { transaction } : {}),
    },
  );
}
