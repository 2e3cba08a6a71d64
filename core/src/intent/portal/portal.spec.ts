import { expect, test } from 'vitest';
import type { AccountIssuer, Sponsors } from '../../guests';
import { compileSite } from '../../rollout';
import { readTimes } from '../../rules';
import { applied, appliedWith, sampleId, sampleSite } from '../../testing';
import {
  apply,
  everyNoun,
  NEW_PORTAL,
  resolve,
  stepsTo,
  touchedSites,
  USUAL_SERVER,
  type Intent,
  type Operation,
  type PortEntry,
  type Portal,
} from '..';
import type { PortalOperation } from './operations';
import { secretsOfPortal } from './secrets';

const sample = sampleSite({ segments: 2, aps: 1 });
const [ssid] = sample.intent.estate.ssids;
const portal: Portal = { ...NEW_PORTAL, id: sampleId(9, 1), name: 'Passengers' };
const lookup = (id: string) => sample.roster.find((each) => each.id === id);

const codes = (intent: Intent, operation: Operation): string[] => {
  const outcome = apply(intent, operation, lookup);
  return outcome.ok ? [] : outcome.flaws.map(({ code }) => code);
};
const add: Operation = { type: 'portal.add', portal };
const hold: Operation = { type: 'ssid.set', ssidId: ssid!.id, from: { portal: null }, to: { portal: portal.id } };
const told = (intent: Intent) => {
  const documents = compileSite(resolve(intent.estate, intent.sites.get(sample.site.id)!), sample.roster);
  return [...documents.values()].flatMap((each) => (each.kind === 'ap' ? each.ssids : []));
};

test('an AP is told which portal holds an SSID’s clients and what passes before, and nothing of how it looks', () => {
  const change: Operation = {
    ...{ type: 'portal.set', portalId: portal.id, from: { garden: [], newsLink: undefined } },
    to: {
      garden: [' Ferries.example ', '', '*.tide.example', 'ferries.example'],
      newsLink: 'https://news.example/today',
    },
  };
  const held = applied(sample.intent, add, hold, change);
  expect(told(held).find(({ id }) => id === ssid!.id)!.portal).toEqual({
    ...{ id: portal.id, name: 'Passengers' },
    garden: ['*.tide.example', 'ferries.example', 'news.example'],
  });
  expect(told(held).filter((each) => each.portal)).toHaveLength(1);
  const looks: Operation = {
    type: 'portal.set',
    portalId: portal.id,
    from: { ground: portal.ground },
    to: { ground: '#FFFFFF' },
  };
  expect(told(applied(held, looks))).toEqual(told(held));
});

test('an AP is told the hours and the rate of a portal; the lesser of two limits holds, and hours stay while it has them', () => {
  const times = readTimes('Mon-Fri 08:00-18:00')!;
  const hours: Operation = { type: 'hours.add', hours: { id: sampleId(9, 3), name: 'Day', times } };
  const capped: Operation = {
    ...{ type: 'ssid.set', ssidId: ssid!.id, from: { caps: null }, to: { caps: { client: { down: 4000, up: 4000 } } } },
  };
  const limits = { hours: sampleId(9, 3), rate: { down: 10_000, up: 1000 } };
  const held = applied(sample.intent, hours, capped, { type: 'portal.add', portal: { ...portal, ...limits } }, hold);
  const sent = told(held).find(({ id }) => id === ssid!.id)!;
  expect(sent.portal).toEqual({ id: portal.id, name: 'Passengers', hours: { name: 'Day', times } });
  expect([sent.caps?.client?.down?.kbps, sent.caps?.client?.up?.kbps]).toEqual([4000, 1000]);
  expect(held.estate.ssids[0]!.caps).toEqual({ client: { down: 4000, up: 4000 } });
  expect(codes(held, { type: 'hours.remove', hoursId: sampleId(9, 3) })).toEqual(['hours.used']);
  const other: Operation = {
    ...{ type: 'hours.set', hoursId: sampleId(9, 3), from: { times }, to: { times: readTimes('Sat 08:00-12:00')! } },
  };
  expect(touchedSites(held, applied(held, other))).toEqual([sample.site.id]);
});

