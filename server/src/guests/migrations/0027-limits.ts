/** After how long without taking anything visits end, when their guests took something last, and what ended them. */
export const name = '0027-limits';
export const sql = `
ALTER TABLE visit ADD COLUMN idle int, ADD COLUMN active_at timestamptz, ADD COLUMN ended_why text;
CREATE INDEX visit_idle ON visit (portal_id, mac) WHERE ended_at IS NULL AND idle IS NOT NULL;
`;
