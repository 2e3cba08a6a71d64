/** How gateways leave: as each last told it, and what became of its uplinks. */
export const name = '0029-paths';
export const sql = `
CREATE TABLE path_now (
  device_id uuid PRIMARY KEY REFERENCES device ON DELETE CASCADE, at timestamptz NOT NULL DEFAULT now(), state text NOT NULL, report jsonb NOT NULL);
CREATE INDEX path_now_state ON path_now (state) WHERE state <> 'whole';
CREATE TABLE path_change (
  device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE, at timestamptz NOT NULL, port text NOT NULL, what text NOT NULL,
  why text NOT NULL, uses text[] NOT NULL, heard_at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (device_id, at, port, what));
CREATE TABLE path_drill (
  id uuid PRIMARY KEY, site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE, device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE,
  person_id uuid NOT NULL REFERENCES person, at timestamptz NOT NULL, mishaps jsonb NOT NULL, predicted jsonb NOT NULL);
CREATE INDEX path_drill_site ON path_drill (site_id, at DESC);
`;
