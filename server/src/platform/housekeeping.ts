import type { Sequelize } from 'sequelize';
import { Recurring } from './recurring';

const EVERY_MS = 600_000;

/** Clears away, now and then, what has expired. @param rules statements; each can be done by any controller, at any time. */
export const housekeepingOf = (
  database: Sequelize,
  rules: readonly string[],
  failed: (error: unknown) => void,
): Recurring =>
  new Recurring(
    async () => {
      for (const sql of rules) await database.query(sql);
    },
    EVERY_MS,
    failed,
  );
