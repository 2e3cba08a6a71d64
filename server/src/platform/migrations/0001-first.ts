/** The first schema. */
export const name = '0001-first';
export const sql = `
CREATE TABLE person (
  id uuid PRIMARY KEY, name text NOT NULL, email text NOT NULL UNIQUE, role text NOT NULL, password_hash text NOT NULL);
CREATE TABLE session (
  token_hash text PRIMARY KEY, person_id uuid NOT NULL REFERENCES person ON DELETE CASCADE, expires_at timestamptz NOT NULL);
CREATE TABLE part (hash char(64) PRIMARY KEY, body jsonb NOT NULL);
CREATE TABLE estate (
  id uuid PRIMARY KEY, name text NOT NULL, founding_hash char(64) NOT NULL REFERENCES part, live_revision int NOT NULL DEFAULT 0);
CREATE TABLE site (
  id uuid PRIMARY KEY, name text NOT NULL, code text NOT NULL UNIQUE, founding_hash char(64) NOT NULL REFERENCES part);
CREATE TABLE revision (
  number int PRIMARY KEY, name text NOT NULL, person_id uuid NOT NULL REFERENCES person, parts jsonb NOT NULL,
  at timestamptz NOT NULL DEFAULT now());
CREATE TABLE draft (
  id uuid PRIMARY KEY, name text NOT NULL, state text NOT NULL, head int NOT NULL DEFAULT 0,
  person_id uuid NOT NULL REFERENCES person, created_at timestamptz NOT NULL DEFAULT now());
CREATE TABLE operation (
  draft_id uuid NOT NULL REFERENCES draft, number int NOT NULL, body jsonb NOT NULL, inverse jsonb NOT NULL, made_on char(64) NOT NULL,
  undoes int, undone boolean NOT NULL DEFAULT false, reverts text, person_id uuid NOT NULL REFERENCES person,
  at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (draft_id, number));
CREATE TABLE secret (id uuid PRIMARY KEY, sealed bytea NOT NULL, person_id uuid REFERENCES person, at timestamptz NOT NULL DEFAULT now());
CREATE TABLE document (hash char(64) PRIMARY KEY, body jsonb NOT NULL);
CREATE TABLE device (
  id uuid PRIMARY KEY, site_id uuid REFERENCES site, name text UNIQUE, serial text NOT NULL UNIQUE, model text NOT NULL,
  mac text NOT NULL, firmware text NOT NULL, public_key text, runs char(64), wants char(64) REFERENCES document,
  applied char(64), trouble text, online boolean NOT NULL DEFAULT false, line_owner int, heard_at timestamptz, report jsonb,
  claimed_at timestamptz);
CREATE INDEX device_site ON device (site_id);
CREATE INDEX device_mac ON device (mac);
CREATE TABLE rollout (
  id uuid PRIMARY KEY, draft_id uuid NOT NULL REFERENCES draft, draft_name text NOT NULL, state text NOT NULL, revision int,
  reason text, resumed boolean NOT NULL DEFAULT false, person_id uuid NOT NULL REFERENCES person, parts jsonb NOT NULL,
  started_at timestamptz NOT NULL DEFAULT now(), ended_at timestamptz);
CREATE UNIQUE INDEX rollout_one_at_a_time ON rollout ((true)) WHERE ended_at IS NULL;
CREATE TABLE rollout_step (
  rollout_id uuid NOT NULL REFERENCES rollout, position int NOT NULL, device_id uuid NOT NULL REFERENCES device,
  state text NOT NULL, hash char(64) NOT NULL REFERENCES document, before_hash char(64), reason text,
  added int NOT NULL, removed int NOT NULL, PRIMARY KEY (rollout_id, position));
CREATE TABLE journal (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, at timestamptz NOT NULL DEFAULT now(), person_id uuid,
  act text NOT NULL, detail jsonb NOT NULL);
CREATE FUNCTION journal_is_append_only() RETURNS trigger LANGUAGE plpgsql AS
  $$ BEGIN RAISE EXCEPTION 'the journal can be added to, not edited'; END $$;
CREATE TRIGGER journal_guard BEFORE UPDATE OR DELETE ON journal FOR EACH ROW EXECUTE FUNCTION journal_is_append_only();
`;