test('limits of a visit that nobody means, and hours that are not there, are refused in words', () => {
  const set = (to: Partial<Portal>): Operation => ({ type: 'portal.add', portal: { ...portal, ...to } });
  expect(codes(sample.intent, set({ idle: 4 }))).toEqual(['portal.idle']);
  expect(codes(sample.intent, set({ rest: 1.5 }))).toEqual(['portal.rest']);
  expect(codes(sample.intent, set({ hours: sampleId(9, 8) }))).toEqual(['portal.hours-unknown']);
  expect(codes(sample.intent, set({ rate: { down: 0 } }))).toEqual(['caps.zero']);
  expect(codes(sample.intent, set({ known: 59 }))).toEqual(['portal.known']);
  expect(codes(sample.intent, set({ slow: 15, dataADay: 5 }))).toEqual(['portal.slow']);
  expect(codes(sample.intent, set({ slow: 256 }))).toEqual(['portal.slow-none']);
  for (const quiet of [[], ['203.0.113.7'], ['on line']])
    expect(codes(sample.intent, set({ quiet }))).toEqual(['portal.quiet']);
  expect(codes(sample.intent, set({ idle: 5, rest: 44_640, rate: { up: 64 } }))).toEqual([]);
  expect(codes(sample.intent, set({ known: 525_600, slow: 256, dataADay: 5 }))).toEqual([]);
  const kind = { name: 'Day guest', minutes: 1440, most: 2 };
  for (const odd of [
    { name: '' },
    { name: 'x'.repeat(41) },
    { minutes: 4 },
    { minutes: 1.5 },
    { most: 0 },
    { most: 1001 },
  ])
    expect(codes(sample.intent, set({ kinds: [{ ...kind, ...odd }] }))).toEqual(['portal.kinds']);
  expect(codes(sample.intent, set({ kinds: [kind, { ...kind, name: 'DAY GUEST' }] }))).toEqual(['portal.kinds']);
  expect(codes(sample.intent, set({ kinds: [kind, { ...kind, name: 'Stall', most: null }] }))).toEqual([]);
});

test('a portal stays as long as an SSID has it; an SSID cannot have one that is not there', () => {
  expect(codes(sample.intent, hold)).toEqual(['ssid.portal-unknown']);
  const held = applied(sample.intent, add, hold);
  const remove: Operation = { type: 'portal.remove', portalId: portal.id };
  expect(codes(held, remove)).toEqual(['portal.used']);
  const free = applied(held, { ...hold, from: hold.to, to: { portal: null } });
  expect(applied(free, remove).estate.portals).toBeUndefined();
});

test('what cannot be a portal is refused, in the field where it is', () => {
  const flaws = (more: Partial<Portal>): string[] =>
    codes(sample.intent, { type: 'portal.add', portal: { ...portal, ...more } });
  expect(flaws({})).toEqual([]);
  expect(flaws({ name: ' ' })).toEqual(['portal.name-empty']);
  expect(flaws({ name: 'x'.repeat(61) })).toEqual(['portal.name-long']);
  expect(flaws({ ways: [] })).toEqual(['portal.ways-none']);
  expect(flaws({ languages: [] })).toEqual(['portal.languages-none']);
  expect(flaws({ visit: 4 })).toEqual(['portal.visit']);
  expect(flaws({ visit: 7.5 })).toEqual(['portal.visit']);
  expect(flaws({ dataADay: 0.5 })).toEqual(['portal.data']);
  expect(flaws({ minutesADay: 1441 })).toEqual(['portal.minutes']);
  expect(flaws({ garden: ['ferries'] })).toEqual(['portal.garden']);
  expect(flaws({ garden: Array.from({ length: 201 }, (_, i) => `a${i}.example`) })).toEqual(['portal.garden-many']);
  expect(flaws({ landing: 'javascript:alert(1)' })).toEqual(['portal.landing']);
  expect(flaws({ newsLink: 'ferries.example' })).toEqual(['portal.newsLink']);
  expect(flaws({ ground: 'red' })).toEqual(['portal.ground']);
  expect(flaws({ accent: '#8c2f1b;}' })).toEqual(['portal.accent']);
  expect(flaws({ agree: true })).toEqual(['portal.terms-none']);
  const words = { title: '', text: '', news: '', terms: 'x'.repeat(20_001) };
  expect(flaws({ words: { en: words } })).toEqual(['portal.terms-long']);
  const one = applied(sample.intent, add);
  expect(codes(one, { type: 'portal.add', portal: { ...portal, id: sampleId(9, 2), name: 'PASSENGERS' } })).toEqual([
    'portal.name-taken',
  ]);
});

