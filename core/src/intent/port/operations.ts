import type { OfSite } from '../kept-list';
import type { PortEntry } from './port';

interface AtPort extends OfSite {
  readonly deviceId: string;
  readonly port: string;
}

/** Adds one tagged segment to a port, or takes it off. */
export interface PortTagOperation<T extends 'port.tag' | 'port.untag'> extends AtPort {
  readonly type: T;
  readonly segmentId: string;
}

export type PortOperation =
  | PortTagOperation<'port.tag'>
  | PortTagOperation<'port.untag'>
  | ({ readonly type: 'port.untagged'; readonly from: string | null; readonly to: string | null } & AtPort)
  /** All that was said of the port; null: nothing. */
  | ({ readonly type: 'port.set'; readonly from: PortEntry | null; readonly to: PortEntry | null } & AtPort);
