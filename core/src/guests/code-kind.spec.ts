import { expect, test } from 'vitest';
import { kindWords, readKind, type CodeKind } from '.';

test('a kind of code is read as people write it, and written so', () => {
  const kinds: CodeKind[] = [
    { name: 'Day guest', minutes: 1440, most: 2 },
    { name: 'Crew: visitors', minutes: 90, most: 1 },
    { name: 'Stall', minutes: 43_200, most: null },
  ];
  for (const kind of kinds) expect(readKind(kindWords(kind))).toEqual(kind);
  expect(kinds.map(kindWords)).toEqual([
    ...['Day guest: 1 d, 2 devices', 'Crew: visitors: 90 min, 1 device', 'Stall: 30 d, any devices'],
  ]);
  expect(readKind('Day guest: 1 d')).toEqual({ name: 'Day guest', minutes: 1440, most: 1 });
  expect(readKind('Stall:8h,ANY')).toEqual({ name: 'Stall', minutes: 480, most: null });
});

test('what is no kind of code is read as none', () => {
  for (const line of ['', 'Day guest', ': 1 d', 'Day: soon', 'Day: 1 d, two', 'Day: 1 d, 2, 3', 'Day: 1 d, -1'])
    expect([line, readKind(line)]).toEqual([line, null]);
});
