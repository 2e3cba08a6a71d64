import type { OfSite } from '../kept-list';
import type { LeavingEntry, UplinkEntry } from './uplink';

/** All that was said of one port towards a provider; null: nothing. */
export interface UplinkSetOperation extends OfSite {
  readonly type: 'uplink.set';
  readonly deviceId: string;
  readonly port: string;
  readonly from: UplinkEntry | null;
  readonly to: UplinkEntry | null;
}

/** All that was said of how a gateway uses its uplinks together; null: nothing. */
export interface LeavingOperation extends OfSite {
  readonly type: 'uplink.leaving';
  readonly deviceId: string;
  readonly from: LeavingEntry | null;
  readonly to: LeavingEntry | null;
}

export type UplinkOperation = UplinkSetOperation | LeavingOperation;
