/** Places of pretend clients that are kept under a name. */
export const name = '0004-probes';
export const sql = `
CREATE TABLE bench_probe (
  id uuid PRIMARY KEY, site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE, name text NOT NULL, seat jsonb NOT NULL,
  UNIQUE (site_id, name));
`;
