/** Of a gateway in factory state, how it comes to an address by what somebody said at its own page. */
export const name = '0031-first-uplink';
export const sql = `ALTER TABLE device ADD COLUMN first jsonb;`;
