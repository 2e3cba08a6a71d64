import type { Prefix } from './prefix';
import { subtractPrefixes } from './range';

/** `first`: the lowest address that fits; `best`: the smallest free block that fits, then the lowest. */
export type FreePolicy = 'first' | 'best';

/**
 * Finds a free prefix of a length inside a parent. Free space is the parent less what is used, as maximal
 * aligned blocks; the result is the start of a block that is at least as large.
 * @returns null when nothing fits or `length` is shorter than the parent's.
 */
export function nextFreePrefix(
  parent: Prefix,
  used: readonly Prefix[],
  length: number,
  policy: FreePolicy = 'first',
): Prefix | null {
  if (length < parent.length) return null;
  const fitting = subtractPrefixes(parent, used).filter((block) => block.length <= length);
  if (policy === 'best') fitting.sort((a, b) => b.length - a.length); // stable: equals stay ascending
  const block = fitting[0];
  return block ? { version: parent.version, network: block.network, length } : null;
}
