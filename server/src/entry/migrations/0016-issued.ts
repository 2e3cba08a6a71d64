/** Certificates that the estate’s authority made, without their keys, and which of them were taken back. */
export const name = '0016-issued';
export const sql = `
CREATE TABLE entry_issued (
  serial text PRIMARY KEY, kind text NOT NULL, user_id uuid REFERENCES entry_user ON DELETE SET NULL, name text NOT NULL, label text NOT NULL,
  sha256 text NOT NULL, person_id uuid NOT NULL REFERENCES person, made_at timestamptz NOT NULL DEFAULT now(), until timestamptz NOT NULL,
  revoked_at timestamptz);
CREATE INDEX entry_issued_user ON entry_issued (user_id);
`;
