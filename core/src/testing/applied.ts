import { apply, type Intent, type Operation } from '../intent';

/** An intent after edits that all have to fit. @throws Error with what was wrong. */
export const applied = (intent: Intent, ...operations: readonly Operation[]): Intent =>
  operations.reduce((now, operation) => {
    const result = apply(now, operation, () => undefined);
    if (!result.ok) throw new Error(JSON.stringify(result.flaws));
    return result.intent;
  }, intent);
