/**
 * Compares release numbers part by part: `4.10.0` is newer than `4.9.2`; a missing part counts as 0, text after the
 * numbers (`-rc1`) makes a release older than the same numbers without it.
 * @returns negative when `a` is older, 0 when they are the same, positive when `a` is newer.
 */
export function compareVersions(a: string, b: string): number {
  const [x, y] = [partsOf(a), partsOf(b)];
  for (let i = 0; i < Math.max(x.numbers.length, y.numbers.length); i++) {
    const by = (x.numbers[i] ?? 0) - (y.numbers[i] ?? 0);
    if (by !== 0) return by;
  }
  if (x.rest === y.rest) return 0;
  if (x.rest === '') return 1;
  return y.rest === '' || x.rest > y.rest ? (y.rest === '' ? -1 : 1) : -1;
}

function partsOf(version: string): { numbers: number[]; rest: string } {
  const numbers = /^\d+(\.\d+)*/.exec(version)?.[0] ?? '';
  return {
    numbers: numbers === '' ? [] : numbers.split('.').map(Number),
    rest: version.slice(numbers.length),
  };
}

/** Whether a text can be a release number. */
export const isVersion = (text: string): boolean => /^\d+(\.\d+){1,3}(-[0-9a-z.]{1,12})?$/.test(text);
