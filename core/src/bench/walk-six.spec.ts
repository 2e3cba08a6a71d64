import { expect, test } from 'vitest';
import type { UplinkDocument } from '../document';
import type { UplinkFact } from './probe';
import { sixWords } from './walk-six';

const uplinks: UplinkDocument[] = ['wan1', 'wan2'].map((port) => ({ port, method: 'dhcp', translate: true }));
const interfaces6 = [{ vlan: 10, address: '2001:db8:700:10::1/64', flags: 'none' as const }];
const up: UplinkFact = { up: true, address: '203.0.113.9' };
const words = (facts: Readonly<Record<string, UplinkFact>>, vlan = 10): string =>
  sixWords({ interfaces6, uplinks }, vlan, (port) => facts[port]);

test('IPv6 leaves by the uplink that its prefix came from, or not at all, and a walk says which', () => {
  const delegated = { ...up, six: { prefix: '2001:db8:700::/56' } };
  expect(words({ wan1: up, wan2: delegated })).toMatch(/leaves by wan2, which its prefix came from/);
  expect(words({ wan1: up, wan2: { ...delegated, good: false } })).toMatch(/does not leave: its prefix came from wan2/);
  expect(words({ wan1: { ...up, six: {} }, wan2: up })).toMatch(/nothing comes back: 2001:db8:700:10::1\/64 is in no/);
  expect(words({ wan1: { ...up, six: { prefix: 'nonsense' } } })).toMatch(/nothing comes back/);
  expect(words({ wan1: up })).toBe(' There is no IPv6 to the internet.');
  expect(words({ wan1: delegated }, 20)).toBe('');
});
