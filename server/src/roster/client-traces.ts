/**
 * Tables in which it stands which client was at which device (`mac`, `device_id`), beside the register: whoever erases a client, or has nothing kept of
 * some, means these too. Who writes there asks `client_is_kept(device, ssid)`, which the register’s migration makes.
 */
export const CLIENT_TRACES = [
  { table: 'air_visit', at: 'at' },
  { table: 'air_range', at: 'day' },
] as const;
