import { expect, test } from 'vitest';
import { walk } from '../bench';
import { draftOfSeat } from '../bench/seat';
import type { ApDocument, DeviceDocument, SwitchDocument } from '../document';
import { apply, type AccessClass, type Intent, type Operation } from '../intent';
import { compileSite, enforcedAt, enforcedBy, policyOf } from '../rollout';
import { readEnds, readServices } from '../rules';
import { randomFrom, sampleId, sampleSite } from '../testing';
import { EditedSite, typedRule as rule } from './edited-site.fixture';
import { viewPolicy } from './policy-view';
import { reachMatrix } from './reach-view';
import { parseIp } from '../address';
import { pointOf, type Packet } from '../rules';

const [SCANNER, TILL] = ['02:1a:00:00:00:07', '02:1a:00:00:00:08'];
/** Its clients are among those of SSID 1. */
const scanners: AccessClass = {
  id: sampleId(7, 1),
  name: 'Scanners',
  segment: 'Segment 1',
  members: [{ mac: SCANNER, name: 'Gate' }],
  reach: { kind: 'estate' },
};
/** Its clients have a segment that no SSID and no port puts others into. */
const tills: AccessClass = {
  ...scanners,
  id: sampleId(7, 2),
  name: 'Tills',
  segment: 'Tills',
  members: [{ mac: TILL, name: '' }],
};
const bare = new EditedSite(sampleSite({ segments: 4, aps: 2 }));
const { siteId } = bare;
const { site: part, roster, links } = bare.sample;
const [ssid] = bare.sample.intent.estate.ssids;
const asks: Operation = { type: 'ssid.set', ssidId: ssid!.id, from: { byClass: null }, to: { byClass: true } };
const site = bare.with(
  {
    type: 'segment.add',
    siteId,
    segment: {
      ...part.segments[3]!,
      id: sampleId(1, 99),
      name: 'Tills',
      vlan: 99,
      subnet: '10.1.99.0/24',
      gateway: '10.1.99.1',
      addresses: { first: '10.1.99.20', last: '10.1.99.200', leaseSeconds: 3600 },
    },
  },
  { type: 'class.add', accessClass: scanners },
  { type: 'class.add', accessClass: tills },
  asks,
);
const [sw, ap] = ['x-sw-01', 'x-ap-01'].map((name) => roster.find((each) => each.name === name)!);
const compiled = (intent: Intent): Map<string, DeviceDocument> => compileSite(site.at(intent), roster);
/** Port 20 of the switch asks who its clients are. */
const askingPort = (port = '20'): Operation => {
  const from = site.start.sites.get(siteId)!.ports[sw!.id]?.[port] ?? null;
  return { type: 'port.set', siteId, deviceId: sw!.id, port, from, to: { ...from, auth: 'mac' } };
};

test('an AP is told whom it puts where; what they need is carried to it, and a gap is found and mended', () => {
  const document = compiled(site.start).get(ap!.id) as ApDocument;
  expect(document.classes).toEqual([
    { id: scanners.id, name: 'Scanners', vlan: 10, members: [SCANNER] },
    { id: tills.id, name: 'Tills', vlan: 99, members: [TILL] },
  ]);
  expect(document.ssids.map(({ name, byClass = false }) => [name, byClass])).toEqual([
    ['SSID 1', true],
    ['SSID 2', false],
    ['SSID 3', false],
  ]);
  expect(document.ports[0]!.tagged).toEqual([10, 20, 30, 99]);
  const gaps = site.judged(site.start).findings.filter(({ code }) => code === 'lattice.not-carried');
  expect(gaps.map(({ message }) => message)).toEqual([
    'Tills stops at x-sw-01 port 1',
    'Tills stops at x-sw-01 port 2',
  ]);
  const mended = site.done(site.start, ...gaps.flatMap(({ mend }) => mend!.operations));
  expect(site.judged(mended).findings.map(({ code }) => code)).not.toContain('lattice.not-carried');
  // Nobody asks: nobody is told.
  const quiet = compiled(site.done(site.start, { ...asks, from: { byClass: true }, to: { byClass: null } }));
  expect([...quiet.values()].filter(({ classes }) => classes)).toEqual([]);
});

