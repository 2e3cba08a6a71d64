import { lastOf, parsePrefix } from '../../address';
import type { Join } from './member';

/** Prefixes as what they reach from and to. Those of IPv4 are doubles, which are compared quicker than whole numbers of any size. */
export interface Spans {
  readonly texts: readonly string[];
  /** First and last address of each, one pair after the other; of other versions none. */
  readonly four: Float64Array;
  readonly six: readonly (readonly [at: number, first: bigint, last: bigint])[];
}

/** Prefixes that cannot be read meet nothing. */
export function joinSpans(texts: readonly string[]): Spans {
  const four = new Float64Array(texts.length * 2).fill(-1);
  const six: [number, bigint, bigint][] = [];
  for (const [at, text] of texts.entries()) {
    const prefix = parsePrefix(text);
    if (prefix?.version === 4) four.set([Number(prefix.network), Number(lastOf(prefix))], at * 2);
    else if (prefix) six.push([at, prefix.network, lastOf(prefix)]);
  }
  return { texts, four, six };
}

/** Joins never change once they are there, and are held against others with each that is added. */
const known = new WeakMap<Join, Spans>();
export function spansOfJoin(join: Join): Spans {
  let spans = known.get(join);
  if (!spans) known.set(join, (spans = joinSpans(join.carries)));
  return spans;
}

/** The first of some prefixes that is in part the same as one of others, and that one; null: none is. */
export function meeting(a: Spans, b: Spans): readonly [one: string, other: string] | null {
  for (let i = 0; i < a.four.length; i += 2) {
    const [first, last] = [a.four[i]!, a.four[i + 1]!];
    if (first < 0) continue;
    for (let j = 0; j < b.four.length; j += 2)
      if (b.four[j]! >= 0 && first <= b.four[j + 1]! && b.four[j]! <= last) return [a.texts[i / 2]!, b.texts[j / 2]!];
  }
  for (const [i, first, last] of a.six)
    for (const [j, start, end] of b.six) if (first <= end && start <= last) return [a.texts[i]!, b.texts[j]!];
  return null;
}
