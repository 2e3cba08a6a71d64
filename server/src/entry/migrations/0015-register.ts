/** Everybody who was seen: first, last, where and as what, with a name and a note of people’s; and what of it is kept. */
export const name = '0015-register';
export const sql = `
CREATE TABLE client_seen (
  mac text PRIMARY KEY, first_at timestamptz NOT NULL DEFAULT now(), last_at timestamptz NOT NULL DEFAULT now(), here boolean NOT NULL DEFAULT true,
  said text NOT NULL DEFAULT '', name text NOT NULL DEFAULT '', note text NOT NULL DEFAULT '');
CREATE INDEX client_seen_last ON client_seen (here DESC, last_at DESC);
CREATE TABLE client_place (
  mac text NOT NULL REFERENCES client_seen ON DELETE CASCADE, device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE, place text NOT NULL,
  site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE, ssid text, body jsonb NOT NULL, since bigint, times int NOT NULL DEFAULT 1,
  here boolean NOT NULL DEFAULT true, first_at timestamptz NOT NULL DEFAULT now(), last_at timestamptz NOT NULL DEFAULT now(),
  PRIMARY KEY (mac, device_id, place));
CREATE INDEX client_place_device ON client_place (device_id, here);
CREATE INDEX client_place_site ON client_place (site_id);
CREATE TABLE register_keeping (one boolean PRIMARY KEY DEFAULT true CHECK (one), days int NOT NULL);
INSERT INTO register_keeping (days) VALUES (90);
CREATE TABLE register_nothing (
  kind text NOT NULL, id uuid NOT NULL, name text NOT NULL, PRIMARY KEY (kind, id));
-- An SSID is known by its id, in what the device was told: its name may be another one since it was chosen.
CREATE FUNCTION client_is_kept(on_device uuid, on_ssid text) RETURNS boolean LANGUAGE sql STABLE AS $$
  SELECT NOT EXISTS (
    SELECT 1 FROM register_nothing n, device d WHERE d.id = on_device AND (
      n.kind = 'site' AND n.id = d.site_id OR n.kind = 'ssid' AND (n.name = on_ssid OR EXISTS (
        SELECT 1 FROM document t, jsonb_path_query(t.body, '$.ssids[*]') s
        WHERE t.hash IN (d.runs, d.applied, d.wants) AND s->>'id' = n.id::text AND s->>'name' = on_ssid)))) $$;
`;