test('a port that asks for a known MAC address carries nothing else, and needs what classes join', () => {
  const told = compiled(site.done(site.start, askingPort())).get(sw!.id) as SwitchDocument;
  expect(told.ports.find(({ name }) => name === '20')).toMatchObject({ auth: 'mac', untagged: null, tagged: [] });
  expect(told.classes?.map(({ vlan }) => vlan)).toEqual([10, 99]);
  const shut = site.judged(site.done(bare.start, askingPort()));
  expect(shut.findings.map(({ code }) => code)).toEqual(['entry.nobody-known']);
  const cut = site.done(site.start, askingPort('1'));
  const finding = site.judged(cut).findings.find(({ code }) => code === 'entry.device-asked')!;
  expect(finding.message).toBe('Port 1 of x-sw-01 cuts off the device that hangs there');
  const open = site.done(cut, ...finding.mend!.operations);
  expect(compiled(open).get(ap!.id)).toEqual(compiled(site.start).get(ap!.id));
  expect(site.judged(open).findings.map(({ code }) => code)).not.toContain('entry.device-asked');
});

test('a class whose segment a site has not is not let in there, and that is found', () => {
  const gone = site.done(site.start, {
    type: 'class.set',
    classId: tills.id,
    from: { segment: 'Tills' },
    to: { segment: 'Shop' },
  });
  expect(compiled(gone).get(ap!.id)!.classes![1]).toMatchObject({ name: 'Tills', vlan: null });
  expect(site.judged(gone).findings.find(({ code }) => code === 'entry.no-segment')?.reason).toContain('“Shop”');
  const probe = { ssidId: ssid!.id, apId: ap!.id, band: '5' as const, knowsPassphrase: true, mac: TILL };
  const { steps } = walk(compiled(gone), links, probe, { taken: new Set(), uplinks: new Map(), minute: 0 });
  expect(steps.at(-1)).toMatchObject({ kind: 'vlan', passed: false, decidedBy: { kind: 'class', name: 'Tills' } });
});

test('whom nothing gives another class has that of everybody else, wherever classes count', () => {
  const others: Operation = {
    type: 'class.set',
    classId: tills.id,
    from: { otherwise: null },
    to: { otherwise: true },
  };
  const intent = site.done(site.start, others);
  const documents = compiled(intent);
  expect(documents.get(ap!.id)!.classes!.map(({ otherwise = false }) => otherwise)).toEqual([false, true]);
  const joins = (ssidId: string, mac: string, at = documents) =>
    walk(
      at,
      links,
      { ssidId, apId: ap!.id, band: '5', knowsPassphrase: true, mac },
      { taken: new Set(), uplinks: new Map(), minute: 0 },
    ).steps.find(({ kind }) => kind === 'vlan')!;
  const [first, second] = bare.sample.intent.estate.ssids;
  expect(joins(first!.id, '02:1a:00:00:00:99')).toMatchObject({
    title: 'VLAN 99',
    detail: 'Nothing gives it another class: it has that of everybody else, “Tills”, which joins VLAN 99.',
  });
  expect(joins(first!.id, SCANNER).title).toBe('VLAN 10');
  // Where classes do not count it is nobody’s.
  expect(joins(second!.id, '02:1a:00:00:00:99').title).toBe('VLAN 20');
  // Where its segment is missing nobody falls to another.
  const lost = site.done(intent, {
    type: 'class.set',
    classId: tills.id,
    from: { segment: 'Tills' },
    to: { segment: 'Shop' },
  });
  expect(joins(first!.id, '02:1a:00:00:00:99', compiled(lost))).toMatchObject({ title: 'Not let in', passed: false });
  // Two for the same places would be chance.
  const two = apply(intent, { ...others, classId: scanners.id }, (id) => roster.find((each) => each.id === id));
  expect(two.ok ? [] : two.flaws.map(({ code, field }) => [code, field])).toEqual([['class.otherwise', 'otherwise']]);
});

