import type { SegmentStreams } from '@iron-lattice/core/assess';
import type { CourseOutcome, Outcome, PathSpan, Rehearsed } from '@iron-lattice/core/paths';
import { clockOf } from './clock-of';
import type { Titles } from './rehearsal-words';
import { secondsWords } from './watch-curve';

/** What becomes of segments that leave alike: of what leaves as usual, or of a course. */
export interface SegmentLine {
  readonly key: string;
  /** Names of the segments; empty where the line before has them. */
  readonly segments: string;
  /** The course; empty: all that leaves of them. */
  readonly whose: string;
  readonly leaves: string;
  readonly waits: string;
  readonly dark: boolean;
  /** For how long no uplink of its own is as it needs; empty: never. */
  readonly unmet: string;
  readonly broken: string;
}

/** Segments that leave alike together, with what becomes of each stream of theirs. */
export function segmentLines(
  streams: readonly SegmentStreams[],
  { mean, worst }: { readonly mean: Rehearsed; readonly worst: Rehearsed },
  titles: Titles,
): SegmentLine[] {
  const alike = new Map<string, SegmentStreams[]>();
  for (const each of streams) {
    const key = `${each.usual} ${each.courses.join()}`;
    alike.set(key, [...(alike.get(key) ?? []), each]);
  }
  return [...alike].flatMap(([key, group]) => {
    const { usual, courses } = group[0]!;
    const of = (id: string): [string, CourseOutcome, CourseOutcome][] => {
      const [one, most] = [mean, worst].map((made) => made.courses?.find((each) => each.id === id));
      return one && most ? [[titles.get(id) ?? id, one, most]] : [];
    };
    const named: readonly [string, Outcome & { readonly unmet?: number }, Outcome][] = [
      ...courses.flatMap(of),
      ...(usual ? [[courses.length > 0 ? 'the rest' : '', mean, worst] as [string, Outcome, Outcome]] : []),
    ];
    return named.map(([whose, one, most], i): SegmentLine => ({
      ...{ key: `${key} ${whose}`, whose, dark: most.dark > 0 },
      segments: i === 0 ? group.map(({ name }) => name).join(', ') : '',
      leaves: leavesWords(one.spans, titles),
      waits: most.longest === 0 ? 'not at all' : `${secondsWords(one.longest)}, at worst ${secondsWords(most.longest)}`,
      unmet: one.unmet ? secondsWords(one.unmet) : '',
      broken: `${Math.round(Math.min(1, most.broken) * 100)} %`,
    }));
  });
}

/** By what something leaves along the time. */
function leavesWords(spans: readonly PathSpan[], titles: Titles): string {
  const turns: { readonly from: number; readonly by: string }[] = [];
  for (const { from, used } of spans) {
    const by = used.map(({ port }) => titles.get(port) ?? port).join(' + ') || 'nothing';
    if (turns.at(-1)?.by !== by) turns.push({ from, by });
  }
  return turns.map(({ from, by }, i) => (i === 0 ? by : `from ${clockOf(from)} ${by}`)).join('; ');
}
