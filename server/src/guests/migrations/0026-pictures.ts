/** Pictures of portals, cleaned: each once, whoever has it. */
export const name = '0026-pictures';
export const sql = `
CREATE TABLE portal_picture (
  id text PRIMARY KEY, width int NOT NULL, height int NOT NULL, octets bytea NOT NULL, person_id uuid NOT NULL REFERENCES person,
  at timestamptz NOT NULL DEFAULT now());
`;
