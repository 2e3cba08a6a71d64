import { expect, test } from 'vitest';
import { ENTRY_REFUSALS, UNKNOWN_WHY } from '../line';
import { unknownWords } from '.';

test('each reason has words of its own, names who said what, and says what would help', () => {
  const reasons = [...new Set([...UNKNOWN_WHY, ...ENTRY_REFUSALS])];
  const all = reasons.map((why) => unknownWords({ why, said: 'Gulls', server: 'Quay' }));
  expect(new Set(all.map(([why]) => why)).size).toBe(reasons.length);
  expect(unknownWords({ why: 'rejected', server: 'Quay', user: 'marn.ellis' })[0]).toBe('Quay turns marn.ellis away.');
  expect(all.every(([, advice]) => advice.length > 10)).toBe(true);
  for (const why of ['class', 'vlan', 'segment'] as const)
    expect(unknownWords({ why, said: 'Gulls', server: 'Quay' })[0]).toContain('“Gulls”');
  expect(unknownWords({ why: 'nobody', ssid: 'Deck' })[1]).not.toContain('let in'); // they join the SSID’s own segment
  expect(unknownWords({ why: 'nobody' })[1]).toContain('let in');
});
