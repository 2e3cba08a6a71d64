/** The certificate that each RADIUS server showed when it was asked last; and ways to those that end soon. */
export const name = '0018-shown';
export const sql = `
CREATE TABLE entry_shown (
  radius_id uuid PRIMARY KEY, name text NOT NULL, sha256 text NOT NULL, until timestamptz NOT NULL, at timestamptz NOT NULL);
CREATE INDEX entry_issued_until ON entry_issued (until) WHERE revoked_at IS NULL;
CREATE INDEX entry_issued_name ON entry_issued (name);
`;
