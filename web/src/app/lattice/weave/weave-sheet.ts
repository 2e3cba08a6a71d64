/** A piece of the weave that is painted in one go; in pixels, from the right edge of the names and the foot of the heads. */
export interface Sheet {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

/** Sheets lie on multiples of this, in pixels: then they lie on dots of screens of the usual scales too. */
const STEP = 4;
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
  const [x, width] = along(sight.x, sight.width, MARGIN.x, whole.width);
  const [y, height] = along(sight.y, sight.height, MARGIN.y, whole.height);
  return { x, y, width, height };
}

/** Where a sheet begins and how long it is, in one direction. Of one length wherever it lies, so that it can be moved. */
function along(from: number, length: number, margin: number, whole: number): [start: number, length: number] {
  const room = Math.max(1, Math.min(whole, Math.ceil(length) + 2 * margin + STEP));
  const start = Math.max(0, Math.min(from - margin, whole - room));
  const snapped = Math.floor(start / STEP) * STEP;
  return [snapped, Math.min(room, Math.max(1, whole - snapped))];
}

/**
 * What of a sheet the one before does not show, in at most two pieces.
 * @returns null where nothing of it can be kept.
 */
export function newOn(sheet: Sheet, before: Sheet): readonly Sheet[] | null {
  if (sheet.width !== before.width || sheet.height !== before.height) return null;
  const [right, down] = [sheet.x - before.x, sheet.y - before.y];
  const [wide, high] = [Math.abs(right), Math.abs(down)];
  if (wide >= sheet.width || high >= sheet.height) return null;
  const beside: Sheet = { ...sheet, x: right > 0 ? sheet.x + sheet.width - wide : sheet.x, width: wide };
  const below: Sheet = {
    x: right > 0 ? sheet.x : sheet.x + wide,
    y: down > 0 ? sheet.y + sheet.height - high : sheet.y,
    width: sheet.width - wide,
    height: high,
  };
  return [beside, below].filter(({ width, height }) => width > 0 && height > 0);
}
