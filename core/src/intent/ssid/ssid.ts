import type { SecretRef } from '../../base';
import type { SsidSecurity } from '../../document';
import type { Band } from '../../hardware';
import type { Purposed } from '../purpose';
import type { SharedReach } from '../reach';
import type { Isolation } from '../segment/segment';

export interface Ssid extends Purposed {
  readonly id: string;
  /** 1 to 32 bytes of UTF-8 on the air (IEEE 802.11-2020 §9.4.2.2). */
  readonly name: string;
  readonly security: SsidSecurity;
  readonly passphrase: SecretRef;
  readonly bands: readonly Band[];
  /** Name of the segment, or else of the pool, that its clients join; each site looks it up among its own. */
  readonly segment: string;
  readonly reach: SharedReach;
  /** What its clients are kept from, whatever their segment is. */
  readonly isolation?: Isolation | null;
  /** Whether clients of a class join its segment instead. In an edit, null takes it away. */
  readonly byClass?: boolean | null;
}
