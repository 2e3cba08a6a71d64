import { expect, test } from 'vitest';
import type { ApDocument, GatewayDocument } from '../../document';
import { readTimes } from '../../rules';
import { consequencesOf } from '../../assess';
import { compileSite } from '../../rollout';
import { sampleId, sampleSite } from '../../testing';
import { apply, resolve, touchedSites, type Hours, type Intent, type Operation, type PortEntry } from '..';

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

const rule = (id: string, more: object = {}) => ({
  ...{ id, verdict: 'deny' as const, from: [{ kind: 'any' as const }], to: [{ kind: 'internet' as const }] },
  ...{ services: [{ protocol: 'any' as const }], hours: hours.id, ...more },
});
const addRule = (more: object = {}): Operation => ({
  type: 'rule.add',
  siteId: sample.site.id,
  rules: [rule('r', more)],
  behind: null,
});

test('rules are in force at hours: gateways are told times and days left out, and hours stay as long as a rule uses them', () => {
  const closed = ['2026-12-25'];
  const before = edited(sample.intent, { type: 'hours.add', hours: { ...hours, closed } });
  expect(codes(sample.intent, addRule())).toEqual(['rule.hours']);
  expect(codes(before, addRule({ times: hours.times }))).toEqual(['rule.hours-and-times']);
  const with_ = edited(before, addRule());
  const policyAt = (intent: Intent) => {
    const documents = compileSite(resolve(intent.estate, intent.sites.get(sample.site.id)!), sample.roster);
    return (documents.get(sample.roster[0]!.id) as GatewayDocument).policy!.rules.find(({ id }) => id === 'r');
  };
  expect(policyAt(with_)).toMatchObject({ times: hours.times, closed });
  const remove: Operation = { type: 'hours.remove', hoursId: hours.id };
  expect(codes(with_, remove)).toEqual(['hours.used']);
  const all: Operation = { type: 'rule.add', book: 'after', rules: [rule('s')], behind: null };
  expect(codes(edited(before, all), remove)).toEqual(['hours.used']);
  const to = readTimes('Sat 10:00-12:00')!;
  const change: Operation = { type: 'hours.set', hoursId: hours.id, from: { times: hours.times }, to: { times: to } };
  expect(policyAt(edited(with_, change))).toMatchObject({ times: to });
  // The site whose rule has them is touched, and all are by a rule of the estate.
  const other = { ...sample.site, id: sampleId(1, 7), name: 'Other' };
  const two = (intent: Intent): Intent => ({ ...intent, sites: new Map([...intent.sites, [other.id, other]]) });
  expect(touchedSites(two(with_), edited(two(with_), change))).toEqual([sample.site.id]);
  const shared = two(edited(before, all));
  expect(touchedSites(shared, edited(shared, change))).toEqual([sample.site.id, other.id]);
  const free = edited(with_, {
    type: 'rule.set',
    siteId: sample.site.id,
    ruleId: 'r',
    from: { hours: hours.id },
    to: { hours: null },
  });
  expect(policyAt(free)).not.toHaveProperty('times');
  expect(codes(free, remove)).toEqual([]);
});

const [sw] = sample.roster.filter(({ model }) => model.startsWith('SW'));
const portSet = (port: string, to: PortEntry | null, from: PortEntry | null = null): Operation => ({
  ...{ type: 'port.set', siteId: sample.site.id, deviceId: sw!.id, port },
  from: from ?? sample.site.ports[sw!.id]?.[port] ?? null,
  to,
});
const at = (intent: Intent) => {
  const site = intent.sites.get(sample.site.id)!;
  const input = { estate: intent.estate, site, roster: sample.roster, links: sample.links, told: {} };
  const document = compileSite(resolve(intent.estate, site), sample.roster).get(sw!.id)!;
  return {
    hoursOf: (port: string) => document.ports.find(({ name }) => name === port)?.hours,
    found: consequencesOf(input).findings.filter(({ code }) => code === 'lattice.port-hours'),
  };
};

test('ports are in use at hours, of their own or of their duty; a device of ours behind one is found, and mended', () => {
  const closed = ['2026-12-25'];
  const before = edited(sample.intent, { type: 'hours.add', hours: { ...hours, closed } });
  expect(codes(sample.intent, portSet('7', { hours: hours.id }))).toEqual(['port.hours']);
  const with_ = edited(before, portSet('7', { hours: hours.id }));
  expect(at(with_).hoursOf('7')).toEqual({ name: 'Office', times: hours.times, closed });
  expect(at(with_).hoursOf('8')).toBeUndefined();
  expect(at(with_).found).toEqual([]);
  expect(codes(with_, { type: 'hours.remove', hoursId: hours.id })).toEqual(['hours.used']);
  const change: Operation = {
    ...{ type: 'hours.set', hoursId: hours.id, from: { times: hours.times } },
    to: { times: readTimes('Sat 10:00-12:00')! },
  };
  const other = { ...sample.site, id: sampleId(1, 7), name: 'Other' };
  const two = { ...with_, sites: new Map([...with_.sites, [other.id, other]]) };
  expect(touchedSites(two, edited(two, change))).toEqual([sample.site.id]);

  // Port 1 leads to an AP.
  const [own] = [sample.site.ports[sw!.id]!['1']!];
  const cut = edited(before, portSet('1', { ...own, hours: hours.id }));
  const [finding] = at(cut).found;
  expect(finding).toMatchObject({
    message: 'Outside of Office, x-ap-01 would be cut off from x-sw-01',
    place: { kind: 'port', id: sw!.id, port: '1' },
  });
  expect(edited(cut, ...finding!.mend!.operations).sites.get(sample.site.id)).toEqual(before.sites.get(sample.site.id));
  // Of a duty that many ports have, only the one is taken out.
  const duty = { id: sampleId(7, 1), name: 'Counter', untagged: own.untagged ?? null, tagged: [], hours: hours.id };
  const given = edited(
    before,
    { type: 'duty.add', siteId: sample.site.id, duty },
    portSet('1', { dutyId: duty.id }),
    portSet('7', { dutyId: duty.id }),
  );
  expect(at(given).hoursOf('7')?.name).toBe('Office');
  const [mend] = at(given).found.map(({ mend: each }) => each!);
  const mended = edited(given, ...mend!.operations);
  expect([at(mended).hoursOf('1'), at(mended).hoursOf('7')?.name]).toEqual([undefined, 'Office']);
  expect(codes(given, { type: 'hours.remove', hoursId: hours.id })).toEqual(['hours.used']);
  expect(codes(before, { type: 'duty.add', siteId: sample.site.id, duty: { ...duty, hours: sampleId(9, 9) } })).toEqual(
    ['port.hours'],
  );
});
