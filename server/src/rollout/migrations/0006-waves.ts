/** What is live for each site, and rollouts in waves. */
export const name = '0006-waves';
export const sql = `
ALTER TABLE site ADD live_estate char(64), ADD live_part char(64), ADD live_revision int NOT NULL DEFAULT 0;
UPDATE site s SET
  live_part = coalesce(r.parts->>(s.id::text), s.founding_hash),
  live_estate = coalesce(r.parts->>'estate', e.founding_hash),
  live_revision = e.live_revision
FROM estate e LEFT JOIN revision r ON r.number = e.live_revision;
ALTER TABLE site ALTER live_estate SET NOT NULL, ALTER live_part SET NOT NULL;
ALTER TABLE revision ADD moved jsonb NOT NULL DEFAULT '{}';
ALTER TABLE draft ADD on_revision int, ADD description text NOT NULL DEFAULT '';
ALTER TABLE rollout ADD plan jsonb, ADD waves jsonb NOT NULL DEFAULT '[]', ADD wave int NOT NULL DEFAULT 0, ADD rest_until timestamptz,
  ADD asked text, ADD accepted jsonb NOT NULL DEFAULT '[]', ADD base int NOT NULL DEFAULT 0;
UPDATE rollout SET base = (SELECT live_revision FROM estate) WHERE ended_at IS NULL;
UPDATE rollout SET state = 'running', asked = 'back' WHERE state = 'cancelled' AND ended_at IS NULL;
ALTER TABLE rollout_step ADD wave int NOT NULL DEFAULT 0, ADD site_id uuid;
UPDATE rollout_step s SET site_id = d.site_id FROM device d WHERE d.id = s.device_id;
CREATE TABLE rollout_site (
  rollout_id uuid NOT NULL REFERENCES rollout, site_id uuid NOT NULL, wave int NOT NULL, live boolean NOT NULL DEFAULT false,
  before_estate char(64) NOT NULL, before_part char(64) NOT NULL, before_revision int NOT NULL,
  clients int, PRIMARY KEY (rollout_id, site_id));
INSERT INTO rollout_site (rollout_id, site_id, wave, before_estate, before_part, before_revision)
SELECT DISTINCT r.id, s.id, 0, s.live_estate, s.live_part, s.live_revision
FROM rollout r JOIN rollout_step t ON t.rollout_id = r.id JOIN site s ON s.id = t.site_id WHERE r.ended_at IS NULL;
`;
