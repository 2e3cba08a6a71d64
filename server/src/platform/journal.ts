import type { Sequelize, Transaction } from 'sequelize';

/** Adds to the journal who did what; nothing takes an entry away again. */
export async function note(
  database: Sequelize,
  personId: string | null,
  act: string,
  detail: object,
  transaction?: Transaction,
): Promise<void> {
  await database.query('INSERT INTO journal (person_id, act, detail) VALUES (:personId, :act, :detail)', {
    replacements: { personId, act, detail: JSON.stringify(detail) },
    ...(transaction ? { transaction } : {}),
  });
}
