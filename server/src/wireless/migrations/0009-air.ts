/** What APs heard, the last scans by site, and quick looking up of edits of radios. */
export const name = '0009-air';
export const sql = `
CREATE TABLE air_heard (
  device_id uuid PRIMARY KEY REFERENCES device ON DELETE CASCADE, at timestamptz NOT NULL DEFAULT now(), scan jsonb NOT NULL);
CREATE TABLE air_scan (
  site_id uuid PRIMARY KEY REFERENCES site ON DELETE CASCADE, id uuid NOT NULL, person_id uuid NOT NULL REFERENCES person,
  started_at timestamptz NOT NULL DEFAULT now(), alive_at timestamptz NOT NULL DEFAULT now(), running boolean NOT NULL DEFAULT true,
  stopping boolean NOT NULL DEFAULT false, steps jsonb NOT NULL);
CREATE TABLE air_facts (site_id uuid PRIMARY KEY REFERENCES site ON DELETE CASCADE, facts jsonb NOT NULL);
CREATE TABLE air_visit (
  mac text NOT NULL, device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE, at timestamptz NOT NULL, band text,
  PRIMARY KEY (mac, device_id, at));
CREATE TABLE air_recurrence (
  site_id uuid PRIMARY KEY REFERENCES site ON DELETE CASCADE, person_id uuid NOT NULL REFERENCES person, settings jsonb NOT NULL,
  last_at timestamptz, last text NOT NULL DEFAULT '');
CREATE TABLE speed_test (
  id uuid PRIMARY KEY, site_id uuid NOT NULL REFERENCES site ON DELETE CASCADE, device_id uuid NOT NULL, name text NOT NULL,
  person_id uuid NOT NULL REFERENCES person, at timestamptz NOT NULL DEFAULT now(), revision int NOT NULL, asked jsonb NOT NULL,
  got jsonb NOT NULL, predicted real);
CREATE INDEX speed_test_site ON speed_test (site_id, at DESC);
CREATE INDEX operation_radio ON operation ((body->>'siteId')) WHERE body->>'type' LIKE 'radio.%';
`;
