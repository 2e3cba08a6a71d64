import { expect, test } from 'vitest';
import { apply, resolve, USUAL_SERVER, type AccessClass, type Operation, type Ssid } from '../intent';
import type { Exchange } from '../radius';
import { compileSite } from '../rollout';
import { typedRule } from '../assess/edited-site.fixture';
import { sampleId, sampleSite } from '../testing';
import { getsRows, gotAt, gotTried, ifServerDies, placeAskers, whatTheyGet, type Gets, type Whom } from '.';

const sample = sampleSite({ segments: 4, aps: 1 });
const [siteId, ssidId] = [sample.site.id, sampleId(5, 0)];
const switchId = sample.roster.find(({ model }) => model.startsWith('SW'))!.id;
const reach = { kind: 'estate' as const };
const accessClass = (n: number, name: string, segment: string, more: Partial<AccessClass> = {}): Operation => ({
  type: 'class.add',
  accessClass: { id: sampleId(8, n), name, segment, members: [], reach, ...more },
});
const server = (n: number, name: string, order: number, own = false): Operation => ({
  type: 'radius.add',
  radius: {
    ...USUAL_SERVER,
    ...{
      id: sampleId(7, n),
      name,
      address: own ? '' : '198.51.100.90',
      order,
      secret: { secret: sampleId(9, n) },
      reach,
    },
    ...(own ? { own: true } : {}),
  },
});
const CREW = accessClass(0, 'Crew', 'Segment 2', { groups: ['Deck'], rate: { down: 20_000 }, session: 480 });
const TILLS = accessClass(1, 'Tills', 'Segment 3', { members: [{ mac: '0e:c4:50:00:00:01', name: 'Till' }] });
const LOST = accessClass(2, 'Lost', 'Nowhere');
const OWN = server(0, 'This controller', 1, true);
const QUAY = server(1, 'Quay', 2);
const [before] = sample.intent.estate.ssids as [Ssid];
const ssid = (to: Partial<Ssid>): Operation => {
  const from = Object.fromEntries(Object.keys(to).map((key) => [key, before[key as keyof Ssid] ?? null]));
  return { type: 'ssid.set', ssidId, from, to };
};
const ENTERPRISE = ssid({ security: 'wpa2-wpa3-enterprise', byClass: true });
const port = (name: string, to: object): Operation => ({
  ...{
    type: 'port.set',
    siteId,
    deviceId: switchId,
    port: name,
    from: (sample.site.ports[switchId]?.[name] ?? null) as never,
    to: to,
  },
});
const ASKS = [4, 5].map((n) => port(`${n}`, { auth: '802.1X-mac', untagged: null, tagged: [] }));

function site(...operations: Operation[]) {
  const roster = (id: string) => sample.roster.find((each) => each.id === id);
  const intent = operations.reduce((now, operation) => {
    const outcome = apply(now, operation, roster);
    if (!outcome.ok) throw new Error(JSON.stringify(outcome.flaws));
    return outcome.intent;
  }, sample.intent);
  const resolved = resolve(intent.estate, intent.sites.get(siteId)!);
  return { site: resolved, roster: sample.roster, documents: compileSite(resolved, sample.roster) };
}
const nobody: Whom = { mac: null, user: null, groups: null, barred: null, assumed: null };
const marn: Whom = { ...nobody, user: 'marn.ellis', groups: ['deck'] };
/** What somebody gets at the one SSID that is changed, and at ports. */
const gets = (input: ReturnType<typeof site>, whom: Whom): Gets[] =>
  whatTheyGet(input, whom).filter(({ place }) => place.kind === 'ports' || place.id === ssidId);
/** The same, shortly. */
const shortly = (whom: Whom, ...operations: Operation[]): string[] =>
  gets(site(...operations), whom).map(({ place, server: by, accessClass: named, segment, stops }: Gets) =>
    [
      place.kind === 'ssid' ? place.name : `${place.ports.length} ports`,
      stops ?? `${named?.name ?? 'no class'} in ${segment!.name}`,
      ...(stops === null && by ? [by] : []),
    ].join(': '),
  );

test('a user that is kept gets what a group leads to, at each place, with its limits and why', () => {
  const input = site(CREW, TILLS, OWN, QUAY, ENTERPRISE, ...ASKS);
  const [air, ports] = gets(input, marn) as [Gets, Gets];
  expect(air).toMatchObject({
    ...{ how: 'Who they are (802.1X)', server: 'This controller', assumed: false, stops: null, session: 480 },
    ...{ accessClass: { name: 'Crew' }, segment: { name: 'Segment 2', vlan: 20, subnet: '10.1.20.0/24' } },
    ...{ attributes: [{ name: 'Filter-Id', value: 'Crew' }], down: { kbps: 20_000, by: 'each of class Crew' } },
    ...{ up: { kbps: null }, reachKey: `class ${sampleId(8, 0)}` },
  });
  expect(air.because).toEqual([
    '“This controller” keeps marn.ellis, who is in “deck”.',
    'This controller names the class “Crew” (Filter-Id).',
  ]);
  // At ports the same holds.
  expect(ports).toMatchObject({
    ...{ accessClass: { name: 'Crew' }, place: { kind: 'ports' } },
    ...{ down: { kbps: 20_000, by: 'each of class Crew' }, up: { kbps: null } },
  });
});

