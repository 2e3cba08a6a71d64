import type { PathState } from './path-state';
import type { LeavingState } from './paths.contract';

/** What of an uplink tells how its gateway leaves. */
export interface LeavingBy {
  readonly state: PathState;
  readonly used: boolean;
  /** It is there for when others fail. */
  readonly standby?: true;
}

/** How a gateway leaves. Ports without a cable tell nothing. */
export function leavingState(uplinks: readonly LeavingBy[]): LeavingState {
  const cabled = uplinks.filter(({ state }) => state !== 'unplugged');
  const good = cabled.filter(({ state }) => state === 'good' || state === 'waits');
  if (good.length === 0) return 'none';
  if (good.some(({ used, standby }) => used && standby)) return 'standby';
  return good.length < cabled.length ? 'lost' : 'whole';
}
