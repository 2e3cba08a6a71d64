import { expect, test } from 'vitest';
import { readMembers, writeMembers } from './members';

test('clients are read line by line, in any usual way of writing an address, and written back', () => {
  const text = '02:1a:00:00:00:07 Pier gate\n\n02-1A-00-00-00-08;Car deck, left\r\n021a.0000.0009\n';
  const { members, wrong } = readMembers(text);
  expect(wrong).toEqual([]);
  expect(members).toEqual([
    { mac: '02:1a:00:00:00:07', name: 'Pier gate' },
    { mac: '02:1a:00:00:00:08', name: 'Car deck, left' },
    { mac: '02:1a:00:00:00:09', name: '' },
  ]);
  expect(readMembers(writeMembers(members)).members).toEqual(members);
});

test('of many pasted lines the wrong ones are told by number, and the others are kept', () => {
  const mac = (i: number): string =>
    `02:1a:00:00:${(i >> 8).toString(16).padStart(2, '0')}:${(i & 255).toString(16).padStart(2, '0')}`;
  const lines = Array.from({ length: 10_000 }, (_, i) => `${mac(i)} thing ${i}`);
  lines[41] = 'gate seven';
  lines[999] = '02:1a:00:00:00:zz';
  lines[5000] = lines[6]!.toUpperCase();
  const { members, wrong } = readMembers(lines.join('\n'));
  expect(members).toHaveLength(9997);
  expect(wrong.map(({ line, why }) => `${line} ${why}`)).toEqual([
    '42 “gate” is no MAC address',
    '1000 “02:1a:00:00:00:zz” is no MAC address',
    '5001 02:1a:00:00:00:06 is on line 7 already',
  ]);
});
