import fc from 'fast-check';
import { expect, test } from 'vitest';
import { classOf, formatRange, givableAddresses, parseIp, parsePrefix, parseRange, usableHosts } from '.';

const seed = Number(process.env['SEED'] ?? 1);

test('what can be given is every usable host but the gateway and what is reserved, counted one by one', () => {
  const octet = fc.nat(255);
  fc.assert(
    fc.property(
      fc.integer({ min: 24, max: 32 }),
      octet,
      octet,
      fc.array(fc.tuple(octet, octet), { maxLength: 4 }),
      (length, host, gateway, reserved) => {
        const subnet = parsePrefix(`10.0.0.${host}/${length}`)!;
        const ranges = reserved.map(([a, b]) => parseRange(`10.0.0.${Math.min(a, b)}-10.0.0.${Math.max(a, b)}`)!);
        const result = givableAddresses(subnet, parseIp(`10.0.0.${gateway}`), ranges);
        const { first, last } = usableHosts(subnet);
        let count = 0n;
        for (let at = first; at <= last; at++) {
          const taken =
            at === parseIp(`10.0.0.${gateway}`)!.value || ranges.some((range) => at >= range.first && at <= range.last);
          const given = result.ranges.some((range) => at >= range.first && at <= range.last);
          expect(given).toBe(!taken);
          if (!taken) count++;
        }
        expect(result.capacity).toBe(count);
        expect(result.defaultRange === null).toBe(count === 0n);
      },
    ),
    { seed },
  );
});

test('the longest range is the default, the lowest of equals', () => {
  const text = (gateway: string) =>
    formatRange(givableAddresses(parsePrefix('10.0.0.0/29')!, parseIp(gateway)).defaultRange!);
  expect(text('10.0.0.1')).toBe('10.0.0.2-10.0.0.6');
  expect(text('10.0.0.4')).toBe('10.0.0.1-10.0.0.3');
  const even = givableAddresses(parsePrefix('10.0.0.0/29')!, null, [parseRange('10.0.0.3-10.0.0.4')!]);
  expect(formatRange(even.defaultRange!)).toBe('10.0.0.1-10.0.0.2');
});

test.each([
  ['10.255.255.255', 'private'],
  ['11.0.0.0', 'global'],
  ['172.15.255.255', 'global'],
  ['172.31.255.255', 'private'],
  ['100.64.0.0', 'shared'],
  ['100.128.0.0', 'global'],
  ['255.255.255.255', 'limited_broadcast'],
  ['255.255.255.254', 'reserved'],
  ['239.1.1.1', 'multicast'],
  ['198.19.255.255', 'benchmark'],
  ['fd00::1', 'ula'],
  ['fe80::1', 'link_local'],
  ['2001:db8::1', 'documentation'],
  ['2001:db9::1', 'global'],
  ['::', 'unspecified'],
])('%s is %s', (text, wanted) => expect(classOf(parseIp(text)!)).toBe(wanted));
