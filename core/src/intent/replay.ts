import { sameValue, type Flaw } from '../base';
import { apply } from './apply';
import type { RosterLookup } from './edit';
import type { Intent } from './part';
import type { Operation } from './registry';
import type { RosterDevice } from './roster';

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

/** An edit with its number, under which it never changes. */
export type Numbered<T extends Operation = Operation> = T & { readonly number: number };

/** What numbered edits came to, and on what. */
export interface Replayed {
  readonly base: Intent;
  readonly roster: readonly RosterDevice[];
  readonly operations: readonly Numbered[];
  readonly intent: Intent;
  readonly misfits: readonly Misfit<Numbered>[];
}

/**
 * The same as {@link replay}, but where the edits go on from some that were replayed before, on the same base and with the same devices,
 * only those that are new are applied.
 */
export function replayFurther(
  before: Replayed | null,
  base: Intent,
  operations: readonly Numbered[],
  roster: readonly RosterDevice[],
): Replayed {
  const begun = before && goesOn(before, base, operations, roster) ? before : null;
  const byId = new Map(roster.map((device) => [device.id, device]));
  const rest = operations.slice(begun?.operations.length ?? 0);
  const { intent, misfits } = replay(begun?.intent ?? base, rest, (id) => byId.get(id));
  return { base, roster, operations, intent, misfits: [...(begun?.misfits ?? []), ...misfits] };
}

/** Whether what was replayed is what the first of these edits come to. */
const goesOn = (
  before: Replayed,
  base: Intent,
  operations: readonly Numbered[],
  roster: readonly RosterDevice[],
): boolean =>
  before.operations.length <= operations.length &&
  before.operations.every(({ number }, i) => number === operations[i]!.number) &&
  before.base.estate === base.estate &&
  before.base.sites.size === base.sites.size &&
  // Parts never change: a base is the same where each of them is the same object.
  [...base.sites].every(([id, site]) => before.base.sites.get(id) === site) &&
  sameValue(before.roster, roster);
