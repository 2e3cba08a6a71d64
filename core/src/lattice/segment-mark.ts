import type { Segment } from '../intent';

/** How many colours the palette of segments has. */
export const SEGMENT_COLOURS = 8;

/** What a segment is recognised by: a letter that no other of the site has, and one of the palette's colours. */
export interface SegmentMark {
  readonly letter: string;
  /** 0 to SEGMENT_COLOURS - 1. */
  readonly colour: number;
}

/**
 * Gives each segment of a site its mark: the first letter of its name that is free, else any free letter or digit.
 * Stable as long as segments before it in the list stay.
 */
export function segmentMarks(segments: readonly Pick<Segment, 'id' | 'name'>[]): Map<string, SegmentMark> {
  const marks = new Map<string, SegmentMark>();
  const used = new Set<string>();
  for (const [i, { id, name }] of segments.entries()) {
    const wanted = [...name.toUpperCase(), ...'ABCDEFGHIJKLMNOPQRSTUVWXYZ0123456789'];
    const letter = wanted.find((each) => /[A-Z0-9]/.test(each) && !used.has(each)) ?? '·';
    used.add(letter);
    marks.set(id, { letter, colour: i % SEGMENT_COLOURS });
  }
  return marks;
}
