import { newOn, sheetFor, type Sheet } from './weave-sheet';

const whole = { width: 6000, height: 2000 };
const sight = (x: number, y: number): Sheet => ({ x, y, width: 1000, height: 600 });
const covers = (sheet: Sheet, { x, y, width, height }: Sheet): boolean =>
  sheet.x <= x &&
  sheet.y <= y &&
  sheet.x + sheet.width >= Math.min(whole.width, x + width) &&
  sheet.y + sheet.height >= Math.min(whole.height, y + height);

describe('the sheet to paint', () => {
  it('covers what is in sight wherever that is, lies within the weave, and stays while it covers', () => {
    let sheet: Sheet | null = null;
    let painted = 0;
    for (let i = 0; i <= 100; i++) {
      const seen = sight(i * 50, i * 14);
      const next: Sheet = sheetFor(seen, whole, sheet);
      if (next !== sheet) painted++;
      sheet = next;
      expect(covers(sheet, seen)).toBe(true);
      expect(sheet.x >= 0 && sheet.y >= 0).toBe(true);
      expect(sheet.x + sheet.width <= whole.width && sheet.y + sheet.height <= whole.height).toBe(true);
    }
    expect(painted).toBeLessThan(40);
  });

  it('is painted anew when the weave is smaller than it', () => {
    const before = sheetFor(sight(4000, 0), whole, null);
    const { x, width } = sheetFor(sight(0, 0), { width: 800, height: 300 }, before);
    expect([x, width]).toEqual([0, 800]);
  });

  it('shows what the one before showed, and what is new in pieces that lie side by side', () => {
    const area = (pieces: readonly Sheet[]): number =>
      pieces.reduce((sum, { width, height }) => sum + width * height, 0);
    for (const [x, y] of [
      [400, 0],
      [0, 200],
      [400, 200],
      [-400, 200],
      [400, -200],
      [-400, -200],
    ] as const) {
      const before = sheetFor(sight(2000, 600), whole, null);
      const sheet = sheetFor(sight(2000 + x, 600 + y), whole, before);
      const kept = {
        width: before.width - Math.abs(sheet.x - before.x),
        height: before.height - Math.abs(sheet.y - before.y),
      };
      const pieces = newOn(sheet, before)!;
      expect(area(pieces) + kept.width * kept.height).toBe(area([sheet]));
      for (const piece of pieces) {
        expect(covers(sheet, piece)).toBe(true);
        expect(covers(before, piece)).toBe(false);
      }
    }
  });

  it('keeps nothing of one that lies elsewhere or is of another size', () => {
    const before = sheetFor(sight(0, 0), whole, null);
    expect(newOn(sheetFor(sight(4000, 0), whole, before), before)).toBeNull();
    expect(newOn({ ...before, width: 800 }, before)).toBeNull();
  });
});
