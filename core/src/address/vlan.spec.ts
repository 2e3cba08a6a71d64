import fc from 'fast-check';
import { expect, test } from 'vitest';
import { formatMac, parseMac } from './mac';
import { formatVlanList, parseVlanList } from './vlan-id';
import { pickFromPool } from './vlan-pool';

const seed = Number(process.env['SEED'] ?? 1);
const ids = fc.uniqueArray(fc.integer({ min: 1, max: 4094 }), { minLength: 1, maxLength: 40 });

test('a list of VLAN IDs survives being written and read', () => {
  fc.assert(
    fc.property(ids, (list) => {
      const read = parseVlanList(formatVlanList(list));
      expect(read).toMatchObject({ ok: true, ids: [...list].sort((a, b) => a - b) });
    }),
    { seed },
  );
});

test('when a VLAN leaves a pool only its own clients move', () => {
  const pool = fc.uniqueArray(fc.integer({ min: 1, max: 4094 }), { minLength: 2, maxLength: 8 });
  fc.assert(
    fc.property(pool, fc.bigInt(0n, 2n ** 48n - 1n), (all, mac) => {
      const before = pickFromPool(mac, all);
      const after = pickFromPool(mac, all.slice(1));
      if (before !== all[0]) expect(after).toBe(before);
      expect(pickFromPool(mac, [...all].reverse())).toBe(before);
    }),
    { seed },
  );
});

test('MAC addresses are read in every usual form and in no other', () => {
  for (const text of ['02:5A:10:00:19:2f', '02-5a-10-00-19-2f', '025a1000192f', '025a.1000.192f'])
    expect(formatMac(parseMac(text)!)).toBe('02:5a:10:00:19:2f');
  for (const text of ['02:5a:10:00:19', '02:5a-10:00:19:2f', '02:5a:10:00:19:2g', '025a1000192f0', '1.2E+11'])
    expect(parseMac(text)).toBeNull();
});
