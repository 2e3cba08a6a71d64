/** The directory that is asked for users who are not kept here: what is said of it, its account’s password sealed, and how it fared last. */
export const name = '0017-directory';
export const sql = `
CREATE TABLE entry_directory (
  one boolean PRIMARY KEY DEFAULT true CHECK (one), id uuid NOT NULL, fields jsonb NOT NULL, sealed bytea, version int NOT NULL DEFAULT 1,
  health jsonb);
`;
