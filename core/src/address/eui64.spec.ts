import { expect, test } from 'vitest';
import { selfMadeAddress } from './eui64';
import { formatIp } from './ip';
import { parseMac } from './mac';
import { parsePrefix } from './prefix';

const made = (prefix: string, mac: string) => {
  const address = selfMadeAddress(parsePrefix(prefix)!, parseMac(mac)!);
  return address && formatIp(address);
};

test('the identifier is the MAC with FF-FE in its middle and the universal bit inverted', () => {
  // RFC 2464 §4: 34-56-78-9A-BC-DE becomes 36-56-78-FF-FE-9A-BC-DE.
  expect(made('2001:db8:1:2::/64', '34-56-78-9a-bc-de')).toBe('2001:db8:1:2:3656:78ff:fe9a:bcde');
  expect(made('2001:db8::/64', '02:00:00:00:00:01')).toBe('2001:db8::ff:fe00:1');
});

test('there is none where the prefix leaves another number of bits, nor in IPv4', () => {
  expect(made('2001:db8::/56', '34:56:78:9a:bc:de')).toBeNull();
  expect(made('2001:db8::/80', '34:56:78:9a:bc:de')).toBeNull();
  expect(made('10.0.0.0/8', '34:56:78:9a:bc:de')).toBeNull();
});
