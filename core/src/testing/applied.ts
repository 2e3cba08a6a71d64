import { apply, type Intent, type Operation, type RosterDevice } from '../intent';

const lookIn =
  (roster: readonly RosterDevice[]) =>
  (id: string): RosterDevice | undefined =>
    roster.find((device) => device.id === id);

/** An intent after edits that all have to fit, where some devices are. @throws Error with what was wrong. */
export const appliedWith = (
  roster: readonly RosterDevice[],
  intent: Intent,
  ...operations: readonly Operation[]
): Intent =>
  operations.reduce((now, operation) => {
    const result = apply(now, operation, lookIn(roster));
    if (!result.ok) throw new Error(JSON.stringify(result.flaws));
    return result.intent;
  }, intent);

/** The same of edits that ask for no device. */
export const applied = (intent: Intent, ...operations: readonly Operation[]): Intent =>
  appliedWith([], intent, ...operations);

/** What is wrong with an edit: the field of each flaw and its words. @throws Error when it fits. */
export function refusedWith(roster: readonly RosterDevice[], intent: Intent, operation: Operation): string {
  const result = apply(intent, operation, lookIn(roster));
  if (result.ok) throw new Error('it was taken');
  return result.flaws.map(({ message, field }) => `${field ?? ''}: ${message}`).join(' ');
}
