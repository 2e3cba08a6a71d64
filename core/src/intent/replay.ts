import type { Flaw } from '../base';
import { apply } from './apply';
import type { RosterLookup } from './edit';
import type { Intent } from './part';
import type { Operation } from './registry';

/** An edit that no longer fits where it was replayed, and why. */
export interface Misfit<T extends Operation> {
  readonly operation: T;
  readonly flaws: readonly Flaw[];
}

/** The outcome of a replay: edits that fit are in `intent`, the others are left out and listed. */
export interface Replay<T extends Operation = Operation> {
  readonly intent: Intent;
  readonly fitting: readonly T[];
  readonly misfits: readonly Misfit<T>[];
}

/** Applies edits in order to a base, which may be newer than the one they were made on. */
export function replay<T extends Operation>(base: Intent, operations: readonly T[], roster: RosterLookup): Replay<T> {
  let intent = base;
  const fitting: T[] = [];
  const misfits: Misfit<T>[] = [];
  for (const operation of operations) {
    const result = apply(intent, operation, roster);
    if (result.ok) {
      intent = result.intent;
      fitting.push(operation);
    } else misfits.push({ operation, flaws: result.flaws });
  }
  return { intent, fitting, misfits };
}