test('an edit of a portal touches the sites whose SSIDs it holds, and the way back is made of edits', () => {
  const other = { ...sample.site, id: sampleId(1, 7), name: 'Other' };
  const held = applied(sample.intent, add, hold);
  const ssids = held.estate.ssids.map((each) => ({
    ...each,
    reach: { kind: 'sites' as const, siteIds: [sample.site.id] },
  }));
  const two: Intent = { estate: { ...held.estate, ssids }, sites: new Map([...held.sites, [other.id, other]]) };
  const change: Operation = { type: 'portal.set', portalId: portal.id, from: { visit: 480 }, to: { visit: 60 } };
  const after = applied(two, change);
  expect(touchedSites(two, after)).toEqual([sample.site.id]);
  const unused = applied(two, { type: 'portal.add', portal: { ...portal, id: sampleId(9, 3), name: 'Crew' } });
  expect(touchedSites(two, unused)).toEqual([]);
  const back = stepsTo(after, sample.intent, ['estate'], lookup);
  expect(back).toMatchObject({ ok: true });
  expect(back.ok && back.intent.estate.portals).toBeUndefined();
});

test('portals are found by name, by what they are titled and by what they are for', () => {
  const words = { en: { title: 'Welcome aboard', text: '', terms: '', news: '' } };
  const intent = applied(sample.intent, { type: 'portal.add', portal: { ...portal, words, purpose: 'For the decks' } });
  const found = (text: string) =>
    everyNoun().flatMap(({ find }) => [
      ...(find?.(intent, (...texts) => texts.some((each) => each.includes(text))) ?? []),
    ]);
  for (const text of ['Passengers', 'aboard', 'decks'])
    expect(found(text)).toEqual([
      { kind: 'portal', id: portal.id, siteId: null, title: 'Passengers', detail: expect.any(String) as string },
    ]);
});

test('who may say yes is kept without what people type besides; what is wrong with it is said at its field', () => {
  const sponsors: Sponsors = {
    ...{ domains: ['@Skerrow.example ', 'skerrow.example', ''], people: [' rin@gull.example', 'rin@gull.example'] },
    ...{ groups: [{ name: ' Harbour office ', people: ['mel@pier.example', ''] }], told: [], within: 30 },
  };
  const held = applied(sample.intent, { type: 'portal.add', portal: { ...portal, sponsors } });
  expect(held.estate.portals![0]!.sponsors).toEqual({
    ...{ domains: ['skerrow.example'], people: ['rin@gull.example'], told: [], within: 30 },
    groups: [{ name: 'Harbour office', people: ['mel@pier.example'] }],
  });
  const flaws = (more: Partial<Sponsors>, fields: Partial<Portal> = {}): (string | undefined)[] => {
    const edit = { type: 'portal.add', portal: { ...portal, ...fields, sponsors: { ...sponsors, ...more } } } as const;
    const outcome = apply(sample.intent, edit, lookup);
    return outcome.ok ? [] : outcome.flaws.map(({ field }) => field);
  };
  const group = { name: 'Desk', people: ['a@b.example'] };
  for (const domains of [['nobody'], ['*'], ['*.*.example'], ['a@b.example'], ['skerrow.example, gull.example']])
    expect([domains, flaws({ domains })]).toEqual([domains, ['sponsors.domains']]);
  expect(flaws({ people: ['a@b.example, c@d.example'] })).toEqual(['sponsors.people']);
  expect(flaws({ told: Array.from({ length: 11 }, (_, i) => `a${i}@b.example`) })).toEqual(['sponsors.told']);
  expect(flaws({ groups: [{ ...group, people: [] }] })).toEqual(['sponsors.groups']);
  expect(flaws({ groups: [group, { ...group, name: 'DESK' }] })).toEqual(['sponsors.groups']);
  expect(flaws({ within: 2.5 })).toEqual(['sponsors.within']);
  expect(flaws({}, { first: 1 })).toEqual(['first']);
  expect(flaws({}, { first: 60, visit: 30 })).toEqual(['first']);
});

const { id: siteId } = sample.site;
const deviceId = sample.roster.find(({ model }) => model.startsWith('SW'))!.id;
/** An edit of one port as it is said to be in an intent. */
const lead = (intent: Intent, to: PortEntry | null): Operation => ({
  ...{ type: 'port.set', siteId, deviceId, port: '4' },
  ...{ from: intent.sites.get(siteId)!.ports[deviceId]?.['4'] ?? null, to },
});
const done = (intent: Intent, ...operations: readonly Operation[]): Intent =>
  appliedWith(sample.roster, intent, ...operations);
const switchTold = ({ estate, sites }: Intent) =>
  compileSite(resolve(estate, sites.get(siteId)!), sample.roster).get(deviceId)!;

