import type { Purposed } from '../purpose';

/** Segments that share the clients of an SSID; a client stays in one by its MAC address. */
export interface VlanPool extends Purposed {
  readonly id: string;
  readonly name: string;
  /** VLAN IDs as a list, canonical: ascending, neighbours joined. */
  readonly vlans: string;
}
