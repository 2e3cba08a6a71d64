/** Edits that one press made, so that one press takes them back: the number of the first of them. */
export const name = '0022-together';
export const sql = `ALTER TABLE operation ADD COLUMN together int;`;
