import { expect, test } from 'vitest';
import type { ApDocument } from '../../document';
import { readTimes } from '../../rules';
import { compileSite } from '../../rollout';
import { sampleId, sampleSite } from '../../testing';
import { apply, resolve, touchedSites, type Hours, type Intent, type Operation } from '..';

const sample = sampleSite({ segments: 2, aps: 1 });
const hours: Hours = { id: sampleId(9, 1), name: 'Office', times: readTimes('Mon-Fri 08:00-18:00')! };
const [ssid] = sample.intent.estate.ssids;
const lookup = (id: string) => sample.roster.find((each) => each.id === id);

function edited(intent: Intent, ...operations: Operation[]): Intent {
  return operations.reduce((now, operation) => {
    const outcome = apply(now, operation, lookup);
    if (!outcome.ok) throw new Error(JSON.stringify(outcome.flaws));
    return outcome.intent;
  }, intent);
}
const codes = (intent: Intent, operation: Operation): string[] => {
  const outcome = apply(intent, operation, lookup);
  return outcome.ok ? [] : outcome.flaws.map(({ code }) => code);
};
const use: Operation = { type: 'ssid.set', ssidId: ssid!.id, from: { hours: null }, to: { hours: hours.id } };

test('hours are kept in one way of writing them, and as long as an SSID uses them', () => {
  const odd = readTimes('Mon 08:00-12:00; Mon 12:00-18:00; Tue-Fri 08:00-18:00')!;
  const with_ = edited(
    sample.intent,
    { type: 'hours.add', hours: { ...hours, times: odd, closed: ['2026-12-26', '2026-12-25'] } },
    use,
  );
  expect(with_.estate.hours).toEqual(
    [{ ...hours, purpose: null, closed: ['2026-12-25', '2026-12-26'] }].map(({ purpose: _none, ...rest }) =>
      expect.objectContaining(rest),
    ),
  );
  expect(codes(with_, { type: 'hours.remove', hoursId: hours.id })).toEqual(['hours.used']);
  const free = edited(with_, { type: 'ssid.set', ssidId: ssid!.id, from: { hours: hours.id }, to: { hours: null } });
  expect(codes(free, { type: 'hours.remove', hoursId: hours.id })).toEqual([]);
});

test('a week without an hour, quarters of an hour, days that there are not, and names that are taken are refused', () => {
  const add = (change: Partial<Hours>): string[] =>
    codes(sample.intent, { type: 'hours.add', hours: { ...hours, ...change } });
  expect(add({ times: [] })).toEqual(['hours.never']);
  expect(add({ times: readTimes('Mon 08:15-09:00')! })).toEqual(['hours.half']);
  expect(add({ closed: ['2026-02-30'] })).toEqual(['hours.day']);
  expect(add({ name: ' ' })).toEqual(['hours.name-empty']);
  const one = edited(sample.intent, { type: 'hours.add', hours });
  expect(codes(one, { type: 'hours.add', hours: { ...hours, id: sampleId(9, 2), name: 'OFFICE' } })).toEqual([
    'hours.name-taken',
  ]);
  expect(codes(sample.intent, use)).toEqual(['ssid.hours-unknown']);
});

test('APs are told the hours of what they send; an edit of hours touches the sites whose SSIDs have them, and no other', () => {
  const before = edited(sample.intent, { type: 'hours.add', hours }, use);
  const ap = sample.roster.find(({ model }) => model.startsWith('AP'))!;
  const told = compileSite(resolve(before.estate, sample.site), sample.roster).get(ap.id) as ApDocument;
  expect(told.ssids[0]!.hours).toEqual({ name: 'Office', times: hours.times });
  expect(told.ssids[1]?.hours).toBeUndefined();
  const other = { ...sample.site, id: sampleId(1, 7), name: 'Other' };
  const two: Intent = {
    estate: {
      ...before.estate,
      ssids: before.estate.ssids.map((each) => ({
        ...each,
        reach: { kind: 'sites' as const, siteIds: [sample.site.id] },
      })),
    },
    sites: new Map([...before.sites, [other.id, other]]),
  };
  const to = readTimes('Sat 10:00-12:00')!;
  const after = edited(two, { type: 'hours.set', hoursId: hours.id, from: { times: hours.times }, to: { times: to } });
  expect(touchedSites(two, after)).toEqual([sample.site.id]);
  const unused = edited(two, { type: 'hours.add', hours: { ...hours, id: sampleId(9, 3), name: 'Night' } });
  expect(touchedSites(two, unused)).toEqual([]);
});