test('whom the controller does not keep is what the next server is taken to say; who is turned away, or has nobody to ask, is told', () => {
  const all = [CREW, LOST, OWN, QUAY, ENTERPRISE, ...ASKS];
  const stranger: Whom = { ...nobody, user: 'jory.pell' };
  expect(shortly(stranger, ...all)).toEqual([
    'SSID 1: no class in Segment 1: Quay',
    '2 ports: No class is named for them, and the port has no segment of its own.',
  ]);
  expect(shortly({ ...stranger, assumed: 'Crew' }, ...all)).toEqual([
    'SSID 1: Crew in Segment 2: Quay',
    '2 ports: Crew in Segment 2: Quay',
  ]);
  expect(shortly({ ...stranger, assumed: 'Lost' }, ...all)[0]).toBe(
    'SSID 1: The class “Lost”, which Quay names, has no segment here.',
  );
  expect(shortly({ ...marn, barred: 'the user is switched off' }, ...all)[0]).toBe(
    'SSID 1: “This controller” turns marn.ellis away: the user is switched off.',
  );
  expect(shortly(stranger, CREW, OWN, ENTERPRISE)[0]).toMatch(/keeps nobody called jory\.pell, and nobody else/);
  expect(shortly(marn, CREW, ENTERPRISE)[0]).toBe('SSID 1: No RADIUS server is asked here.');
  // Another server that is asked first has the last word, also of a user that is kept.
  const first = server(1, 'Quay', 1);
  const after = { ...OWN, radius: { ...(OWN as { radius: object }).radius, order: 2 } } as Operation;
  expect(shortly(marn, CREW, first, after, ENTERPRISE)[0]).toBe('SSID 1: no class in Segment 1: Quay');
  const long = ssid({ security: 'wpa3-enterprise-192', byClass: true, bands: ['5'] });
  const [certified] = gets(site(CREW, OWN, long), marn);
  expect(certified).toMatchObject({ accessClass: { name: 'Crew' }, stops: null });
  expect(certified!.because[0]).toMatch(/takes certificates alone/);
});

test('a MAC address counts where it is asked for: by a list, by a server, and not where it proves nothing', () => {
  const till: Whom = { ...nobody, mac: '0e:c4:50:00:00:01' };
  const other: Whom = { ...nobody, mac: '0e:c4:50:00:00:02' };
  expect(shortly(till, TILLS, OWN, ENTERPRISE, ...ASKS)).toEqual([
    'SSID 1: It asks who somebody is; a MAC address proves nothing there.',
    '2 ports: Tills in Segment 3',
  ]);
  expect(shortly(till, TILLS, ssid({ byClass: true }))).toEqual(['SSID 1: Tills in Segment 3']);
  expect(shortly(other, TILLS, ssid({ byClass: true }))).toEqual(['SSID 1: no class in Segment 1']);
  expect(shortly({ ...other, assumed: 'Tills' }, TILLS, QUAY, ssid({ byClass: true }), ...ASKS)).toEqual([
    'SSID 1: Tills in Segment 3: Quay',
    '2 ports: Tills in Segment 3: Quay',
  ]);
  expect(shortly({ ...other, groups: ['Deck'] }, CREW, OWN, ...ASKS)[1]).toBe(
    '2 ports: Crew in Segment 2: This controller',
  );
});

test('whom nothing gives another class gets that of everybody else, on SSIDs and at ports', () => {
  const others = accessClass(3, 'Visitors', 'Segment 2', { otherwise: true });
  const other: Whom = { ...nobody, mac: '0e:c4:50:00:00:02' };
  expect(shortly(other, TILLS, others, ssid({ byClass: true }))).toEqual(['SSID 1: Visitors in Segment 2']);
  expect(shortly({ ...other, mac: '0e:c4:50:00:00:01' }, TILLS, others, ssid({ byClass: true }))).toEqual([
    'SSID 1: Tills in Segment 3',
  ]);
  const stranger: Whom = { ...nobody, user: 'jory.pell' };
  const input = site(CREW, others, QUAY, ENTERPRISE, ...ASKS);
  expect(shortly(stranger, CREW, others, QUAY, ENTERPRISE, ...ASKS)).toEqual([
    'SSID 1: Visitors in Segment 2: Quay',
    '2 ports: Visitors in Segment 2: Quay',
  ]);
  expect(gets(input, stranger).map(({ because }) => because.at(-1))).toEqual(
    Array.from({ length: 2 }, () => 'Nothing gives them another class: “Visitors” is that of everybody else.'),
  );
});

