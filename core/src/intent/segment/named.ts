import type { Segment } from './segment';

/** The segment that clients mean by a name, whatever the case of its letters. */
export const segmentNamed = (segments: readonly Segment[], name: string): Segment | undefined =>
  segments.find((each) => each.name.toLowerCase() === name.toLowerCase());
