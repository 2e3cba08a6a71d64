import { expect, test } from 'vitest';
import { parseIp } from '../address';
import type { Intent, Operation, Ssid } from '../intent';
import { compileSite, enforcedAt, enforcedBy, policyOf } from '../rollout';
import { pointOf, readEnds, readServices, type Packet, type Rule, type RulePlace } from '../rules';
import { randomFrom, sampleSite } from '../testing';
import { ask } from './ask';
import { EditedSite, typedRule as rule } from './edited-site.fixture';
import { consequencesOf } from './consequences';
import { viewPolicy } from './policy-view';
import { reachCell, reachMatrix } from './reach-view';

const plain = new EditedSite(sampleSite({ segments: 4, aps: 2 }));
const { siteId } = plain;
const { site: part, roster, intent: founded } = plain.sample;
/** A second SSID whose clients share the segment of the first. */
const guests: Ssid = { ...founded.estate.ssids[0]!, id: '00000005-0000-4000-8000-000000000099', name: 'Guests' };
const site = plain.with({ type: 'ssid.add', ssid: guests });
const done = (intent: Intent, ...operations: Operation[]): Intent => site.done(intent, ...operations);
const withRules = (...rules: Rule[]): Intent => site.withRules(...rules);

test('a rule takes effect at the gateway, or where it alone can be held: within a segment and of an SSID among others', () => {
  const intent = withRules(
    rule('routed', 'deny', 'segment Segment 1', 'segment Segment 2'),
    rule('inside', 'deny', 'segment Segment 1', 'segment Segment 1', 'tcp 445'),
    rule('alone', 'deny', 'SSID "SSID 2"', 'internet'),
    rule('shared', 'deny', 'SSID Guests', 'internet'),
    rule('chosen', 'deny', 'segment Segment 2', 'segment Segment 3', 'any', 'switches'),
  );
  expect(site.placesOf(intent)).toMatchObject({
    routed: ['gateway'],
    inside: ['aps'], // nobody is cabled there
    alone: ['gateway'],
    shared: ['aps'],
    chosen: ['switches'],
  });
  const documents = [...compileSite(site.at(intent), roster).values()];
  const told = documents.map((document) => {
    const ids = (list?: { rules: readonly { id: string }[] }) => list?.rules.map(({ id }) => id) ?? [];
    if (document.kind === 'gateway') return ids(document.policy).filter((id) => id !== 'outside');
    if (document.kind === 'switch') return ids(document.list);
    return document.ssids.flatMap(({ name, lists }) =>
      lists ? [`${name}: ${ids(lists.from).join()} / ${ids(lists.to).join()}`] : [],
    );
  });
  const air = ['Guests: inside,shared / inside', 'SSID 1: inside / inside'];
  expect(told).toEqual([['routed', 'alone'], ['chosen'], air, air]);
});

test('the matrix tells an SSID from others of its segment, and what only some of its clients get', () => {
  const intent = withRules(rule('shared', 'deny', 'SSID Guests', 'internet'));
  expect([site.cell(intent, 'Guests', 'Internet'), site.cell(intent, 'SSID 1', 'Internet')]).toEqual(['none', 'all']);
  expect(site.cell(intent, 'Segment 1', 'Internet')).toBe('some');
  const [from, to] = [`ssid ${guests.id}`, 'internet'];
  const opened = reachCell(site.reach(intent), { from, to, on: 'draft', minute: null });
  expect(opened.rules.find(({ ruleId }) => ruleId === 'shared')).toMatchObject({ at: 'aps', verdict: 'deny' });
});

test('a port that is given to a segment lets its clients pass by the lists of APs, at once', () => {
  const intent = withRules(rule('air', 'deny', 'segment Segment 2', 'internet', 'any', 'aps'));
  expect(site.cell(intent, 'Segment 2', 'Internet')).toBe('none');
  const deviceId = roster.find(({ name }) => name === 'x-sw-01')!.id;
  const from = intent.sites.get(siteId)!.ports[deviceId]?.['20'] ?? null;
  const to = { untagged: part.segments[2]!.id, tagged: [] };
  const cabled = done(intent, { type: 'port.set', siteId, deviceId, port: '20', from, to });
  expect(site.cell(cabled, 'Segment 2', 'Internet')).toBe('some');
});

test('what devices acknowledged is read as what was compiled; a list that some lack is not relied on', () => {
  const intent = withRules(
    rule('shared', 'deny', 'SSID Guests', 'internet'),
    rule('chosen', 'deny', 'segment Segment 2', 'segment Segment 3', 'tcp', 'switches'),
  );
  const documents = [...compileSite(site.at(intent), roster).values()];
  const live = enforcedBy(documents)!;
  const { draft, live: run } = reachMatrix({ ...site.reach(intent), live }, null);
  expect(run).toEqual(draft);
  const late = documents.map((document) => {
    if (document.kind !== 'ap' || document.device.name !== 'x-ap-02') return document;
    return { ...document, ssids: document.ssids.map(({ lists: _lists, ...ssid }) => ssid) };
  });
  expect(enforcedBy(late)!.ssids).toEqual({});
  expect(enforcedBy(documents.filter(({ kind }) => kind !== 'gateway'))).toBeNull();
});

