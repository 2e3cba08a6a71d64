import { offer } from '../platform/offers';

/**
 * Tables in which it stands which client was at which device (`mac`, `device_id`), beside the register: whoever erases a client, or has nothing kept of
 * some, means these too. Who writes there asks `client_is_kept(device, ssid)`, which the register’s migration makes.
 */
export const CLIENT_TRACES = [
  { table: 'air_visit', at: 'at' },
  { table: 'air_range', at: 'day' },
] as const;

/** Whoever writes there a moment later than it hears: what waits is written before somebody is erased, not after. */
export interface TraceWriter {
  flush(): Promise<void>;
}
export const TRACE_WRITERS = offer<TraceWriter>('trace-writers');
