/** What intake keeps: set-up, expected devices, hitches, hardware sheets, firmware, answers of commands. */
export const name = '0002-intake';
export const sql = `
ALTER TABLE estate
  ADD country char(2) NOT NULL DEFAULT 'IE', ADD time_zone text NOT NULL DEFAULT 'UTC',
  ADD update_window jsonb NOT NULL DEFAULT '{"day":0,"from":180,"minutes":120}';
ALTER TABLE site
  ADD address text NOT NULL DEFAULT '', ADD tags text[] NOT NULL DEFAULT '{}', ADD update_window jsonb;
ALTER TABLE device
  ADD expected_site_id uuid REFERENCES site, ADD expected_name text UNIQUE, ADD expected_model text, ADD expected_mac text,
  ADD expected_key text, ADD expected_by uuid REFERENCES person, ADD expected_at timestamptz,
  ADD tags text[] NOT NULL DEFAULT '{}', ADD fixed jsonb, ADD light_off boolean NOT NULL DEFAULT false, ADD sheet jsonb,
  ADD policy text NOT NULL DEFAULT 'leave', ADD updating text, ADD booted_at timestamptz,
  ADD calls jsonb NOT NULL DEFAULT '[]', ADD address text, ADD hangs_on_id uuid, ADD hangs_on_port text,
  ADD line_id uuid, ADD runs_revision int, ADD changed_at bigint NOT NULL DEFAULT 0;
CREATE SEQUENCE device_change;
-- Every change of what tables show moves a device to the end of this order; a sign of life alone does not.
CREATE FUNCTION device_changed() RETURNS trigger LANGUAGE plpgsql AS
  $$ BEGIN NEW.changed_at := nextval('device_change'); RETURN NEW; END $$;
CREATE TRIGGER device_changes BEFORE INSERT OR UPDATE OF site_id, name, serial, model, mac, firmware, runs, wants, trouble, online,
  report, expected_site_id, expected_name, tags, fixed, sheet, updating, booted_at, hangs_on_id, hangs_on_port, runs_revision
  ON device FOR EACH ROW EXECUTE FUNCTION device_changed();
CREATE INDEX device_changed_at ON device (changed_at);
CREATE INDEX device_expected ON device (expected_site_id) WHERE expected_site_id IS NOT NULL;
CREATE TABLE hitch (
  id uuid PRIMARY KEY, code text NOT NULL, serial text NOT NULL, device_id uuid REFERENCES device ON DELETE CASCADE,
  reason text NOT NULL, next text NOT NULL, retry text NOT NULL, detail jsonb NOT NULL DEFAULT '{}', times int NOT NULL DEFAULT 1,
  first_at timestamptz NOT NULL DEFAULT now(), last_at timestamptz NOT NULL DEFAULT now(), settled_at timestamptz);
CREATE UNIQUE INDEX hitch_open ON hitch (serial, code) WHERE settled_at IS NULL;
CREATE INDEX hitch_device ON hitch (device_id) WHERE settled_at IS NULL;
CREATE TABLE hardware_sheet (
  model text PRIMARY KEY, body jsonb NOT NULL, person_id uuid REFERENCES person, at timestamptz NOT NULL DEFAULT now());
CREATE TABLE firmware_release (
  model text NOT NULL, version text NOT NULL, released_on date NOT NULL, notes text NOT NULL, minimum_previous text,
  unsupported boolean NOT NULL DEFAULT false, holds_line boolean NOT NULL DEFAULT true, size int NOT NULL,
  sha256 char(64) NOT NULL, image bytea NOT NULL, PRIMARY KEY (model, version));
CREATE TABLE firmware_batch (
  id uuid PRIMARY KEY, mode text NOT NULL, person_id uuid REFERENCES person, at timestamptz NOT NULL DEFAULT now());
CREATE TABLE firmware_update (
  id uuid PRIMARY KEY, batch_id uuid NOT NULL REFERENCES firmware_batch, device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE,
  position int NOT NULL, from_release text NOT NULL, release text NOT NULL, state text NOT NULL, percent int NOT NULL DEFAULT 0,
  canary boolean NOT NULL DEFAULT false, reason text, not_before timestamptz NOT NULL, moved_at timestamptz NOT NULL DEFAULT now(),
  ended_at timestamptz);
CREATE INDEX firmware_update_open ON firmware_update (device_id) WHERE ended_at IS NULL;
CREATE TABLE list_preview (
  token uuid PRIMARY KEY, kind text NOT NULL, body jsonb NOT NULL, person_id uuid NOT NULL REFERENCES person,
  at timestamptz NOT NULL DEFAULT now());
CREATE TABLE command_answer (id uuid PRIMARY KEY, body jsonb NOT NULL, at timestamptz NOT NULL DEFAULT now());
CREATE TABLE sweep (
  id uuid PRIMARY KEY, prefix text NOT NULL, device_id uuid REFERENCES device ON DELETE CASCADE, site_id uuid REFERENCES site, state text NOT NULL,
  done int NOT NULL DEFAULT 0, total int NOT NULL, reason text, found jsonb NOT NULL DEFAULT '[]',
  person_id uuid REFERENCES person, started_at timestamptz NOT NULL DEFAULT now(), ended_at timestamptz);
ALTER TABLE journal ADD device_id uuid;
CREATE INDEX journal_device ON journal (device_id, id) WHERE device_id IS NOT NULL;
`;
