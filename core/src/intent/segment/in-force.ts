import type { Segment } from './segment';

/** Segments of a site as they are in force, and those that are switched off. */
export interface InForce {
  readonly segments: readonly Segment[];
  readonly off: readonly Segment[];
  /** Those whose address service alone is switched off, as they are kept. */
  readonly quiet: readonly Segment[];
}

const known = new WeakMap<readonly Segment[], InForce>();
const NONE: readonly Segment[] = [];

/**
 * A site's segments without those that are switched off, and without the address services that are. The same list in gives the same
 * list out, and the list itself where nothing is off.
 */
export function inForce(segments: readonly Segment[]): InForce {
  const before = known.get(segments);
  if (before) return before;
  const isOff = ({ off, addresses }: Segment): boolean => Boolean(off || addresses?.off);
  const made: InForce = segments.some(isOff)
    ? {
        segments: segments
          .filter(({ off }) => !off)
          .map((segment) => (segment.addresses?.off ? { ...segment, addresses: null } : segment)),
        off: segments.filter(({ off }) => off),
        quiet: segments.filter(({ off, addresses }) => !off && addresses?.off),
      }
    : { segments, off: NONE, quiet: NONE };
  known.set(segments, made);
  return made;
}
