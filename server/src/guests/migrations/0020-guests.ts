/** Guests: visit codes and who used them, visits, what guests took by the quarter of an hour, whom a portal talks to, who is kept out. */
export const name = '0020-guests';
export const sql = `
CREATE TABLE visit_code (
  id uuid PRIMARY KEY, portal_id uuid NOT NULL, print text NOT NULL, sealed bytea NOT NULL, hint text NOT NULL, name text NOT NULL,
  runs text NOT NULL, seconds int NOT NULL, use_by timestamptz, most int, site_ids uuid[], person_id uuid NOT NULL REFERENCES person,
  made_at timestamptz NOT NULL DEFAULT now(), used_at timestamptz, revoked_at timestamptz);
CREATE UNIQUE INDEX visit_code_print ON visit_code (portal_id, print);
CREATE INDEX visit_code_made ON visit_code (portal_id, made_at DESC);
CREATE TABLE visit_code_device (
  code_id uuid NOT NULL REFERENCES visit_code ON DELETE CASCADE, mac text NOT NULL, first_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (code_id, mac));
CREATE TABLE visit (
  id uuid PRIMARY KEY, portal_id uuid NOT NULL, site_id uuid NOT NULL, device_id uuid, place text NOT NULL, mac text NOT NULL, way text NOT NULL,
  code_id uuid REFERENCES visit_code ON DELETE SET NULL, language text NOT NULL, terms text, begun timestamptz NOT NULL DEFAULT now(),
  until timestamptz NOT NULL, ended_at timestamptz, ended_by uuid REFERENCES person, told_at timestamptz);
CREATE UNIQUE INDEX visit_open ON visit (portal_id, mac) WHERE ended_at IS NULL;
CREATE INDEX visit_begun ON visit (begun DESC);
CREATE INDEX visit_mac ON visit (mac);
CREATE TABLE guest_use (
  portal_id uuid NOT NULL, mac text NOT NULL, at timestamptz NOT NULL, last_at timestamptz NOT NULL, octets bigint NOT NULL, seconds int NOT NULL,
  PRIMARY KEY (portal_id, mac, at));
CREATE TABLE guest_block (mac text PRIMARY KEY, at timestamptz NOT NULL DEFAULT now(), person_id uuid NOT NULL REFERENCES person);
CREATE TABLE portal_seat (
  id uuid PRIMARY KEY, nonce text NOT NULL UNIQUE, cookie text NOT NULL, portal_id uuid NOT NULL, site_id uuid NOT NULL, device_id uuid NOT NULL,
  mac text NOT NULL, place text NOT NULL, url text, language text, note text, at timestamptz NOT NULL DEFAULT now());
CREATE INDEX portal_seat_cookie ON portal_seat (cookie);
`;
