/** When somebody was asked who is let in again since its device is known; null: when its visit began. */
export const name = '0028-known';
export const sql = `
ALTER TABLE visit ADD COLUMN asked_at timestamptz;
`;
