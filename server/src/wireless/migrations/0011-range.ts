/** How well APs heard their clients, by day. */
export const name = '0011-range';
export const sql = `
CREATE TABLE air_range (
  device_id uuid NOT NULL REFERENCES device ON DELETE CASCADE, band text NOT NULL, mac text NOT NULL, day date NOT NULL,
  best smallint NOT NULL, weakest smallint NOT NULL, PRIMARY KEY (device_id, band, mac, day));
CREATE INDEX air_range_day ON air_range (day);
`;
