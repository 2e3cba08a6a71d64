import { linkedSignal, type WritableSignal } from '@angular/core';

/**
 * What somebody types over what is kept. Untouched it follows what is kept, whatever is heard meanwhile; touched it stays
 * as typed for as long as it is of the same thing. Of an object each field is looked at alone.
 * @param of tells things apart: another one begins anew.
 */
export function typedOver<T>(of: () => unknown, kept: () => T): WritableSignal<T> {
  return linkedSignal<{ readonly of: unknown; readonly kept: T }, T>({
    source: () => ({ of: of(), kept: kept() }),
    computation: (now, previous) =>
      previous && previous.source.of === now.of
        ? followUnlessTyped(previous.source.kept, previous.value, now.kept)
        : now.kept,
  });
}

/** What stands in a form when what is kept becomes another: as typed where something was typed, else as kept; each field alone. */
export function followUnlessTyped<T>(before: T, typed: T, now: T): T {
  if (!isRecord(before) || !isRecord(typed) || !isRecord(now)) return same(before, typed) ? now : typed;
  const fields = Object.keys({ ...now, ...typed }).map((key) => [
    key,
    followUnlessTyped(before[key], typed[key], now[key]),
  ]);
  return Object.fromEntries(fields) as T;
}

const isRecord = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
const same = (a: unknown, b: unknown): boolean => JSON.stringify(a) === JSON.stringify(b);