test('a port and a duty lead to a portal as an SSID does: its box is told, its edits reach there, and it stays while they do', () => {
  expect(codes(sample.intent, lead(sample.intent, { portal: portal.id }))).toEqual(['port.portal']);
  const made = done(sample.intent, add);
  const held = done(made, lead(made, { portal: portal.id }));
  const port = (intent: Intent) => switchTold(intent).ports.find(({ name }) => name === '4')!.portal;
  expect(port(held)).toEqual({ id: portal.id, name: 'Passengers' });
  const garden: Operation = {
    ...{ type: 'portal.set', portalId: portal.id, from: { garden: [] }, to: { garden: ['a.example'] } },
  };
  const wider = done(held, garden);
  expect(port(wider)).toMatchObject({ garden: ['a.example'] });
  expect(touchedSites(held, wider)).toEqual([siteId]);
  expect(codes(held, { type: 'portal.remove', portalId: portal.id })).toEqual(['portal.used']);

  const duty = { id: sampleId(9, 7), name: 'Meeting rooms', untagged: null, tagged: [], portal: portal.id };
  const dutied = done(made, { type: 'duty.add', siteId, duty });
  const onDuty = done(dutied, lead(dutied, { dutyId: duty.id }));
  expect(port(onDuty)).toMatchObject({ id: portal.id });
  expect(touchedSites(onDuty, done(onDuty, garden))).toEqual([siteId]);
  expect(codes(onDuty, { type: 'portal.remove', portalId: portal.id })).toEqual(['portal.used']);
  // One port of the duty may hold nobody.
  expect(port(done(onDuty, lead(onDuty, { dutyId: duty.id, portal: null })))).toBeUndefined();
});

test('devices that ask servers are told the portals that answers may name, and their edits reach wherever a server does', () => {
  const at = { name: 'Quay', address: '198.51.100.90', secret: { secret: sampleId(6, 0) } };
  const server: Operation = {
    type: 'radius.add',
    radius: { ...USUAL_SERVER, id: sampleId(7, 0), ...at, reach: { kind: 'sites', siteIds: [siteId] } },
  };
  const name: Operation = {
    ...{ type: 'portal.set', portalId: portal.id, from: { named: null }, to: { named: true } },
  };
  const made = done(sample.intent, add, server);
  const before = done(made, lead(made, { auth: '802.1X' }));
  expect(switchTold(before).radius).not.toHaveProperty('portals');
  const named = done(before, name);
  expect(switchTold(named).radius?.portals).toEqual([{ id: portal.id, name: 'Passengers' }]);
  expect(touchedSites(before, named)).toEqual([siteId]);
});

test('an issuer of accounts is checked in words, its host is reached before, and its secret is the portal’s own', () => {
  const account = {
    ...{ name: ' Pier account ', issuer: 'https://accounts.pier.example/', client: 'lattice', secret: null },
    domains: ['@Pier.example', ''],
  };
  const made = (change: Partial<AccountIssuer>): Operation => ({
    type: 'portal.add',
    portal: { ...portal, ways: ['account'], account: { ...account, ...change } },
  });
  const kept = applied(sample.intent, made({}), hold);
  expect(kept.estate.portals![0]!.account).toEqual({
    ...{ name: 'Pier account', issuer: 'https://accounts.pier.example', client: 'lattice', secret: null },
    domains: ['pier.example'],
  });
  expect(told(kept).find(({ id }) => id === ssid!.id)!.portal!.garden).toEqual(['accounts.pier.example']);
  for (const [field, change] of [
    ['name', { name: ' ' }],
    ['issuer', { issuer: 'accounts.pier.example' }],
    ['issuer', { issuer: 'http://accounts.pier.example' }],
    ['issuer', { issuer: 'https://accounts.pier.example/?x=1' }],
    ['client', { client: '' }],
    ['domains', { domains: ['pier'] }],
  ] as const)
    expect(codes(sample.intent, made(change))).toEqual([`portal.account-${field}`]);
  expect(codes(sample.intent, made({ issuer: 'http://127.0.0.1:8621/accounts' }))).toEqual([]);
  const uses = secretsOfPortal(made({ secret: { secret: sampleId(6, 1) } }) as PortalOperation);
  expect(uses.map(({ id, check }) => [id, check('x').length, check('x'.repeat(513)).length])).toEqual([
    [sampleId(6, 1), 0, 1],
  ]);
  expect(secretsOfPortal(made({}) as PortalOperation)).toEqual([]);
});

test('where phones are not to open their small window, what they look at is reached, and nothing is said by DHCP', () => {
  const quiet = applied(
    sample.intent,
    { type: 'portal.add', portal: { ...portal, quiet: ['Online.skerrow.example', ''] } },
    hold,
  );
  expect(told(quiet).find(({ id }) => id === ssid!.id)!.portal).toEqual({
    ...{ id: portal.id, name: 'Passengers', garden: ['online.skerrow.example'], quiet: true },
  });
});
