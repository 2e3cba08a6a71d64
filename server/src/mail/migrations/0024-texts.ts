/** How text messages are sent: one row, or none. The secret is sealed. */
export const name = '0024-texts';
export const sql = `
CREATE TABLE text_setting (
  one boolean PRIMARY KEY DEFAULT true CHECK (one), fields jsonb NOT NULL, sealed bytea, version int NOT NULL DEFAULT 1);
`;