test('a rule of a class takes effect at the gateway where the class has its segment alone, else at the APs', () => {
  const intent = site.withRules(
    rule('alone', 'deny', 'class Tills', 'internet'),
    rule('shared', 'deny', 'class Scanners', 'internet'),
    rule('inside', 'deny', 'class Scanners', 'segment Segment 1', 'tcp 445'),
  );
  expect(site.placesOf(intent)).toMatchObject({ alone: ['gateway'], shared: ['aps'], inside: ['aps'] });
  const document = compiled(intent).get(ap!.id) as ApDocument;
  const [own] = document.ssids;
  expect(own!.lists).toBeUndefined();
  expect(own!.classLists!.map(({ name }) => name)).toEqual(['Scanners']);
  expect(own!.classLists![0]!.from.rules.map(({ id }) => id)).toEqual(['shared', 'inside']);
  expect(document.ssids[1]!.classLists).toBeUndefined();
  // On a port as well: the gateway still tells the tills by their addresses, and nobody there tells the scanners.
  const cabled = site.done(intent, askingPort());
  expect(site.placesOf(cabled)).toMatchObject({ alone: ['gateway'], shared: ['aps'] });
  const part = site.ofRules(cabled).filter(({ code }) => code === 'rules.part');
  expect(part.map(({ place }) => place.id)).toEqual(['shared', 'inside']);
  expect(part[0]!.reason).toMatch(/^Clients of the class Scanners on cables do not pass an AP/);
});

test('a place that goes by addresses is held against others too, and the mend lets APs do it', () => {
  for (const at of ['gateway', 'switches'] as const) {
    const intent = site.withRules(rule('wide', 'deny', 'class Scanners', 'internet', 'tcp 25', at));
    const finding = site.ofRules(intent).find(({ code }) => code === 'rules.beyond')!;
    expect(finding.reason).toMatch(/^Others share the addresses of class Scanners/);
    const mended = site.done(intent, ...finding.mend!.operations);
    expect(site.placesOf(mended)['wide']).toEqual(['aps']);
    expect(site.ofRules(mended)).toEqual([]);
  }
  // Alone, its addresses say whose they are.
  expect(site.ofRules(site.withRules(rule('own', 'deny', 'class Tills', 'internet', 'tcp 25', 'gateway')))).toEqual([]);
});

test('a rule of a class that nobody is given here has no place', () => {
  const off = site.done(site.start, { ...asks, from: { byClass: true }, to: { byClass: null } });
  const rules = [rule('idle', 'deny', 'class Scanners', 'internet')];
  const intent = site.done(off, { type: 'rule.add', siteId, rules, behind: null });
  expect(site.ofRules(intent).map(({ code }) => code)).toEqual(['rules.unpassed']);
  expect([site.cell(intent, 'SSID 1', 'Internet'), site.cell(intent, 'Segment 1', 'Internet')]).toEqual(['all', 'all']);
});

test('the matrix, a question and a guarantee tell a class from others of its segment and of its SSID', () => {
  const always: Operation = {
    type: 'guarantee.add',
    siteId,
    guarantee: {
      id: sampleId(11, 1),
      kind: 'always',
      from: readEnds('class Scanners'),
      to: readEnds('segment Management'),
      services: readServices('tcp 443').services,
    },
  };
  const intent = site.done(
    site.withRules(
      rule('yes', 'allow', 'class Scanners', 'segment Management', 'tcp 443', 'aps'),
      rule('no', 'deny', 'segment Segment 1', 'segment Management', 'any', 'aps'),
    ),
    always,
  );
  expect(site.cell(intent, 'Scanners', 'Management')).toBe('some');
  expect(site.cell(intent, 'SSID 1', 'Management')).toBe('some');
  expect(site.ask(intent, 'class Scanners', 'segment Management', 'tcp 443').reach).toBe('all');
  expect(site.ask(intent, 'segment Segment 1', 'segment Management', 'tcp 443').reach).toBe('some');
  expect(site.ask(intent, 'class Scanners', 'segment Management', 'udp 9').reach).toBe('none');
  expect(site.judged(intent).guarantees[0]!.state).toBe('holds');
  const back = site.done(intent, { type: 'rule.remove', siteId, ruleIds: ['yes'] });
  expect(site.judged(back).guarantees[0]).toMatchObject({ state: 'broken', ruleId: 'no' });
  expect(site.cell(back, 'Scanners', 'Management')).toBe('none');
  expect(site.cell(intent, 'Tills', 'Internet')).toBe('all');
});

