import type { StepState, WhatStopDoes } from './rollout.contract';

/** A step of a rollout, by what happens to it; or several of a site to which the same happens. */
export interface CountedStep {
  readonly siteId: string;
  readonly state: StepState;
  readonly count?: number;
}

/** States in which a device runs, or is to run, what it is told. */
export const isTold = (state: StepState): boolean => state === 'kept' || state === 'later' || state === 'telling';

/** Sites of which every device was told, or will be when it calls. */
export function wholeSites(steps: readonly CountedStep[]): ReadonlySet<string> {
  const whole = new Set(steps.map(({ siteId }) => siteId));
  for (const { siteId, state } of steps) if (state !== 'kept' && state !== 'later') whole.delete(siteId);
  return whole;
}

/** What stopping here would do (`stop`), and what going back would. */
export function whatStopDoes(steps: readonly CountedStep[], how: 'stop' | 'back'): WhatStopDoes {
  const whole = how === 'stop' ? wholeSites(steps) : new Set<string>();
  const count = (which: (step: CountedStep) => boolean): { devices: number; sites: number } => {
    const some = steps.filter(which);
    const devices = some.reduce((sum, { count = 1 }) => sum + count, 0);
    return { devices, sites: new Set(some.map(({ siteId }) => siteId)).size };
  };
  return {
    stay: count(({ siteId }) => whole.has(siteId)),
    back: count(({ siteId, state }) => !whole.has(siteId) && isTold(state)),
    never: count(({ siteId, state }) => !whole.has(siteId) && !isTold(state)),
  };
}
