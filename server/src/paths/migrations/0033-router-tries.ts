/** What came of trying what is assumed of routers beside the gateway; the last time of each. */
export const name = '0033-router-tries';
export const sql = `
CREATE TABLE router_try (
  router_id uuid PRIMARY KEY,
  site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE,
  at timestamptz NOT NULL,
  results jsonb NOT NULL
);
CREATE INDEX router_try_site ON router_try (site_id);
`;
