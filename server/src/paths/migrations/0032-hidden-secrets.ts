/** Secrets that are told to devices and shown to nobody. */
export const name = '0032-hidden-secrets';
export const sql = `ALTER TABLE secret ADD COLUMN hidden boolean NOT NULL DEFAULT false;`;
