/** Keys of rings that lead to an access class. */
export const name = '0019-key-classes';
export const sql = `
ALTER TABLE ring_key ADD COLUMN access_class text;
`;
