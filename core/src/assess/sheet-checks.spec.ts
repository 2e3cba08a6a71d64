import { expect, test } from 'vitest';
import { sheetFor, type HardwareSheet } from '../hardware';
import { replacementLosses } from '../intake';
import type { AccessClass, Intent, Operation } from '../intent';
import { sampleId, sampleSegment, sampleSite } from '../testing';
import { EditedSite, typedRule as rule } from './edited-site.fixture';

const site = new EditedSite(sampleSite({ segments: 40, aps: 1 }));
const { siteId } = site;
const { intent: start, roster } = site.sample;
const done = (...operations: Operation[]): Intent => site.done(start, ...operations);
const beyond = (intent: Intent): string[] =>
  site
    .judged(intent)
    .findings.filter(({ code }) => code === 'intake.beyond-sheet')
    .map(({ message, reason }) => `${message}: ${reason}`);
const [ssid] = start.estate.ssids;
const onPool = (vlans: string): Operation[] => [
  { type: 'pool.add', siteId, pool: { id: sampleId(6, 1), name: 'Decks', vlans } },
  { type: 'ssid.set', ssidId: ssid!.id, from: { segment: ssid!.segment }, to: { segment: 'Decks' } },
];
const vlansOf = (count: number): string => Array.from({ length: count }, (_, i) => sampleSegment(i + 1).vlan).join(',');
const ap = roster.find((device) => sheetFor(device).kind === 'ap')!;
const most = sheetFor(ap);

test('a pool is as large as the APs that send it share, and a larger one names each of them', () => {
  expect(most.pooled).toBeDefined();
  expect(beyond(done(...onPool(vlansOf(Math.min(39, most.pooled!)))))).toEqual([]);
  const small: HardwareSheet = { ...most, model: 'AP-X', title: 'Small AP', pooled: 5 };
  const { model: _model, ...rest } = ap;
  const swapped = roster.map((each) => (each === ap ? { ...rest, model: 'AP-X', sheet: small } : each));
  const own = new EditedSite({ ...site.sample, roster: swapped });
  const found = own
    .judged(own.done(start, ...onPool(vlansOf(6))))
    .findings.filter(({ code }) => code === 'intake.beyond-sheet');
  expect(found.map(({ message, place }) => [message, place.id])).toEqual([
    [`${ap.name} cannot share the clients of an SSID among 6 segments`, ap.id],
  ]);
  expect(found[0]!.reason).toBe(
    'Small AP shares them among 5 at most. Take segments out of the pool, or let two SSIDs share them.',
  );
});

test('clients that are known, groups of ports and rules of a list are held against the sheet of the box concerned', () => {
  const members = Array.from({ length: most.knownClients! + 1 }, (_, i) => ({
    mac: `02:1a:00:00:${(i >> 8).toString(16).padStart(2, '0')}:${(i & 255).toString(16).padStart(2, '0')}`,
    name: '',
  }));
  const accessClass: AccessClass = {
    id: sampleId(8, 1),
    name: 'Many',
    segment: sampleSegment(1).name,
    members,
    reach: { kind: 'estate' },
  };
  const known = done(
    { type: 'class.add', accessClass },
    { type: 'ssid.set', ssidId: ssid!.id, from: { byClass: null }, to: { byClass: true } },
  );
  expect(beyond(known)).toEqual([expect.stringContaining(`cannot know ${members.length} clients`)]);

  const sw = roster.find((device) => sheetFor(device).kind === 'switch')!;
  const groups = Array.from({ length: sheetFor(sw).groups! + 1 }, (_, i): Operation => ({
    type: 'port.set',
    siteId,
    deviceId: sw.id,
    port: `${i + 1}`,
    from: site.sample.site.ports[sw.id]?.[`${i + 1}`] ?? null,
    to: { group: 1000 + i },
  }));
  expect(beyond(done(...groups))).toEqual([
    expect.stringContaining(`${sw.name} cannot have ${groups.length} groups of ports`),
  ]);

  const held = sheetFor(sw).rules!;
  const rules = Array.from({ length: held + 1 }, (_, i) =>
    rule(`r${i}`, 'deny', 'segment Segment 1', `10.99.${i >> 8}.${i & 255}`, 'any', 'switches'),
  );
  expect(beyond(site.withRules(...rules))).toEqual([
    expect.stringContaining(`${sw.name} cannot hold a list of ${held + 1} rules`),
  ]);
});

test('a box that holds less than the one before it is told of when it takes its place', () => {
  const less: HardwareSheet = { ...most, model: 'AP-X', pooled: 4, rules: 10 };
  expect(replacementLosses(ap, { model: 'AP-X', sheet: less }, undefined, []).map(({ message }) => message)).toEqual([
    `It holds less: 4 segments in a pool, not ${most.pooled}; 10 rules a list, not ${most.rules}.`,
  ]);
});
