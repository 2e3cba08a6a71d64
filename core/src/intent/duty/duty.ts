import type { PortFields, TaggedSegments } from '../port/port';

/** What a port is for, said once for many ports. */
export interface PortDuty extends Partial<Omit<PortFields, 'group' | 'untagged' | 'tagged'>> {
  readonly id: string;
  readonly name: string;
  readonly untagged: string | null;
  readonly tagged: TaggedSegments;
}
