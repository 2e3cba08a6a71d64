import { expect, test } from 'vitest';
import { parseRange } from '../address';
import type { DeviceDocument } from '../document';
import { resolve, type Intent, type Operation, type RosterDevice, type Segment } from '../intent';
import { compileSite, enforcedAt, enforcedBy, policyOf } from '../rollout';
import { readEnds, readServices, readTimes, PolicyBook, type Reach, type Rule } from '../rules';
import { sampleId, sampleSite } from '../testing';
import { EditedSite, typedRule as rule } from './edited-site.fixture';
import { ask } from './ask';
import { partQuestion } from './question';
import { lockOutOf } from './lock-out';
import { reachCell, reachMatrix } from './reach-view';

const site = new EditedSite(sampleSite({ segments: 4, aps: 2 }));
const { siteId } = site;
const { intent: start, site: part, roster } = site.sample;
const done = (intent: Intent, ...operations: Operation[]): Intent => site.done(intent, ...operations);
const withRules = (...rules: Rule[]): Intent => site.withRules(...rules);
const judged = (intent: Intent, tags: readonly string[] = []) => site.judged(intent, tags);
const findings = (intent: Intent) =>
  judged(intent)
    .findings.filter(({ code }) => code.startsWith('rule'))
    .map(({ code, place }) => `${code} ${place.id}`);
const reach = (intent: Intent) => site.reach(intent);
const isolated = (isolation: Segment['isolation']): Operation => ({
  type: 'segment.set',
  siteId,
  segmentId: part.segments[3]!.id,
  from: {},
  to: { isolation: isolation ?? null },
});

test('a rule that never matches is found with the one that takes its packets; the mend moves it before that one', () => {
  const intent = withRules(
    rule('other', 'allow', 'segment Segment 2', 'internet', 'tcp 443'),
    rule('wide', 'deny', 'segment Segment 1', 'any'),
    rule('narrow', 'allow', 'segment Segment 1', 'internet', 'tcp 443'),
  );
  const finding = judged(intent).findings.find(({ code }) => code === 'rules.shadowed')!;
  expect([finding.place.id, finding.reason]).toEqual([
    'narrow',
    '“wide” comes first, takes all its packets and does the opposite.',
  ]);
  const mended = done(intent, ...finding.mend!.operations);
  expect(mended.sites.get(siteId)!.rules!.map(({ id }) => id)).toEqual(['other', 'narrow', 'wide']);
  expect(findings(mended)).toEqual([]);
});

test('a rule that one of every site’s takes is mended by an exception before that one, by the addresses of its site alone', () => {
  const estate = done(start, {
    type: 'rule.add',
    rules: [rule('first', 'allow', 'any', 'internet', 'udp 123'), rule('ours', 'deny', 'any', 'private')],
    behind: null,
    book: 'before',
  });
  const own = new EditedSite(site.sample, estate);
  const intent = own.withRules(rule('print', 'allow', 'segment Segment 1', '10.1.20.9', 'tcp 9100'));
  const finding = own.judged(intent).findings.find(({ code }) => code === 'rules.shadowed')!;
  expect(finding.mend!.label).toBe(`put it before “ours” in the book of every site, by the addresses of ${part.name}`);
  const mended = own.done(intent, ...finding.mend!.operations);
  expect(mended.sites.get(siteId)!.rules ?? []).toEqual([]);
  expect(mended.estate.rulesBefore!.map(({ id }) => id)).toEqual(['first', 'print', 'ours']);
  const [, printing] = mended.estate.rulesBefore!;
  expect([printing!.from, printing!.comment]).toEqual([
    [{ kind: 'addresses', text: '10.1.10.0/24' }],
    `print, at ${part.name}`,
  ]);
  expect(own.judged(mended).findings.filter(({ code }) => code === 'rules.shadowed')).toEqual([]);
  // Whom it means is not said by addresses, or is not of this site: there is no one right answer.
  for (const vague of [
    rule('ssid', 'allow', 'ssid SSID 1', '10.1.20.9', 'tcp 9100'),
    rule('all', 'allow', 'any', '10.1.20.9', 'tcp 9100'),
  ]) {
    const found = own.judged(own.withRules(vague)).findings.find(({ code }) => code === 'rules.shadowed');
    expect(found?.mend ?? null).toBeNull();
  }
});

