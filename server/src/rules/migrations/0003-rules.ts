/** How often each rule decided, as gateways count it. */
export const name = '0003-rules';
export const sql = `
CREATE TABLE rule_hit (
  site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE, rule_id text NOT NULL, packets bigint NOT NULL DEFAULT 0,
  since timestamptz NOT NULL DEFAULT now(), last_at timestamptz, PRIMARY KEY (site_id, rule_id));
CREATE TABLE suite_question (
  id uuid PRIMARY KEY, site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE, body jsonb NOT NULL, position int NOT NULL);
CREATE TABLE suite_run (
  id uuid PRIMARY KEY, site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE, revision int, at timestamptz NOT NULL DEFAULT now(),
  results jsonb NOT NULL);
CREATE INDEX suite_run_site ON suite_run (site_id, at DESC);
`;
