import type { PortFields, TaggedSegments } from '../port/port';
import type { Purposed } from '../purpose';

/** What a port is for, said once for many ports. */
export interface PortDuty extends Purposed, Partial<Omit<PortFields, 'group' | 'untagged' | 'tagged'>> {
  readonly id: string;
  readonly name: string;
  readonly untagged: string | null;
  readonly tagged: TaggedSegments;
}
