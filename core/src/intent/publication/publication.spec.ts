import { describe, expect, test } from 'vitest';
import { ask, consequencesOf, reachCell, reachMatrix } from '../../assess';
import { differenceOf, ledTo, type GatewayDocument } from '../../document';
import { compileSite, enforcedAt } from '../../rollout';
import { readAddresses, readEnds, readServices } from '../../rules';
import { appliedWith, refusedWith, sampleSite } from '../../testing';
import { apply, everyNoun, type Intent, type Operation } from '..';
import { resolve } from '../resolve';
import type { Publication } from './publication';

const sample = sampleSite({ segments: 3, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const siteId = sample.site.id;
const lookup = (id: string) => sample.roster.find((each) => each.id === id);
const segment = sample.site.segments[1]!;
/** The nth address of the second segment. */
const host = (n: number): string => segment.subnet.replace(/\.\d+\/\d+$/, `.${n}`);
const published = (id: string, more: Partial<Publication> = {}): Publication => ({
  ...{ id, deviceId: gateway.id, name: id, ports: [], protocol: 'tcp', outside: '443', address: host(5) },
  ...{ from: readEnds('internet'), ...more },
});
const add = (one: Publication): Operation => ({ type: 'publication.add', siteId, publication: one });
const done = (intent: Intent, ...operations: Operation[]) => appliedWith(sample.roster, intent, ...operations);
const refused = (operation: Operation, intent: Intent = sample.intent) => refusedWith(sample.roster, intent, operation);
const siteOf = (intent: Intent) => resolve(intent.estate, intent.sites.get(siteId)!);
const told = (intent: Intent) => compileSite(siteOf(intent), sample.roster).get(gateway.id) as GatewayDocument;
const outcomeOf = (intent: Intent, uplinks: { port: string; address: string }[] = []) =>
  consequencesOf({
    ...{ estate: intent.estate, site: intent.sites.get(siteId)!, roster: sample.roster, told: {}, links: [] },
    uplinks: uplinks.map((each) => ({ deviceId: gateway.id, ...each })),
  });
const findings = (intent: Intent, uplinks: { port: string; address: string }[] = []) =>
  outcomeOf(intent, uplinks).findings.filter(({ place }) => place.kind === 'publication');
const rule = (verdict: 'allow' | 'deny', from: string, to: string): Operation => ({
  ...{ type: 'rule.add', siteId, behind: null },
  rules: [
    {
      ...{ id: `${verdict} ${from}`, verdict, comment: `${verdict} ${from}` },
      ...{ from: readEnds(from), to: readEnds(to), services: readServices('any').services },
    },
  ],
});

describe('what is published', () => {
  test('is told to its gateway, and lets in whom it is for, there and nowhere else', () => {
    expect(told(sample.intent).published).toBeUndefined();
    const intent = done(
      sample.intent,
      add(published('Shop', { inside: 8443, within: true })),
      add(
        published('Desk', {
          outside: '2022',
          inside: 22,
          address: host(6),
          from: readEnds('198.51.100.0/24'),
          ports: ['wan1'],
        }),
      ),
      add(published('Later', { outside: '99', off: true })),
    );
    expect(told(intent).published).toEqual([
      {
        id: 'Desk',
        name: 'Desk',
        from: ['198.51.100.0/24'],
        protocols: ['tcp'],
        outside: '2022',
        address: host(6),
        inside: 22,
        ports: ['wan1'],
      },
      {
        id: 'Shop',
        name: 'Shop',
        from: ['any'],
        protocols: ['tcp'],
        outside: '443',
        address: host(5),
        inside: 8443,
        within: true,
      },
    ]);
    const site = siteOf(intent);
    const input = { site, roster: sample.roster, live: null };
    const { places, draft } = reachMatrix(input, null);
    const [from, to] = [
      places.findIndex(({ key }) => key === 'internet'),
      places.findIndex(({ key }) => key === `segment ${segment.id}`),
    ];
    expect(draft[from]![to]).toBe('some');
    // No other segment has anything of it.
    for (const [at, { kind }] of places.entries())
      if (kind === 'segment' && at !== to) expect(draft[from]![at]).toBe('none');
    const cell = reachCell(input, { from: 'internet', to: `segment ${segment.id}`, on: 'draft', minute: null });
    const lines = cell.allowed.map(({ to: whom, services }) => `${whom.join()} ${services.join()}`);
    expect(new Set(lines)).toEqual(new Set([`${host(5)} TCP 8443`, `${host(6)} TCP 22`]));
    expect(cell.rules.map(({ name }) => name)).toEqual(expect.arrayContaining(['Published: Shop', 'Published: Desk']));
    const asked = ask(input, {
      question: { from: 'internet', to: host(6), services: 'tcp 22' },
      on: 'draft',
      minute: null,
    });
    if ('flaws' in asked) throw new Error('not understood');
    expect(asked.reach).toBe('some');
    // Whoever is inside is let in by it nowhere.
    const isolated = done(intent, rule('deny', 'private', `segment ${segment.name}`));
    const inner = reachMatrix({ ...input, site: siteOf(isolated) }, null);
    const other = inner.places.findIndex(({ key }) => key === `segment ${sample.site.segments[2]!.id}`);
    expect(inner.draft[other]![to]).toBe('none');
    expect(inner.draft[from]![to]).toBe('some');
  });

  test('breaks a guarantee that nobody outside reaches somebody', () => {
    const never: Operation = {
      ...{ type: 'guarantee.add', siteId },
      guarantee: {
        ...{ id: 'g', kind: 'never', from: readEnds('internet'), to: readEnds(`segment ${segment.name}`) },
        services: readServices('any').services,
      },
    };
    const states = (intent: Intent) => outcomeOf(intent).guarantees.map(({ state }) => state);
    expect(states(done(sample.intent, never))).toEqual(['holds']);
    expect(states(done(sample.intent, never, add(published('Shop'))))).toEqual(['broken']);
    expect(states(done(sample.intent, never, add(published('Shop', { off: true }))))).toEqual(['holds']);
  });

  test('is edited, found, and taken back; sets that it is for stay as they are', () => {
    const set: Operation = {
      ...{ type: 'set.add', siteId },
      set: { id: '00000000-0000-4000-8000-00000000aaaa', name: 'Agents', addresses: ['198.51.100.7'] },
    };
    const start = done(sample.intent, set, add(published('Shop', { from: readEnds('set Agents') })));
    const rename: Operation = {
      ...{ type: 'set.set', siteId, setId: '00000000-0000-4000-8000-00000000aaaa' },
      ...{ from: { name: 'Agents' }, to: { name: 'Sales agents' } },
    };
    expect(refused(rename, start)).toMatch('a published port of');
    expect(refused({ type: 'set.remove', siteId, setId: '00000000-0000-4000-8000-00000000aaaa' }, start)).toMatch(
      'a published port of',
    );
    const found = everyNoun().flatMap(({ find }) => [
      ...(find?.(start, (...texts) => texts.join(' ').includes(host(5))) ?? []),
    ]);
    expect(found.map(({ kind, title, detail }) => `${kind} ${title}: ${detail}`)).toEqual([
      `publication Shop: Published at Sample: tcp 443 leads to ${host(5)}`,
    ]);
    const outcome = apply(start, { type: 'publication.remove', siteId, publicationId: 'Shop' }, lookup);
    if (!outcome.ok) throw new Error('refused');
    expect(apply(outcome.intent, outcome.inverse, lookup)).toMatchObject({ ok: true, intent: start });
    const moved = done(start, {
      ...{ type: 'publication.set', siteId, publicationId: 'Shop', from: { outside: '443' }, to: { outside: '444' } },
    });
    expect(differenceOf(told(start), told(moved)).lines.length).toBeGreaterThan(0);
  });

  test('says what is wrong with it', () => {
    const wrong = (more: Partial<Publication>, intent?: Intent) => refused(add(published('a', more)), intent);
    expect(wrong({ name: ' ' })).toMatch('name: Give what is published a name');
    expect(wrong({ outside: '0' })).toMatch('outside: “0” is no port');
    expect(wrong({ outside: '90-80' })).toMatch('outside: “90-80” is no port');
    expect(wrong({ outside: '443', inside: 70_000 })).toMatch('inside: Its first port inside');
    expect(wrong({ outside: '1-65535', inside: 2 })).toMatch('inside: Its first port inside');
    expect(wrong({ outside: '1000-2000', inside: 3000 })).toMatch('outside: 256 ports at most');
    expect(wrong({ address: '192.0.2.1' })).toMatch('address: 192.0.2.1 is in no segment');
    expect(wrong({ address: segment.gateway })).toMatch('is the gateway itself');
    expect(wrong({ address: host(0) })).toMatch('is nobody’s');
    expect(wrong({ address: 'printer' })).toMatch('“printer” is no IPv4 address');
    expect(wrong({ from: [] })).toMatch('from: Say who may');
    expect(wrong({ from: readEnds(`segment ${segment.name}`) })).toMatch('from: Say who may');
    expect(wrong({ from: readEnds('set Nobody') })).toMatch('from: There is no set Nobody');
    expect(wrong({ ports: ['wan7'] })).toMatch('ports: wan7 of');
    expect(wrong({ hours: siteId })).toMatch('hours: These hours');
    expect(wrong({ deviceId: siteId })).toMatch('no longer at the site');
    const one = done(sample.intent, add(published('Shop', { outside: '440-450' })));
    expect(wrong({}, one)).toMatch('outside: “Shop” is published at the same port already (440-450)');
    expect(wrong({ name: 'shop', outside: '9' }, one)).toMatch('publishes “shop” already');
    // Another protocol, another uplink, or other people: not the same.
    expect(apply(one, add(published('b', { protocol: 'udp' })), lookup).ok).toBe(true);
    const [wide, narrow] = ['198.51.100.0/24', '198.51.100.7'].map((text, i) =>
      add(published(`w${i}`, { from: readEnds(text), outside: '81' })),
    );
    expect(refused(narrow!, done(sample.intent, wide!))).toMatch('“w0” is published at the same port already');
    const parted = [readEnds('198.51.100.0/24'), readEnds('203.0.113.0/24')].map((from, i) =>
      add(published(`p${i}`, { from, outside: '80' })),
    );
    expect(done(sample.intent, ...parted).sites.get(siteId)!.publications).toHaveLength(2);
    const leaves: Operation = {
      type: 'uplink.set',
      siteId,
      deviceId: gateway.id,
      port: 'wan1',
      from: null,
      to: { on: false },
    };
    expect(refused(leaves, done(sample.intent, add(published('x', { ports: ['wan1'] }))))).toMatch(
      '“x” is published at wan1',
    );
  });

  test('is found at fault where nobody reaches it, or others do than were meant', () => {
    const codes = (intent: Intent, uplinks?: { port: string; address: string }[]) =>
      findings(intent, uplinks).map(({ code }) => code.replace('paths.published-', ''));
    const good = done(sample.intent, add(published('Shop')));
    expect(codes(good, [{ port: 'wan1', address: '203.0.113.9' }])).toEqual([]);
    const [behind] = findings(good, [{ port: 'wan1', address: '100.64.3.9' }]);
    expect(behind).toMatchObject({ code: 'paths.published-behind', severity: 'warning' });
    expect(
      codes(good, [
        { port: 'wan1', address: '100.64.3.9' },
        { port: 'wan2', address: '203.0.113.9' },
      ]),
    ).toEqual([]);
    const [kept] = findings(done(good, rule('deny', 'internet', 'any')));
    expect(kept).toMatchObject({ code: 'paths.published-kept-out', severity: 'error' });
    expect(kept!.reason).toMatch(/is stopped by “deny internet”, which comes first\.$/);
    expect(codes(done(sample.intent, add(published('Us', { from: readEnds('10.0.0.0/8') }))))).toEqual(['kept-out']);
    expect(codes(done(sample.intent, add(published('SSH', { outside: '2222', inside: 22 }))))).toEqual(['tried']);
    expect(
      codes(done(sample.intent, add(published('SSH', { outside: '22', from: readEnds('198.51.100.7') })))),
    ).toEqual([]);
  });

  test('that leads to an address that anybody may be given is mended by giving it to nobody', () => {
    const { addresses } = segment;
    const intent = done(sample.intent, add(published('Shop', { address: addresses!.first })));
    const [given] = findings(intent);
    expect(given).toMatchObject({
      code: 'paths.published-given',
      message: `“Shop” leads to whoever is given ${addresses!.first}`,
    });
    expect(findings(done(intent, ...given!.mend!.operations))).toEqual([]);
  });

  test('to a segment that is gone is told, and mended by publishing it no more', () => {
    const elsewhere: Operation = {
      ...{ type: 'segment.set', siteId, segmentId: segment.id },
      from: { subnet: segment.subnet, gateway: segment.gateway, addresses: segment.addresses },
      to: { subnet: '10.77.0.0/24', gateway: '10.77.0.1', addresses: null },
    };
    const intent = done(sample.intent, add(published('Shop')), elsewhere);
    const [lost] = findings(intent);
    expect(lost).toMatchObject({ code: 'paths.published-nowhere', severity: 'error' });
    const mended = done(intent, ...lost!.mend!.operations);
    expect(findings(mended)).toEqual([]);
    expect(told(mended).published).toBeUndefined();
  });

  test('applies at its hours, and at no others', () => {
    const id = '00000000-0000-4000-8000-00000000bbbb';
    const hours: Operation = {
      type: 'hours.add',
      hours: { id, name: 'Open', times: [{ days: [1, 2, 3, 4, 5], from: '08:00', to: '18:00' }] },
    };
    const intent = done(sample.intent, hours, add(published('Shop', { hours: id })));
    expect(told(intent).published![0]!.times).toHaveLength(1);
    const input = { site: siteOf(intent), roster: sample.roster, live: enforcedAt(siteOf(intent), sample.roster) };
    const at = (minute: number) =>
      reachCell(input, { from: 'internet', to: `segment ${segment.id}`, on: 'draft', minute }).reach;
    expect([at(600), at(60)]).toEqual(['some', 'none']);
    expect(refused({ type: 'hours.remove', hoursId: id }, intent)).toMatch('publishes as “Shop”');
  });
});

test('a packet is led by the first that it fits, at the uplinks that are said, and from inside only where that is said', () => {
  const intent = done(
    sample.intent,
    add(published('Range', { outside: '8000-8009', inside: 9000, within: true })),
    add(published('One', { outside: '25', ports: ['wan2'] })),
  );
  const at = (port: number, uplink: string | null, protocol = 6) => {
    const address = (text: string) => readAddresses(text)!.first;
    const packet = {
      version: 4 as const,
      source: address('198.51.100.9'),
      destination: address('203.0.113.9'),
      protocol,
      port,
    };
    return ledTo(told(intent).published!, { ...packet, sourcePort: 50_000 }, uplink)?.packet.port;
  };
  expect([at(8003, 'wan1'), at(8003, null), at(8010, 'wan1'), at(8003, 'wan1', 17)]).toEqual([
    9003,
    9003,
    undefined,
    undefined,
  ]);
  expect([at(25, 'wan1'), at(25, 'wan2'), at(25, null)]).toEqual([undefined, 25, undefined]);
});