test('what servers really said leads where devices would put them', () => {
  const input = site(CREW, LOST, OWN, QUAY, ENTERPRISE, ...ASKS);
  const deviceId = sample.roster.find(({ model }) => model.startsWith('AP'))!.id;
  const said = (name: string) => ({ filterIds: [name], vlan: { kind: 'none' as const, text: '' } });
  const air = (of: ReturnType<typeof said> | null) => gotAt(input, { ssidId, deviceId }, of, { mac: null });
  const wired = (of: ReturnType<typeof said> | null) =>
    gotAt(input, { deviceId: switchId, port: '4' }, of, { mac: null });
  expect(air(said('crew'))).toEqual({ accessClass: 'Crew', segment: 'Segment 2', stops: null });
  expect(air(null).stops).toBe('They are not let in.');
  expect(air(said('Gulls')).stops).toMatch(/Gulls.*does not reach here/);
  expect(wired(said('crew'))).toEqual({ accessClass: 'Crew', segment: 'Segment 2', stops: null });
  expect(wired(null)).toMatchObject({ segment: null, stops: 'They are turned away.' });
});

test('each row says what is reached from there, and by which rules', () => {
  const kept = typedRule('Crew is kept from Segment 3', 'deny', 'class Crew', 'segment Segment 3');
  const added: Operation = { type: 'rule.add', siteId, rules: [kept], behind: null };
  const { site: resolved, roster } = site(CREW, OWN, ENTERPRISE, added);
  const [row] = getsRows({ site: resolved, roster, live: null }, marn, 0);
  const to = Object.fromEntries(row!.reach.map((each) => [each.to, each.reach]));
  expect(to).toMatchObject({ 'Segment 3': 'none', 'Segment 1': 'all', Internet: 'all' });
  expect(row!.rules.map(({ name }) => name)).toContain('Crew is kept from Segment 3');
});

test('what happens when a server dies is told place by place: who is asked instead, and what becomes of whom nobody answers about', () => {
  const guest = sample.site.segments.find(({ name }) => name === 'Segment 3')!.id;
  const ports = [4, 5].map((n) => port(`${n}`, { auth: '802.1X', untagged: null, tagged: [], unanswered: guest }));
  const alone = site(CREW, QUAY, ENTERPRISE, ...ports);
  expect(ifServerDies(alone, 'Quay')).toEqual(
    expect.arrayContaining([
      { where: '“SSID 1”', next: null, words: 'Nobody new is let in; who is there stays until asked anew.' },
      {
        ...{ where: expect.stringMatching(/^2 ports, such as x-sw-01 port 4$/) as string, next: null },
        words: 'Whoever comes joins Segment 3, the segment for when no server answers.',
      },
    ]),
  );
  const two = ifServerDies(site(CREW, OWN, QUAY, ENTERPRISE), 'This controller');
  expect(two).toMatchObject([{ where: '“SSID 1”', next: 'Quay' }]);
  expect(two[0]!.words).toBe('“Quay” is asked instead: somebody waits 9 s at first, then it is left alone for 300 s.');
  expect(ifServerDies(site(CREW, QUAY), 'Quay')).toEqual([]);
});

test('who is tried is asked for by devices of the place, and reality is held against what was computed', () => {
  const input = site(CREW, TILLS, QUAY, ENTERPRISE, ...ASKS);
  const deviceId = sample.roster.find(({ model }) => model.startsWith('AP'))!.id;
  const exchange = (end: Exchange['end'], filterIds: string[] = []): Exchange => ({
    ...{ end, why: '', address: null, packets: [], sent: 1, ms: 4, filterIds, sessionSeconds: null, keys: true },
    vlan: { kind: 'none', text: '' },
  });
  expect(placeAskers(input.site, input.roster, { ssidId })).toMatchObject([
    { deviceId, at: 'SSID 1', radius: { servers: [{ name: 'Quay' }] } },
  ]);
  expect(placeAskers(input.site, input.roster, { deviceId: switchId, port: '4' })).toMatchObject([
    { deviceId: switchId, at: '4' },
  ]);
  expect(placeAskers(input.site, input.roster, { deviceId, port: '4' })).toEqual([]);
  const taken: Whom = { ...nobody, user: 'jory.pell', assumed: 'Crew' };
  const tried = (said: Exchange, server = 'Quay') =>
    gotTried(input, taken, { ssidId, deviceId }, [{ server, exchange: said }]).differs;
  expect(tried(exchange('accepted', ['crew']))).toEqual([]);
  expect(tried(exchange('accepted', ['Tills']))).toEqual([
    'They get the class “Tills”, and were to get the class “Crew”.',
    'They are in Segment 3, and were to be in Segment 2.',
  ]);
  expect(tried(exchange('rejected'))).toEqual([
    'They were to be let in, into Segment 2, and are not: “Quay” turns them away.',
  ]);
  expect(tried(exchange('accepted', ['crew']), 'Mole')).toEqual(['“Mole” said so, and “Quay” was to be asked first.']);
  const lost = gotTried(input, { ...taken, assumed: 'Nobody' }, { ssidId, deviceId }, [
    { server: 'Quay', exchange: exchange('accepted', ['crew']) },
  ]);
  expect(lost.differs[0]).toMatch(
    /^They are let in, into Segment 2, and were not to be: Quay names the class “Nobody”/,
  );
});
