/** Messages that do not fit a notification, tries of a rollout, who called from where, and versions of what is typed. */
export const name = '0005-limits';
export const sql = `
CREATE TABLE bus_message (
  id bigint GENERATED ALWAYS AS IDENTITY PRIMARY KEY, body text NOT NULL, at timestamptz NOT NULL DEFAULT now());
CREATE INDEX bus_message_at ON bus_message (at);
ALTER TABLE rollout ADD attempts int NOT NULL DEFAULT 0;
ALTER TABLE site ADD version int NOT NULL DEFAULT 0;
ALTER TABLE device ADD version int NOT NULL DEFAULT 0, ADD called_from text;
CREATE INDEX device_strangers ON device (called_from) WHERE site_id IS NULL AND expected_site_id IS NULL;
ALTER TABLE hitch ADD called_from text;
CREATE INDEX hitch_strangers ON hitch (called_from) WHERE settled_at IS NULL AND device_id IS NULL;
`;