test('a rule of a device without an address of its own is mended by reserving the one that it has', () => {
  const [, sw] = roster as [RosterDevice, RosterDevice];
  const intent = withRules(rule('watch', 'allow', `device ${sw.name}`, 'segment Segment 1', 'udp 514'));
  const judgedAs = (facts: Partial<RosterDevice>) => {
    const ours = roster.map((each) => (each === sw ? { ...each, ...facts } : each));
    const own = new EditedSite({ ...site.sample, roster: ours }, intent);
    const finding = own.judged(intent).findings.find(({ code }) => code === 'rule.device-nowhere');
    return { own, finding };
  };
  expect(judgedAs({}).finding!.mend).toBeNull();
  expect(judgedAs({ mac: '02:00:00:00:00:07', given: '192.0.2.7' }).finding!.mend).toBeNull();
  const { own, finding } = judgedAs({ mac: '02:00:00:00:00:07', given: '10.1.1.77' });
  expect(finding!.mend!.label).toBe(`reserve 10.1.1.77 for ${sw.name}`);
  const mended = own.done(intent, ...finding!.mend!.operations);
  expect(own.judged(mended).findings.filter(({ code }) => code === 'rule.device-nowhere')).toEqual([]);
  const { rows, packets } = policyOf(own.at(mended), own.sample.roster);
  expect(rows.find((row) => row.rule.id === 'watch')!.applies).toBe(true);
  expect(packets.get('watch')!.source).toEqual([parseRange('10.1.1.77')]);
});

test('rules that say nothing new, are dead by several together, cross, or match nobody are each found', () => {
  expect(
    findings(
      withRules(
        rule('web', 'allow', 'segment Segment 1', 'internet', 'tcp 80-443'),
        rule('again', 'allow', 'segment Segment 1', 'internet', 'tcp 443'),
      ),
    ),
  ).toEqual(['rules.redundant again']);
  expect(
    findings(
      withRules(
        rule('low', 'deny', 'segment Segment 1', 'internet', 'tcp 0-1000'),
        rule('high', 'deny', 'segment Segment 1', 'internet', 'tcp 1001-65535'),
        rule('all', 'allow', 'segment Segment 1', 'internet', 'tcp'),
      ),
    ),
  ).toEqual(['rules.dead all']);
  expect(
    findings(
      withRules(
        rule('a', 'deny', 'segment Segment 1', 'any', 'tcp 80'),
        rule('b', 'allow', 'any', 'segment Segment 2', 'tcp'),
      ),
    ),
  ).toEqual(['rules.crossing b']);
  expect(findings(withRules(rule('ghost', 'deny', '10.99.0.0/24', 'internet')))).toEqual(['rules.nobody ghost']);
  const home = rule('home', 'deny', 'segment Segment 1', '10.1.10.40');
  expect(findings(withRules({ ...home, at: 'gateway' }))).toEqual(['rules.unpassed home']);
});

test('a rule in force at night alone does not make dead what it takes by day', () => {
  const night = { ...rule('night', 'deny', 'segment Segment 1', 'any'), times: readTimes('22:00-05:00')! };
  const intent = withRules(night, rule('day', 'allow', 'segment Segment 1', 'internet', 'tcp 443'));
  expect(findings(intent).filter((each) => each.endsWith(' day'))).toEqual([]);
});

test('a segment that a rule names and that is gone is an error at the rule, which is not in force as something else', () => {
  const intent = withRules(rule('gone', 'deny', 'segment Segment 2', 'internet'));
  const without = { ...intent.sites.get(siteId)!, segments: part.segments.filter(({ name }) => name !== 'Segment 2') };
  const renamed: Intent = { ...intent, sites: new Map([[siteId, without]]) };
  expect(findings(renamed)).toEqual(['rule.segment gone']);
  const { policy } = policyOf(resolve(renamed.estate, renamed.sites.get(siteId)!), roster);
  expect(policy.rules.map(({ id }) => id)).toEqual(['outside']);
});

