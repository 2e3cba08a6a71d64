/** People at receptions: the sites they look after, and who is there no more; the journal goes on naming them. */
export const name = '0021-reception';
export const sql = `
ALTER TABLE person ADD COLUMN site_ids uuid[], ADD COLUMN gone_at timestamptz, ADD COLUMN seen_at timestamptz;
CREATE INDEX visit_site ON visit (site_id, begun DESC);
`;
