/** Key rings: keys beside intent, how far each ring has come, and which devices gave which key. */
export const name = '0010-rings';
export const sql = `
CREATE TABLE ring (ssid_id uuid PRIMARY KEY, at bigint NOT NULL DEFAULT 0, floor bigint NOT NULL DEFAULT 0);
CREATE TABLE ring_key (
  id uuid PRIMARY KEY, ssid_id uuid NOT NULL REFERENCES ring ON DELETE CASCADE, name text NOT NULL, sealed bytea NOT NULL,
  print text NOT NULL, segment text, macs text[] NOT NULL DEFAULT '{}', most int, starts text, ends text, note text NOT NULL DEFAULT '',
  at bigint NOT NULL, person_id uuid NOT NULL REFERENCES person, made_at timestamptz NOT NULL DEFAULT now(), revoked_at timestamptz,
  master bytea, master_of text);
CREATE UNIQUE INDEX ring_key_print ON ring_key (ssid_id, print) WHERE revoked_at IS NULL;
CREATE UNIQUE INDEX ring_key_name ON ring_key (ssid_id, lower(name)) WHERE revoked_at IS NULL;
CREATE INDEX ring_key_at ON ring_key (ssid_id, at);
CREATE TABLE ring_device (
  key_id uuid NOT NULL REFERENCES ring_key ON DELETE CASCADE, mac text NOT NULL, first_at timestamptz NOT NULL DEFAULT now(),
  last_at timestamptz NOT NULL DEFAULT now(), PRIMARY KEY (key_id, mac));
ALTER TABLE device ADD COLUMN rings jsonb NOT NULL DEFAULT '{}';
`;
