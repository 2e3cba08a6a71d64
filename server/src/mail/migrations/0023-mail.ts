/** How mail is sent: one row, or none. The password is sealed. */
export const name = '0023-mail';
export const sql = `
CREATE TABLE mail_setting (
  one boolean PRIMARY KEY DEFAULT true CHECK (one), fields jsonb NOT NULL, sealed bytea, version int NOT NULL DEFAULT 1);
`;