test('guarantees are proven on every edit: a broken one tells a packet, the rule to blame, and when', () => {
  const never = {
    id: 'g',
    kind: 'never' as const,
    from: readEnds('segment Segment 1'),
    to: readEnds('segment Segment 2'),
    services: readServices('any').services,
  };
  const deny = rule('deny', 'deny', 'segment Segment 1', 'segment Segment 2');
  const held = done(withRules(deny), { type: 'guarantee.add', guarantee: never, siteId });
  expect(judged(held).guarantees).toMatchObject([{ state: 'holds' }]);
  const slip = rule('slip', 'allow', 'segment Segment 1', 'segment Segment 2', 'udp 161');
  const broken = done(held, { type: 'rule.add', siteId, rules: [slip], behind: null });
  expect(judged(broken).guarantees).toMatchObject([
    {
      state: 'broken',
      ruleId: 'slip',
      packet: expect.stringMatching(/^10\.1\.10\.\d+ → 10\.1\.20\.\d+, UDP 161$/) as string,
    },
  ]);
  expect(judged(broken).findings.map(({ code }) => code)).toContain('rules.guarantee');
  const timed = done(held, {
    type: 'rule.set',
    siteId,
    ruleId: 'deny',
    from: {},
    to: { times: readTimes('Mon-Fri 08:00-18:00')! },
  });
  expect(judged(timed).guarantees).toMatchObject([{ state: 'broken', at: 'Mon 00:00' }]);
  // Hours that are all hours, but for a day: it is broken on that day, and holds on others.
  const always = {
    id: sampleId(9, 1),
    name: 'But Christmas',
    times: readTimes('00:00-24:00')!,
    closed: ['2026-12-25'],
  };
  const shut = done(done(held, { type: 'hours.add', hours: always }), {
    type: 'rule.set',
    siteId,
    ruleId: 'deny',
    from: { hours: null },
    to: { hours: always.id },
  });
  expect(judged(shut).guarantees).toMatchObject([{ state: 'broken', at: 'Fri 00:00 on 2026-12-25' }]);
  const { moments } = reachMatrix(reach(shut), null);
  expect(moments.map(({ words }) => words)).toEqual(['Mon 00:00', 'Fri 00:00 on 2026-12-25']);
});

test('a guarantee of the estate holds sites with its tag to it, and is void where a site has not what it names', () => {
  const guarantee = (id: string, from: string, tag?: string) => ({
    type: 'guarantee.add' as const,
    shared: true as const,
    guarantee: {
      id,
      kind: 'always' as const,
      from: readEnds(from),
      to: readEnds('internet'),
      services: readServices('tcp 443').services,
      ...(tag ? { tag } : {}),
    },
  });
  const intent = done(start, guarantee('a', 'segment Segment 1', 'pier'), guarantee('b', 'segment Elsewhere'));
  expect(judged(intent).guarantees.map(({ id, state }) => `${id} ${state}`)).toEqual(['b void']);
  expect(judged(intent, ['pier']).guarantees.map(({ id, state }) => `${id} ${state}`)).toEqual(['a holds', 'b void']);
});

test('isolation results in rules, and clients are kept apart by what their frames meet', () => {
  const intent = done(start, isolated({ segments: true, clients: true, gateway: true }));
  const input = reach(intent);
  const { places, draft } = reachMatrix(input, null);
  const at = (name: string): number => places.findIndex((place) => place.name === name);
  const [guest, crew] = [at('Segment 3'), at('Segment 1')];
  expect([draft[guest]![crew], draft[crew]![guest], draft[guest]![guest], draft[guest]![at('Internet')]]).toEqual([
    'none',
    'none',
    'none',
    'all',
  ]);
  const toGateway = reachCell(input, { from: places[guest]!.key, to: 'gateway', on: 'draft', minute: null });
  expect(toGateway.allowed.map(({ services }) => services)).toEqual([['TCP 53', 'UDP 53', 'UDP 67', 'UDP 547']]);
  const documents = [...compileSite(input.site, roster).values()];
  const vlan = part.segments[3]!.vlan;
  const ap = documents.find(({ kind }) => kind === 'ap')!;
  if (ap.kind !== 'ap') throw new Error('no AP');
  expect(ap.ssids.filter(({ isolated: kept }) => kept).map((ssid) => ssid.vlan)).toEqual([vlan]);
  const plain = reachMatrix(reach(start), null).draft;
  expect([plain[guest]![guest], plain[guest]![crew]]).toEqual(['all', 'all']);
});

test('clients are apart live only where every device that has them was told so, and on every port', () => {
  const intent = done(start, isolated({ segments: false, clients: true, gateway: false }));
  const input = reach(intent);
  const documents = [...compileSite(input.site, roster).values()];
  const before = [...compileSite(reach(start).site, roster).values()];
  const inside = (told: readonly DeviceDocument[]): Reach => {
    const { live, places } = reachMatrix({ ...input, liveSite: input.site, live: enforcedBy(told) }, null);
    const guest = places.findIndex(({ name }) => name === 'Segment 3');
    return live![guest]![guest]!;
  };
  expect(inside(documents)).toBe('none');
  // One AP was away and runs what it was told before.
  const late = documents.map((each, i) => (each.device.name === 'x-ap-02' ? before[i]! : each));
  expect(inside(late)).toBe('all');
  const { vlan } = part.segments[3]!;
  const cabled = documents.map((each): DeviceDocument => {
    if (each.kind !== 'switch') return each;
    const [first, ...ports] = each.ports;
    return { ...each, ports: [{ ...first!, untagged: vlan, tagged: [] }, ...ports] };
  });
  expect(inside(cabled)).toBe('all');
});

