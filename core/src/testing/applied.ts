import { apply, type Intent, type Operation, type RosterDevice } from '../intent';

/** An intent after edits that all have to fit, where some devices are. @throws Error with what was wrong. */
export const appliedWith = (
  roster: readonly RosterDevice[],
  intent: Intent,
  ...operations: readonly Operation[]
): Intent =>
  operations.reduce((now, operation) => {
    const result = apply(now, operation, (id) => roster.find((device) => device.id === id));
    if (!result.ok) throw new Error(JSON.stringify(result.flaws));
    return result.intent;
  }, intent);

/** The same of edits that ask for no device. */
export const applied = (intent: Intent, ...operations: readonly Operation[]): Intent =>
  appliedWith([], intent, ...operations);
