import { expect, test } from 'vitest';
import { sampleSegment } from '../testing';
import {
  checkDeviceName,
  checkStaticAddress,
  flaps,
  nameDevices,
  proposeStaticAddress,
  readLabel,
  spanWords,
  writeLabel,
} from '.';

const segment = sampleSegment(0); // 10.1.1.0/24, gateway .1, gives .20 to .254
const good = { address: '10.1.1.9', length: '24', gateway: '10.1.1.1', dns: '10.1.1.1; 9.9.9.9' };
const codes = (change: Partial<typeof good>, taken: { address: string; by: string }[] = [], holds = false) => {
  const checked = checkStaticAddress(segment, { ...good, ...change }, taken, holds);
  return checked.ok ? [] : checked.flaws.map((flaw) => flaw.code);
};

test('an address of the segment that nobody has is taken, in canonical text', () => {
  expect(checkStaticAddress(segment, good, [], false)).toEqual({
    ok: true,
    address: { address: '10.1.1.9', length: 24, gateway: '10.1.1.1', dns: ['10.1.1.1', '9.9.9.9'] },
  });
});

test.each([
  [{ address: 'nine' }, 'address.malformed'],
  [{ address: '10.1.2.9' }, 'address.outside'],
  [{ address: '10.1.1.0' }, 'address.reserved'],
  [{ address: '10.1.1.255' }, 'address.reserved'],
  [{ address: '10.1.1.1' }, 'address.taken'],
  [{ address: '10.1.1.40' }, 'address.in-range'],
  [{ length: '16' }, 'address.length'],
  [{ gateway: '10.1.1.2' }, 'address.cut-off'],
  [{ gateway: '' }, 'address.gateway-malformed'],
  [{ dns: '' }, 'address.dns-none'],
  [{ dns: '10.1.1.1, resolver' }, 'address.dns'],
])('%j is refused: %s', (change, code) => {
  expect(codes(change)).toEqual([code]);
});

test('an address that somebody has is refused with who has it, and a gateway keeps the segment’s own', () => {
  const checked = checkStaticAddress(segment, good, [{ address: '10.1.1.9', by: 'x-ap-04' }], false);
  expect(checked.ok ? '' : checked.flaws[0]!.message).toBe('10.1.1.9 is taken by x-ap-04.');
  expect(codes({}, [], true)).toEqual(['address.gateway-itself']);
});

test('the lowest address that is neither taken nor given out is proposed, and passes the check', () => {
  const taken = ['10.1.1.2', '10.1.1.3'];
  const proposed = proposeStaticAddress(segment, taken)!;
  expect(proposed).toEqual({ address: '10.1.1.4', length: 24, gateway: '10.1.1.1', dns: ['10.1.1.1'] });
  const all = Array.from({ length: 18 }, (_, i) => `10.1.1.${i + 2}`);
  expect(proposeStaticAddress(segment, all)).toBeNull();
});

test('names follow the convention with the next free numbers, a thousand at a time', () => {
  const models = Array.from({ length: 1000 }, () => ({ model: 'AP-6' }));
  const names = nameDevices('bm', models, ['bm-ap-02', 'bm-ap-500']);
  expect(new Set([...names, 'bm-ap-02', 'bm-ap-500']).size).toBe(1002);
  expect([names[0], names[1], names.at(-1)]).toEqual(['bm-ap-01', 'bm-ap-03', 'bm-ap-1002']);
});

test.each([
  ['bm-ap-mast', undefined, null],
  ['', undefined, 'device.name-empty'],
  ['-ap', undefined, 'device.name'],
  ['Ap 1', undefined, 'device.name'],
  ['a'.repeat(64), undefined, 'device.name'],
  ['bm-ap-01', 'the device 7K4', 'device.name-taken'],
])('the name %j held by %s: %s', (name, holder, code) => {
  expect(checkDeviceName(name, holder)[0]?.code ?? null).toBe(code);
});

test('a label is read as it is written, and a serial number alone is one too', () => {
  const label = { serial: '7K4-0156-58', model: 'AP-6E', mac: '02:5a:10:00:05:b6', fingerprint: '0123456789abcdef' };
  expect(readLabel(writeLabel(label))).toEqual(label);
  expect(readLabel(' 7k4-0156-58 ')).toEqual({ serial: '7K4-0156-58', model: null, mac: null, fingerprint: null });
  for (const text of ['', 'https://example.example/?serial=7K4-0156-58', 'lattice:device?model=AP-6', 'a b'])
    expect(readLabel(text)).toBeNull();
  expect(readLabel('lattice:device?serial=7K4-0156-58&mac=nonsense&key=%ZZ')).toMatchObject({
    mac: null,
    fingerprint: null,
  });
});

test('six calls within ten minutes are flapping, five are not', () => {
  const now = 1_000_000_000;
  expect(
    flaps(
      [1, 2, 3, 4, 5, 6].map((n) => now - n * 60_000),
      now,
    ),
  ).toBe(true);
  expect(
    flaps(
      [1, 2, 3, 4, 5, 11].map((n) => now - n * 60_000),
      now,
    ),
  ).toBe(false);
});

test.each([
  [9_000, '9 s'],
  [-65_000, '1 min'],
  [11_520_000, '3 h 12 min'],
  [500_000_000, '6 days'],
])('%d ms reads %s', (ms, words) => {
  expect(spanWords(ms)).toBe(words);
});
