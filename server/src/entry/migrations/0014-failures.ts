/** Who was turned away or known to nobody, where and why, of the last days. */
export const name = '0014-failures';
export const sql = `
CREATE TABLE entry_failure (
  device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE, mac text NOT NULL, place text NOT NULL, why text NOT NULL, since bigint NOT NULL,
  body jsonb NOT NULL, at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (device_id, mac, place, why, since));
CREATE INDEX entry_failure_at ON entry_failure (device_id, at);
`;
