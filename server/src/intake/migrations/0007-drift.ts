/** What devices told back that run something nobody told them, and where sites are and what they and devices are for. */
export const name = '0007-drift';
export const sql = `
CREATE TABLE drift (
  device_id uuid PRIMARY KEY REFERENCES device ON DELETE CASCADE, hash char(64) NOT NULL, body jsonb NOT NULL,
  at timestamptz NOT NULL DEFAULT now());
ALTER TABLE site ADD coordinates jsonb, ADD purpose text NOT NULL DEFAULT '';
ALTER TABLE device ADD purpose text NOT NULL DEFAULT '';
`;
