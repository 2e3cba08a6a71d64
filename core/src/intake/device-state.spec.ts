import { expect, test } from 'vitest';
import { deviceState, type DeviceFacts } from '.';

const ours: DeviceFacts = { claimed: true, online: true, runs: 'a', wants: 'a', trouble: null };

test.each<[string, Partial<DeviceFacts>]>([
  ['in step', {}],
  ['behind', { runs: 'b' }],
  ['behind', { runs: null }],
  ['behind', { wants: null, runs: null }],
  ['stuck', { trouble: 'refused', runs: 'b' }],
  ['silent', { online: false }],
  ['silent', { online: false, trouble: 'refused' }],
  ['calling', { claimed: false }],
  ['expected', { claimed: false, online: false }],
])('a device is %s when %j', (state, facts) => {
  expect(deviceState({ ...ours, ...facts })).toBe(state);
});
