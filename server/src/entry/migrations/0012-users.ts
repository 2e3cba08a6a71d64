/** Users that the controller keeps, devices they came with, and secrets that a device may ask with before it is told them for good. */
export const name = '0012-users';
export const sql = `
CREATE TABLE entry_user (
  id uuid PRIMARY KEY, key text NOT NULL, name text NOT NULL, hash text, groups text[] NOT NULL DEFAULT '{}', until text, most int,
  off boolean NOT NULL DEFAULT false, note text NOT NULL DEFAULT '', version int NOT NULL DEFAULT 1,
  person_id uuid NOT NULL REFERENCES person, made_at timestamptz NOT NULL DEFAULT now(), last_at timestamptz, removed_at timestamptz);
CREATE UNIQUE INDEX entry_user_key ON entry_user (key) WHERE removed_at IS NULL;
CREATE TABLE entry_user_device (
  user_id uuid NOT NULL REFERENCES entry_user ON DELETE CASCADE, mac text NOT NULL, first_at timestamptz NOT NULL DEFAULT now(),
  last_at timestamptz NOT NULL DEFAULT now(), device_id uuid REFERENCES device ON DELETE SET NULL, PRIMARY KEY (user_id, mac));
CREATE TABLE entry_refusal (
  user_id uuid NOT NULL REFERENCES entry_user ON DELETE CASCADE, device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE,
  mac text NOT NULL, why text NOT NULL, day date NOT NULL DEFAULT current_date, count int NOT NULL, last_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (user_id, day, device_id, mac, why));
CREATE TABLE entry_trial (
  id uuid PRIMARY KEY, device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE, sealed bytea NOT NULL, classes jsonb NOT NULL,
  at timestamptz NOT NULL DEFAULT now());
CREATE TABLE entry_certificate (
  id uuid PRIMARY KEY, kind text NOT NULL, name text NOT NULL, cert text NOT NULL, sealed bytea NOT NULL, until timestamptz NOT NULL,
  made_at timestamptz NOT NULL DEFAULT now());
CREATE INDEX entry_trial_device ON entry_trial (device_id);
`;
