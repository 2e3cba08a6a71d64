/** What clients of each device took since they came, as it counted last. */
export const name = '0013-taken';
export const sql = `
CREATE TABLE client_taken (
  device_id uuid PRIMARY KEY REFERENCES device ON DELETE CASCADE, taken jsonb NOT NULL, at timestamptz NOT NULL DEFAULT now());
`;