test('what APs acknowledged of classes is read as what was compiled', () => {
  const intent = site.withRules(
    rule('a', 'deny', 'class Scanners', 'internet', 'tcp 25'),
    rule('b', 'deny', 'SSID "SSID 1"', 'internet', 'tcp 23', 'aps'),
  );
  const documents = [...compiled(intent).values()];
  const { draft, live } = reachMatrix({ ...site.reach(intent), live: enforcedBy(documents) }, null);
  expect(live).toEqual(draft);
  const late = documents.map((document) =>
    document.kind === 'ap' && document.device.name === ap!.name
      ? { ...document, ssids: document.ssids.map(({ classLists: _lists, ...each }) => each) }
      : document,
  );
  expect(enforcedBy(late)!.ssids[ssid!.id]?.classLists).toBeUndefined();
  expect(enforcedBy(late)!.ssids[ssid!.id]?.lists).toBeDefined();
});

test('a walk and a seat take the class of a MAC address, on the air and on a port that asks', () => {
  const mends = site.judged(site.start).findings.flatMap(({ mend }) => mend?.operations ?? []);
  const intent = site.done(
    site.withRules(rule('shut', 'deny', 'class Scanners', 'internet', 'tcp 443', 'aps')),
    ...mends,
    askingPort(),
  );
  const { taken, uplinks } = {
    taken: new Set<string>(),
    uplinks: new Map([[`${roster[0]!.id} wan1`, { up: true, address: '203.0.113.11' }]]),
  };
  const walked = (mac?: string) => {
    const probe = { ssidId: ssid!.id, apId: ap!.id, band: '5' as const, knowsPassphrase: true };
    return walk(compiled(intent), links, mac ? { ...probe, mac } : probe, { taken, uplinks, minute: 0 });
  };
  const by = (mac?: string) => walked(mac).steps.find(({ kind }) => kind === 'vlan');
  expect(by()).toMatchObject({ title: 'VLAN 10', decidedBy: { kind: 'ssid' } });
  expect(by(TILL)).toMatchObject({ title: 'VLAN 99', decidedBy: { kind: 'class', name: 'Tills' } });
  expect([walked(), walked(TILL), walked(SCANNER)].map(({ arrived }) => arrived)).toEqual([true, true, false]);
  expect(walked(SCANNER).steps.at(-1)).toMatchObject({ kind: 'rules', decidedBy: { id: 'shut' } });

  const seat = (at: object) =>
    draftOfSeat(
      site.reach(intent),
      { deviceId: 'port' in at ? sw!.id : ap!.id, probe: { does: 'connect', ...at }, target: '198.51.100.9' },
      0,
      { key: null, now: '2026-11-28 12:00' },
    );
  expect(seat({ ssid: 'SSID 1' })).toMatchObject({ passes: true });
  expect(seat({ ssid: 'SSID 1', mac: SCANNER })!.text).toMatch(/^The draft stops it at the APs, for SSID 1, Scanners/);
  expect(seat({ port: '20', mac: SCANNER })).toMatchObject({ passes: true }); // no AP there
  expect(seat({ port: '20', mac: '02:00:00:00:00:99' })!.text).toMatch(/lets nobody in there/);
});