test('a deny where nothing is remembered is found to stop answers; the mend gives it to the gateway, which does not', () => {
  const deny = rule('one way', 'deny', 'segment Segment 2', 'segment Segment 3', 'any', 'switches');
  const intent = withRules(deny);
  const finding = site.ofRules(intent).find(({ code }) => code === 'rules.stateless')!;
  expect(finding.reason).toMatch(/^10\.1\.30\.\d+ → 10\.1\.20\.\d+, .* is let through, and 10\.1\.20\.\d+ → 10\.1\.30/);
  const answer = site.ask(intent, 'segment Segment 3', 'segment Segment 2', 'tcp 443');
  expect(answer.there.map(({ at, passed }) => [at, passed])).toEqual([
    ['the switches', true],
    ['x-gw-01', true],
  ]);
  expect(answer.back.at(-1)).toMatchObject({ at: 'the switches', passed: false, ruleId: 'one way' });
  const mended = done(intent, ...finding.mend!.operations);
  expect(site.ofRules(mended)).toEqual([]);
  expect(site.placesOf(mended)['one way']).toEqual(['gateway']);
});

test('a guarantee that something always gets through counts the answer; the rule that stops it is blamed', () => {
  const always: Operation = {
    type: 'guarantee.add',
    siteId,
    guarantee: {
      id: 'g',
      kind: 'always',
      from: readEnds('segment Segment 3'),
      to: readEnds('segment Segment 2'),
      services: readServices('tcp 443').services,
    },
  };
  const state = (at: RulePlace) => {
    const deny = rule('one way', 'deny', 'segment Segment 2', 'segment Segment 3', 'any', at);
    return site.judged(done(withRules(deny), always)).guarantees[0]!;
  };
  expect(state('gateway').state).toBe('holds');
  expect(state('switches')).toMatchObject({ state: 'broken', ruleId: 'one way' });
  expect(state('switches').why).toContain('at the switches');
});

test('a list at switches that closes the way back to devices is a cut-off', () => {
  const intent = withRules(rule('shut', 'deny', 'internet', 'segment Management', 'any', 'switches'));
  expect(site.judged(intent).lockOuts.map(({ name }) => name)).toEqual(['x-sw-01', 'x-ap-01', 'x-ap-02']);
  expect(site.judged(withRules(rule('shut', 'deny', 'internet', 'segment Management'))).lockOuts).toEqual([]);
});

test('a place that cannot do it, or not for everybody, is found; the mend lets another do it', () => {
  const codes = (...rules: Rule[]) => site.ofRules(withRules(...rules)).map(({ code }) => code);
  expect(codes(rule('a', 'deny', 'segment Segment 1', 'segment Segment 1', 'tcp 445', 'gateway'))).toEqual([
    'rules.unpassed',
  ]);
  expect(codes(rule('b', 'deny', 'segment Segment 1', 'segment Segment 1', 'udp 9', 'switches'))).toContain(
    'rules.part',
  );
  const past = { ...sampleSite({ segments: 4, aps: 2 }) };
  const ap = roster.find(({ name }) => name === 'x-ap-01')!;
  const [gateway] = roster;
  const straight = past.links.map((link) =>
    link.b.deviceId === ap.id ? { a: { deviceId: gateway!.id, port: '2' }, b: link.b } : link,
  );
  const intent = withRules(rule('c', 'deny', 'segment Segment 2', 'segment Segment 3', 'any', 'switches'));
  const { findings } = consequencesOf({
    estate: intent.estate,
    site: intent.sites.get(siteId)!,
    roster,
    links: straight,
    told: {},
  });
  expect(findings.find(({ code }) => code === 'rules.part')?.reason).toContain('x-ap-01');
});

test('isolation of an SSID keeps its clients from others of their own segment too, and lets the gateway answer', () => {
  const intent = done(site.start, {
    type: 'ssid.set',
    ssidId: guests.id,
    from: { isolation: null },
    to: { isolation: { segments: true, clients: true, gateway: false } },
  });
  expect([site.cell(intent, 'Guests', 'Segment 2'), site.cell(intent, 'SSID 1', 'Segment 2')]).toEqual(['none', 'all']);
  expect([site.cell(intent, 'Guests', 'Gateway'), site.cell(intent, 'Guests', 'Internet')]).toEqual(['all', 'all']);
  expect(site.cell(intent, 'Guests', 'SSID 1')).toBe('none');
  const documents = [...compileSite(site.at(intent), roster).values()];
  const apart = documents.flatMap((each) => (each.kind === 'ap' ? each.ssids : [])).filter(({ isolated }) => isolated);
  expect(new Set(apart.map(({ name }) => name))).toEqual(new Set(['Guests']));
});

