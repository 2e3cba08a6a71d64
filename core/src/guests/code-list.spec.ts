import { expect, test } from 'vitest';
import { checkCodeList, type CodeListMeans } from '.';

const SITE = '00000000-0000-4000-8000-00000000000a';
const OTHER = '00000000-0000-4000-8000-00000000000b';
const means: CodeListMeans = {
  ...{ visit: 480, least: 5, longest: 44_640, now: Date.UTC(2026, 10, 30) },
  sites: { pier: SITE, pi: SITE, slip: OTHER },
  ...{ zones: { [SITE]: 'Europe/Dublin', [OTHER]: 'America/New_York' }, zone: 'Asia/Tokyo' },
};
const HEAD = ['For', 'Code', 'Lasts', 'Devices', 'Use by', 'Sites'];
const read = (...rows: string[][]) => checkCodeList([HEAD, ...rows], means);

test('a row says what for; all else has its usual', () => {
  expect(read(['Cabin 12', '', '', '', '', '']).rows[0]!.good).toEqual({
    ...{ name: 'Cabin 12', code: null, minutes: 480, most: 1, useBy: null, siteIds: null },
  });
  expect(read(['Coach', 'abcd-2345', '2 d', 'any', '2026-12-31', 'Pier; SLIP; pi']).rows[0]!.good).toEqual({
    ...{ name: 'Coach', code: 'ABCD2345', minutes: 2880, most: null, useBy: '2027-01-01T05:00:00.000Z' },
    siteIds: [SITE, OTHER], // the day is over in New York
  });
  expect(read(['Coach', '', '', '', '2026-12-31', 'Pier']).rows[0]!.good!.useBy).toBe('2027-01-01T00:00:00.000Z');
  expect(read(['Coach', '', '', '', '2026-12-31', '']).rows[0]!.good!.useBy).toBe('2026-12-31T15:00:00.000Z');
});

test('what is wrong with a row is said at its cell; others stay good', () => {
  const fields = (...row: string[]) => read(row).rows[0]!.flaws.map(({ field }) => field);
  expect(fields('', 'ABCD2345', '', '', '', '')).toEqual(['name']);
  expect(fields('x'.repeat(81), '', '', '', '', '')).toEqual(['name']);
  expect(fields('a', 'short', '', '', '', '')).toEqual(['code']);
  expect(fields('a', '', '2 min', '', '', '')).toEqual(['lasts']);
  expect(fields('a', '', 'soon', '0', '2026-02-31x', 'Nowhere')).toEqual(['lasts', 'most', 'sites', 'useBy']);
  expect(fields('a', '', '', '', '2026-11-01', '')).toEqual(['useBy']);
  expect(fields('a', '', '', '', '', 'constructor')).toEqual(['sites']);
  const two = read(['a', 'ABCD2345', '', '', '', ''], ['b', 'abcd 2345', '', '', '', ''], ['c', '', '', '', '', '']);
  expect(two.rows.map(({ good }) => good !== null)).toEqual([true, false, true]);
  expect(two.rows[1]!.flaws[0]!.message).toContain('has this code already');
});

test('a list without the column that says what for, and one of too many rows, is refused as a whole', () => {
  expect(checkCodeList([['Code'], ['ABCD2345']], means).flaws).toHaveLength(1);
  const many = checkCodeList([HEAD, ...Array.from({ length: 10_001 }, () => ['a', '', '', '', '', ''])], means);
  expect([many.rows.length, many.flaws[0]!.code]).toEqual([0, 'code.many']);
});
