import { sameValue } from '../base';

/** What is said, without fields that say nothing. */
export const withoutGaps = <T extends object>(entry: T | null): T =>
  Object.fromEntries(Object.entries(entry ?? {}).filter(([, value]) => value !== undefined)) as T;

/** The fields that are not as they would be anyway; null where all are. */
export function differing<T extends object>(fields: T, usual: T): Partial<T> | null {
  const own = Object.entries(fields).filter(([key, value]) => !sameValue(value, usual[key as keyof T]));
  return own.length > 0 ? (Object.fromEntries(own) as Partial<T>) : null;
}
