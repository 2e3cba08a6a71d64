/** What guests said who they are, to whom a code was sent, or whom somebody was asked about. What is not said is empty. */
export const name = '0025-asking';
export const sql = `
CREATE TABLE guest_ask (
  id uuid PRIMARY KEY, portal_id uuid NOT NULL, site_id uuid NOT NULL, device_id uuid NOT NULL, place text NOT NULL, mac text NOT NULL,
  way text NOT NULL, language text NOT NULL, terms text, contact text, contact_by text, said jsonb NOT NULL, whom text, sponsors text[] NOT NULL,
  print text, wrong int NOT NULL DEFAULT 0, first boolean NOT NULL, at timestamptz NOT NULL, until timestamptz NOT NULL,
  state text NOT NULL DEFAULT 'open', answered_at timestamptz, answered_by text);
CREATE UNIQUE INDEX guest_ask_open ON guest_ask (portal_id, mac) WHERE state = 'open';
CREATE INDEX guest_ask_mac ON guest_ask (mac, at DESC);
ALTER TABLE visit ADD COLUMN ask_id uuid REFERENCES guest_ask ON DELETE SET NULL;
CREATE INDEX visit_ask ON visit (ask_id) WHERE ask_id IS NOT NULL;
`;
