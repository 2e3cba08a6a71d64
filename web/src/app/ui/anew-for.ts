import { computed, linkedSignal, untracked, type WritableSignal } from '@angular/core';

/**
 * What somebody types, chooses or was told about one thing: it begins anew when the thing becomes another, and only then,
 * whatever is heard of it meanwhile.
 * @param of tells things apart: a text, a number, or nothing.
 * @param first what it begins with.
 */
export function anewFor<T>(of: () => string | number | null | undefined, first: () => T): WritableSignal<T> {
  return linkedSignal({ source: computed(of), computation: (_of) => untracked(first) });
}
