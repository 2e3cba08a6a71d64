import { expect, test } from 'vitest';
import { makeAuthority } from '../entry/certificates/authority';
import { endingAuthorities } from './authority-ends';

const DAY = 86_400_000;

test('an authority is told when it ends within 30 days, when it ended, and when it is none', async () => {
  const { cert } = await makeAuthority('Quay authority');
  const { X509Certificate } = await import('node:crypto');
  const end = Date.parse(new X509Certificate(cert).validTo);
  const at = (now: number, authority: string | null = cert) => endingAuthorities([{ id: 'a', authority }], now);
  expect(at(end - 31 * DAY)).toEqual([]);
  const day = new Date(end).toISOString().slice(0, 10);
  expect(at(end - 29 * DAY)).toEqual([{ radiusId: 'a', day, over: false }]);
  expect(at(end + 1)).toEqual([{ radiusId: 'a', day, over: true }]);
  expect(at(0, null)).toEqual([]);
  const broken = '-----BEGIN CERTIFICATE-----\nMIIgulls\n-----END CERTIFICATE-----';
  expect(at(0, broken)).toEqual([{ radiusId: 'a', day: null, over: false }]);
  // Of several the first to end counts.
  expect(at(end - 29 * DAY, `${cert}${cert}`)).toHaveLength(1);
});