test('an edit of a class is checked, says what it saw, is taken back, and rules follow its name', () => {
  const refused = (operation: Operation): string[] => {
    const result = apply(site.start, operation, () => undefined);
    return result.ok ? [] : result.flaws.map(({ code }) => code);
  };
  const add = (more: Partial<AccessClass>): Operation => ({
    type: 'class.add',
    accessClass: { ...scanners, id: sampleId(7, 3), name: 'Third', members: [], ...more },
  });
  expect(refused(add({}))).toEqual([]);
  expect(refused(add({ name: ' ' }))).toEqual(['class.name-empty']);
  expect(refused(add({ name: 'TILLS' }))).toEqual(['class.name-taken']);
  expect(refused(add({ name: 'x'.repeat(61) }))).toEqual(['class.name-long']);
  expect(refused(add({ segment: '' }))).toEqual(['class.segment-none']);
  expect(refused(add({ members: [{ mac: '02-1A-00-00-00-07', name: '' }] }))).toEqual(['class.mac-taken']);
  expect(refused(add({ members: [{ mac: 'gate', name: '' }] }))).toEqual(['class.mac']);
  const two = [1, 2].map(() => ({ mac: '02:1a:00:00:00:55', name: '' }));
  expect(refused(add({ members: two }))).toEqual(['class.mac-taken']);
  const rename: Operation = {
    type: 'class.set',
    classId: scanners.id,
    from: { name: 'Scanners' },
    to: { name: 'Gates' },
  };
  expect(refused({ ...rename, from: { name: 'Readers' } })).toEqual(['class.changed']);
  const ruled = site.withRules(rule('r', 'deny', 'class Scanners', 'internet'));
  const result = apply(ruled, rename, () => undefined);
  if (!result.ok) throw new Error();
  expect(result.intent.sites.get(siteId)!.rules![0]!.from).toEqual([{ kind: 'class', name: 'Gates' }]);
  expect(site.done(result.intent, result.inverse)).toEqual(ruled);
  const removed = apply(ruled, { type: 'class.remove', classId: tills.id }, () => undefined);
  if (!removed.ok) throw new Error();
  expect(site.done(removed.intent, removed.inverse)).toEqual(ruled);
});

test('for random rules, each client gets through what the lists and the gateway pass for its class and SSID', () => {
  const random = randomFrom(23);
  const pick = <T>(list: readonly T[]): T => list[random(list.length)]!;
  const ends = ['class Scanners', 'class Tills', 'SSID "SSID 1"', 'segment Segment 1', 'segment Segment 2', 'internet'];
  let [told, stopped] = [0, 0];
  for (let round = 0; round < 10; round++) {
    const rules = Array.from({ length: 6 }, (_, i) =>
      rule(
        `r${i}`,
        pick(['allow', 'deny']),
        pick(ends),
        pick(ends),
        pick(['any', 'tcp 443']),
        pick([undefined, 'aps']),
      ),
    );
    const made = site.at(site.withRules(...rules));
    const passage = viewPolicy(made, policyOf(made, roster), enforcedAt(made, roster), siteId).passage(0);
    for (let i = 0; i < 120; i++) {
      const address = (): bigint =>
        parseIp(pick(['10.1.10.', '10.1.99.', '10.1.20.', '198.51.100.']) + String(30 + random(90)))!.value;
      const packet: Packet = {
        version: 4,
        source: address(),
        destination: address(),
        protocol: 6,
        port: pick([443, 80]),
        sourcePort: 50_000,
      };
      const ways = passage.edge?.pairs(packet) ?? [{}];
      const verdicts = ways.map((whose) => {
        const passed = passage.stops(packet, whose).every((stop) => stop.passed);
        const set = passage.allowed(4, { who: 'some', ...whose });
        expect(passage.decider.space(4).at(set, pointOf(packet)) > 0).toBe(passed);
        if (!passed) stopped++;
        return passed;
      });
      if (new Set(verdicts).size > 1) told++;
    }
  }
  expect([told > 50, stopped > 200]).toEqual([true, true]);
});
