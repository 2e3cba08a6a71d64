import type { Watching } from './detection';
import type { HealthRule } from './health';
import type { Target } from './targets';

/** How an uplink is watched, and when it is used again. */
export interface Watch extends Watching, HealthRule {
  /** What is asked; it counts as lost when none of them answers. */
  readonly targets: readonly Target[];
}

/** How an uplink is watched while nobody says otherwise: the provider’s own router, every five seconds. */
export const USUAL_WATCH: Watch = {
  targets: [{ by: 'ping', to: 'gateway' }],
  interval: 5,
  losses: 3,
  timeout: 2,
  good: 3,
  hold: 15,
};
/** The same where each octet is paid for, and answers take long. */
export const SPARING_WATCH: Watch = { ...USUAL_WATCH, interval: 20, timeout: 5, hold: 60 };
