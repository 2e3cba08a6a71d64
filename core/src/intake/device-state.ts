/** Where a device is in its life with us, as shown everywhere. */
export type DeviceState = 'expected' | 'calling' | 'in step' | 'behind' | 'silent' | 'stuck';

/** The facts a state follows from. */
export interface DeviceFacts {
  readonly claimed: boolean;
  /** Whether its line is open now. */
  readonly online: boolean;
  /** Hash of the document it runs, as it last said. */
  readonly runs: string | null;
  /** Hash of the document it should run. */
  readonly wants: string | null;
  /** Why it refused or took back what it was last told; null when it did not. */
  readonly trouble: string | null;
}

/** The one state of a device; `expected` and `calling` are for devices that are not ours yet. */
export function deviceState(facts: DeviceFacts): DeviceState {
  if (!facts.claimed) return facts.online ? 'calling' : 'expected';
  if (!facts.online) return 'silent';
  if (facts.trouble !== null) return 'stuck';
  return facts.wants !== null && facts.runs === facts.wants ? 'in step' : 'behind';
}