test('for random rules at random places, the sets let through are those of packets that every list and the gateway pass', () => {
  const random = randomFrom(11);
  const pick = <T>(list: readonly T[]): T => list[random(list.length)]!;
  const ends = [
    'segment Segment 1',
    'segment Segment 2',
    'SSID Guests',
    'SSID "SSID 1"',
    'private',
    'internet',
    'any',
    '10.1.10.32-10.1.10.90',
  ];
  let stopped = 0;
  for (let round = 0; round < 12; round++) {
    const rules = Array.from({ length: 8 }, (_, i) =>
      rule(
        `r${i}`,
        pick(['allow', 'deny']),
        pick(ends),
        pick(ends),
        pick(['any', 'tcp 443', 'udp 53', 'icmp', 'tcp 1-50000']),
        pick([undefined, 'gateway', 'switches', 'aps']),
      ),
    );
    const ruled = site.at(withRules(...rules));
    const made = policyOf(ruled, roster);
    const passage = viewPolicy(ruled, made, enforcedAt(ruled, roster), siteId).passage(0);
    for (let i = 0; i < 150; i++) {
      const address = () =>
        parseIp(pick(['10.1.10.', '10.1.20.', '203.0.113.', '10.1.10.']) + String(20 + random(100)))!.value;
      const packet: Packet = {
        version: 4,
        source: address(),
        destination: address(),
        ...pick([
          { protocol: 6, port: 443, sourcePort: 50_000 },
          { protocol: 17, port: 53, sourcePort: 50_000 },
          { protocol: 6, port: 60_000, sourcePort: 443 },
          { protocol: 1, type: 8, code: 0 },
        ]),
      };
      for (const whose of passage.edge?.pairs(packet) ?? [{}]) {
        const space = passage.decider.space(4);
        const passed = passage.stops(packet, whose).every((stop) => stop.passed);
        if (!passed) stopped++;
        expect(space.at(passage.allowed(4, { who: 'some', ...whose }), pointOf(packet)) > 0).toBe(passed);
        const returned =
          passed &&
          passage
            .returns(packet, { ...(whose.to ? { from: whose.to } : {}), ...(whose.from ? { to: whose.from } : {}) })
            .every((stop) => stop.passed);
        if (packet.sourcePort !== 443)
          expect(space.at(passage.answered(4, { who: 'some', ...whose }), pointOf(packet)) > 0).toBe(returned);
      }
      const every = (passage.edge?.pairs(packet) ?? [{}]).every((whose) =>
        passage.stops(packet, whose).every((stop) => stop.passed),
      );
      const sure = passage.decider.space(4).at(passage.allowed(4, { who: 'every' }), pointOf(packet)) > 0;
      if (sure) expect(every).toBe(true);
    }
  }
  expect(stopped).toBeGreaterThan(100);
});

test('live is what is there now: what only the draft has is absent, and a switch that runs none of ours is missed', () => {
  const intent = withRules(rule('chosen', 'deny', 'segment Segment 2', 'segment Segment 2', 'tcp', 'switches'));
  const documents = [...compileSite(site.at(intent), roster).values()];
  const live = enforcedBy(documents)!;
  expect(live.switches?.rules.map(({ id }) => id)).toEqual(['chosen']);
  expect(enforcedBy(documents, 1)!.switches).toBeUndefined();
  const segment = { id: 'new', name: 'New', vlan: 400, subnet: '10.77.0.0/24', gateway: '10.77.0.1', addresses: null };
  const drafted = done(intent, { type: 'segment.add', siteId, segment });
  const input = { ...site.reach(drafted), live, liveSite: site.at(intent) };
  const { places, draft, live: run } = reachMatrix(input, null);
  const at = places.findIndex(({ name }) => name === 'New');
  expect(draft[at]!.some((reach) => reach === 'all')).toBe(true);
  expect([...new Set(run![at])]).toEqual(['absent']);
  expect([...new Set(run!.map((row) => row[at]))]).toEqual(['absent']);
  const cell = reachCell(input, { from: 'segment new', to: 'internet', on: 'live', minute: null });
  expect(cell).toMatchObject({ reach: 'absent', allowed: [], rules: [] });
  const question = { from: 'segment New', to: 'internet', services: 'any' };
  expect(ask(input, { question, on: 'live', minute: null })).toHaveProperty('flaws');
  expect(ask(input, { question, on: 'draft', minute: null })).toHaveProperty('reach', 'all');
});
