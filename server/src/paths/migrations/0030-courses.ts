/** Of a change of path, the course that leaves otherwise now; empty where it is of an uplink. Rehearsals that are kept. Octets of uplinks by day (UTC). */
export const name = '0030-courses';
export const sql = `
ALTER TABLE path_change ADD COLUMN course text NOT NULL DEFAULT '';
ALTER TABLE path_change DROP CONSTRAINT path_change_pkey;
ALTER TABLE path_change ADD PRIMARY KEY (device_id, at, port, what, course);

CREATE TABLE path_rehearsal (
  id uuid PRIMARY KEY, site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE, device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE,
  name text NOT NULL, mishaps jsonb NOT NULL, most double precision NOT NULL, person_id uuid NOT NULL REFERENCES person,
  kept_at timestamptz NOT NULL DEFAULT now(), UNIQUE (device_id, name));
CREATE INDEX path_rehearsal_site ON path_rehearsal (site_id, kept_at);
CREATE TABLE path_rehearsal_run (
  rehearsal_id uuid NOT NULL REFERENCES path_rehearsal ON DELETE CASCADE, at timestamptz NOT NULL, revision integer, passed boolean NOT NULL,
  usual double precision NOT NULL, worst double precision NOT NULL, course text, PRIMARY KEY (rehearsal_id, at));
CREATE TABLE path_counter (
  device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE, port text NOT NULL, down bigint NOT NULL, up bigint NOT NULL,
  PRIMARY KEY (device_id, port));
CREATE TABLE path_octets (
  device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE, port text NOT NULL, day date NOT NULL, octets bigint NOT NULL,
  began timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (device_id, port, day));
`;