test('the matrix of an edited draft is what a new one would be, and tells where live differs', () => {
  const book = new PolicyBook();
  let intent = start;
  const live = enforcedAt(reach(start).site, roster);
  for (let i = 0; i < 6; i++) {
    const added = rule(
      `r${i}`,
      i % 2 ? 'allow' : 'deny',
      `segment Segment ${(i % 3) + 1}`,
      `segment Segment ${((i + 1) % 3) + 1}`,
    );
    intent = done(intent, { type: 'rule.add', siteId, rules: [added], behind: null });
    const input = { ...reach(intent), live };
    const known = reachMatrix(input, null, book);
    const fresh = reachMatrix(input, null);
    expect(known.draft).toEqual(fresh.draft);
    expect(known.live).toEqual(reachMatrix({ ...reach(start), live }, null).draft);
  }
});

test('a cell opens to exactly what is let through, and the rules that make it', () => {
  const intent = withRules(
    rule('print', 'allow', 'segment Segment 1', 'segment Segment 2', 'tcp 631'),
    rule('shut', 'deny', 'segment Segment 1', 'segment Segment 2'),
  );
  const [from, to] = [1, 2].map((i) => `segment ${part.segments[i]!.id}`) as [string, string];
  const cell = reachCell(reach(intent), { from, to, on: 'draft', minute: null });
  expect(cell.reach).toBe('some');
  expect(cell.allowed).toEqual([{ from: ['Segment 1'], to: ['Segment 2'], services: ['TCP 631'] }]);
  expect(cell.rules.map(({ ruleId, verdict }) => `${ruleId} ${verdict}`)).toEqual(['print allow', 'shut deny']);
});

test('a question is understood as people write it, and answered with the deciding rule, there and back', () => {
  expect(partQuestion('Can Crew reach 10.20.1.7 on TCP 443?')).toEqual({
    from: 'Crew',
    to: '10.20.1.7',
    services: 'TCP 443',
  });
  expect(partQuestion('Crew → internet udp 53')).toEqual({ from: 'Crew', to: 'internet', services: 'udp 53' });
  expect(partQuestion('does Crew reach Voice')).toMatchObject({ to: 'Voice', services: 'any' });
  expect(partQuestion('hello')).toBeNull();
  const intent = withRules(rule('shut', 'deny', 'segment Segment 1', '10.1.20.7', 'tcp 443'));
  const put = (text: string) => ask(reach(intent), { question: partQuestion(text)!, on: 'draft', minute: null });
  expect(put('Segment 1 reaches 10.1.20.7 on tcp 443')).toMatchObject({
    reach: 'none',
    there: [{ passed: false, ruleId: 'shut', at: 'x-gw-01' }],
    back: [],
  });
  expect(put('Segment 1 reaches 10.1.20.8 on tcp 443')).toMatchObject({
    reach: 'all',
    there: [{ passed: true, ruleId: null }],
    back: [{ passed: true }],
  });
  expect(put('Segment 1 reaches 10.1.10.99')).toMatchObject({ reach: 'all', there: [{ at: 'within the segment' }] });
  expect(put('Nobody reaches 10.1.20.8')).toMatchObject({ flaws: [{ code: 'rule.address' }] });
  expect(put('Segment 1 reaches 10.1.20.8 on ftp')).toMatchObject({ flaws: [{ code: 'ask.service' }] });
  expect(ask(reach(intent), { question: partQuestion('a to b')!, on: 'live', minute: null })).toMatchObject({
    flaws: [{ code: 'ask.no-policy' }],
  });
});

test('a draft that cuts devices or the person off from the controller says whom, and by which rule', () => {
  const known = done(start, { type: 'controller.set', from: [], to: ['203.0.113.200'] });
  expect(judged(known).lockOuts).toEqual([]);
  const cut = done(known, {
    type: 'rule.add',
    siteId,
    rules: [rule('shut', 'deny', 'segment Management, segment Segment 1', 'internet')],
    behind: null,
  });
  const { lockOuts } = judged(cut);
  expect(lockOuts.map(({ name }) => name)).toEqual(
    roster.filter(({ model }) => !model.startsWith('GW')).map(({ name }) => name),
  );
  expect(lockOuts[0]).toMatchObject({ why: '“shut” stops it.' });
  expect(lockOuts[0]!.packet).toMatch(/→ 203\.0\.113\.200, TCP 443$/);
  const site = cut.sites.get(siteId)!;
  expect(lockOutOf(cut.estate, site, roster, '10.1.10.77')).toMatchObject({ deviceId: null });
  expect(lockOutOf(cut.estate, site, roster, '10.1.20.77')).toBeNull();
  expect(lockOutOf(cut.estate, site, roster, '127.0.0.1')).toBeNull();
});
