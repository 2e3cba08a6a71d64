/** A piece of the weave that is painted in one go; in pixels, from the right edge of the names and the foot of the heads. */
export interface Sheet {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Pixels painted beyond what is in sight, so that most of scrolling only moves what is there. */
const MARGIN = { x: 120, y: 68 } as const;
/** The sheet to paint for a sight: the one at hand while it covers what is in sight. */
export function sheetFor(sight: Sheet, whole: { width: number; height: number }, before: Sheet | null): Sheet {
  const [right, foot] = [
    Math.min(sight.x + sight.width, whole.width),
    Math.min(sight.y + sight.height, whole.height),
  ] as const;
  if (
    before &&
    before.x <= sight.x &&
    before.y <= sight.y &&
    before.x + before.width >= right &&
    before.y + before.height >= foot
  )
    return before;
  const [x, y] = [Math.max(0, sight.x - MARGIN.x), Math.max(0, sight.y - MARGIN.y)];
  return {
    x,
    y,
    width: Math.max(1, Math.min(whole.width, sight.x + sight.width + MARGIN.x) - x),
    height: Math.max(1, Math.min(whole.height, sight.y + sight.height + MARGIN.y) - y),
  };
}
