/** When an uplink counts as gone, and when as good again. */
export interface HealthRule {
  /** Rounds in a row without any answer. */
  readonly losses: number;
  /** Rounds in a row with one, and for how many seconds it has to go on so. */
  readonly good: number;
  readonly hold: number;
}

/** What checks made of an uplink so far. Times in milliseconds since 1970. */
export interface Health {
  readonly good: boolean;
  /** Rounds in a row that tell otherwise. */
  readonly run: number;
  /** Since when it has been as it is. */
  readonly since: number;
  /** Since when it answers, while it counts as gone. */
  readonly clear: number | null;
  /** How often it came back and went again lately: it has to stay good twice as long each time. */
  readonly flaps: number;
  /** Whether it was ever gone. */
  readonly returned: boolean;
}

/** Going again this soon after it came back, in milliseconds, is flapping. */
export const FLAP_MS = 600_000;
/** Doublings of the time that it has to stay good. */
const MOST_DOUBLED = 5;

/** An uplink of which nothing bad is known. */
export const healthy = (at: number): Health => ({
  good: true,
  run: 0,
  since: at,
  clear: null,
  flaps: 0,
  returned: false,
});

/** One whose link is down, which needs no check. */
export const unplugged = (before: Health, at: number): Health =>
  before.good ? gone(before, at) : { ...before, run: 0, clear: null };

/** Seconds for which an uplink has to stay good until it is used again. */
export const holdOf = ({ hold }: HealthRule, { flaps }: Health): number => hold * 2 ** Math.min(flaps, MOST_DOUBLED);

/** What one more round makes of it. @param answered whether any target did. @param at when that was known. */
export function checked(before: Health, answered: boolean, at: number, rule: HealthRule): Health {
  if (before.good) {
    if (answered) return before.run === 0 ? before : { ...before, run: 0 };
    const run = before.run + 1;
    return run >= rule.losses ? gone(before, at) : { ...before, run };
  }
  if (!answered) return { ...before, run: 0, clear: null };
  const [run, clear] = [before.run + 1, before.clear ?? at];
  const isBack = run >= rule.good && at - clear >= holdOf(rule, before) * 1000;
  return isBack
    ? { good: true, run: 0, since: at, clear: null, flaps: before.flaps, returned: true }
    : { ...before, run, clear };
}

function gone(before: Health, at: number): Health {
  const again = before.returned && at - before.since < FLAP_MS;
  return {
    good: false,
    run: 0,
    since: at,
    clear: null,
    flaps: again ? before.flaps + 1 : 0,
    returned: before.returned,
  };
}
