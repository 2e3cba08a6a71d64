import { describe, expect, test } from 'vitest';
import { ask, consequencesOf } from '../../assess';
import { differenceOf, type GatewayDocument } from '../../document';
import { compileSite } from '../../rollout';
import { appliedWith, refusedWith, sampleSite } from '../../testing';
import { everyNoun, resolve, type Intent, type Operation } from '..';
import type { RouteVia, StaticRoute } from './route';

const sample = sampleSite({ segments: 3, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const siteId = sample.site.id;
const segment = sample.site.segments[1]!;
/** The nth address of the second segment. */
const host = (n: number): string => segment.subnet.replace(/\.\d+\/\d+$/, `.${n}`);
const to = (address: string): RouteVia => ({ kind: 'address', address });
const NOWHERE: RouteVia = { kind: 'nowhere' };
const route = (id: string, more: Partial<StaticRoute> = {}): StaticRoute => ({
  ...{ id, deviceId: gateway.id, name: id, prefix: '172.20.0.0/16', via: to(host(5)), ...more },
});
const add = (one: StaticRoute): Operation => ({ type: 'route.add', siteId, route: one });
const done = (...operations: Operation[]) => appliedWith(sample.roster, sample.intent, ...operations);
const refused = (operation: Operation, intent: Intent = sample.intent) => refusedWith(sample.roster, intent, operation);
const documents = (intent: Intent) => compileSite(resolve(intent.estate, intent.sites.get(siteId)!), sample.roster);
const told = (intent: Intent) => documents(intent).get(gateway.id) as GatewayDocument;
const outcomeOf = (intent: Intent, before: Intent | null = null) =>
  consequencesOf({
    ...{ estate: intent.estate, site: intent.sites.get(siteId)!, roster: sample.roster, links: [] },
    told: before ? Object.fromEntries(documents(before)) : {},
  });
const findings = (intent: Intent) => outcomeOf(intent).findings.filter(({ place }) => place.kind === 'route');
describe('a route', () => {
  test('is told to its gateway: to a neighbour, by an uplink, or nowhere, and reads line by line', () => {
    const intent = done(
      add(route('Works', { name: ' Works ', prefix: '172.20.9.7/16', metric: 0 })),
      add(route('Second way', { via: { kind: 'uplink', port: 'wan1' }, metric: 20 })),
      add(route('Unused', { prefix: '10.0.0.0/8', via: NOWHERE })),
      add(route('Six', { prefix: 'fd00:0060::/32', via: NOWHERE })),
      add(route('Later', { prefix: '172.21.0.0/16', off: true })),
    );
    expect(told(sample.intent).routes).toBeUndefined();
    expect(told(intent).routes).toEqual([
      { name: 'Second way', prefix: '172.20.0.0/16', by: 'wan1', metric: 20 },
      { name: 'Six', prefix: 'fd00:60::/32' },
      { name: 'Unused', prefix: '10.0.0.0/8' },
      { name: 'Works', prefix: '172.20.0.0/16', to: host(5) },
    ]);
    const lines = differenceOf(told(sample.intent), told(intent)).lines;
    expect(lines.filter(({ path }) => path[0] === 'routes').map(({ path, after }) => [path.join(' '), after])).toEqual(
      expect.arrayContaining([
        ['routes Works to', host(5)],
        ['routes Second way by', 'wan1'],
        ['routes Unused prefix', '10.0.0.0/8'],
      ]),
    );
    expect(findings(intent)).toMatchObject([{ code: 'paths.route-among', severity: 'info' }]);
  });

  test('that cannot be gone by is refused with a word of what is', () => {
    const there = done(add(route('Works')));
    const flaw = (more: Partial<StaticRoute>, id = 'Other') => refused(add(route(id, { metric: 5, ...more })), there);
    expect(flaw({ name: ' ' })).toContain('name: Give the route a name.');
    expect(flaw({ name: 'works' })).toContain('has a route “Works” already');
    expect(flaw({ prefix: '172.20.0.0' })).toContain('prefix: “172.20.0.0” is no prefix');
    expect(flaw({ prefix: '0.0.0.0/0' })).toContain('leaves by the uplinks');
    expect(flaw({ prefix: '::/0', via: NOWHERE })).toContain('leaves by the uplinks');
    expect(flaw({ prefix: segment.subnet })).toContain('whose clients the gateway reaches there');
    expect(flaw({ prefix: `${host(7)}/32` })).toContain('whose clients the gateway reaches there');
    expect(flaw({ metric: 0 })).toContain('metric: “Works” is for 172.20.0.0/16 as well');
    expect(flaw({ metric: 1.5 })).toContain('metric: The metric is a whole number from 0 to 65535.');
    expect(flaw({ metric: 65_536 })).toContain('metric: The metric is a whole number from 0 to 65535.');
    expect(flaw({ via: to('') })).toContain('via: Say who hands it on');
    expect(flaw({ via: to('fd00::1') })).toContain('hands on no IPv4');
    expect(flaw({ via: to(segment.gateway) })).toContain('is the gateway itself');
    expect(flaw({ via: to('192.0.2.1') })).toMatch(/^via: 192\.0\.2\.1 is in no segment of [^.]+\.$/);
    expect(flaw({ via: to('172.20.0.1') })).toContain('It would be reached through the route itself.');
    expect(flaw({ via: to(host(0)) })).toContain('is nobody’s');
    expect(flaw({ via: { kind: 'uplink', port: 'wan9' } })).toContain('wan9 of');
    expect(flaw({ deviceId: crypto.randomUUID() })).toContain('no longer at the site');
    // A second way with another metric, or one that is kept for later, is none of these.
    expect(() => flaw({ via: { kind: 'uplink', port: 'wan1' } })).toThrow();
    expect(() => flaw({ prefix: segment.subnet, off: true })).toThrow();
    const many = refused(
      add(route('One more', { prefix: '172.30.0.0/24' })),
      Array.from({ length: 200 }, (_, i) => add(route(`R${i}`, { prefix: `172.29.${i}.0/24` }))).reduce(
        (intent, each) => appliedWith(sample.roster, intent, each),
        sample.intent,
      ),
    );
    expect(many).toContain('has 200 routes at most');
  });

  test('keeps its uplink one, and is found by what it is for', () => {
    const intent = done(add(route('Works', { via: { kind: 'uplink', port: 'wan1' } })));
    const setting: Operation = {
      ...{ type: 'uplink.set', siteId, deviceId: gateway.id, port: 'wan1' },
      ...{ from: null, to: { on: false } },
    };
    expect(refused(setting, intent)).toContain('The route “Works” leads to wan1');
    const hits = everyNoun().flatMap(({ find }) => [
      ...(find?.(intent, (...texts) => texts.some((text) => text.includes('172.20.'))) ?? []),
    ]);
    expect(hits).toMatchObject([{ kind: 'route', title: 'Works', siteId }]);
  });

  test('that leads to nobody, to whoever comes, or into a segment is a finding with a mend', () => {
    const given = done(add(route('Works', { via: to(host(30)) })));
    expect(findings(given)).toMatchObject([{ code: 'paths.route-given', severity: 'warning' }]);
    const mended = appliedWith(sample.roster, given, ...findings(given)[0]!.mend!.operations);
    expect(findings(mended)).toMatchObject([{ code: 'paths.route-among' }]);

    // The segment that it leads through is elsewhere by now, and another came where it leads to.
    const gone: Intent = {
      ...mended,
      sites: new Map([
        [
          siteId,
          {
            ...mended.sites.get(siteId)!,
            segments: mended.sites
              .get(siteId)!
              .segments.map((each) =>
                each.id === segment.id
                  ? { ...each, subnet: '172.20.0.0/15', gateway: '172.20.0.1', addresses: null }
                  : each,
              ),
          },
        ],
      ]),
    };
    expect(findings(gone).map(({ code, severity }) => [code, severity])).toEqual([
      ['paths.route-within', 'error'],
      ['paths.route-off-link', 'error'],
    ]);
    const [first] = findings(gone);
    expect(findings(appliedWith(sample.roster, gone, ...first!.mend!.operations))).toEqual([]);
  });

  test('stands in the answer to a question: what is led nowhere is reached by nobody, whatever rules say', () => {
    const answer = (to: string, ...operations: Operation[]) => {
      const intent = done(...operations);
      const site = resolve(intent.estate, intent.sites.get(siteId)!);
      const question = { from: segment.name, to, services: 'tcp 443' };
      const got = ask({ site, roster: sample.roster, live: null }, { question, on: 'draft', minute: null });
      if ('flaws' in got) throw new Error(JSON.stringify(got.flaws));
      return { reach: got.reach, there: got.there.map(({ title, passed, detail }) => [title, passed, detail]) };
    };
    const nowhere = add(route('Closed', { prefix: '203.0.113.0/24', via: NOWHERE }));
    const part = add(route('But these', { prefix: '203.0.113.64/26', via: { kind: 'uplink', port: 'wan1' } }));
    expect(answer('203.0.113.9').reach).toBe('all');
    expect(answer('203.0.113.9', nowhere)).toMatchObject({
      reach: 'none',
      there: [[], ['Dropped', false, 'Its route “Closed” leads 203.0.113.0/24 nowhere.']].map((each, i) =>
        i ? each : expect.anything(),
      ),
    });
    expect(answer('203.0.113.0/24', nowhere).reach).toBe('none');
    expect(answer('203.0.113.0/24', nowhere, part).reach).toBe('all');
    expect(answer('203.0.112.0/23', nowhere).reach).toBe('all');
    expect(answer('203.0.113.70', nowhere, part)).toMatchObject({ reach: 'all' });
    expect(answer('203.0.113.70', nowhere, part).there[1]).toEqual([
      ...['Led on', true, 'Its route “But these” leads 203.0.113.64/26 out by wan1.'],
    ]);
    expect(answer('172.20.9.9', add(route('Works'))).there[1]![2]).toContain(`to ${host(5)}, which hands it on`);
    // Who is on a link is reached there, whatever a shorter route says.
    expect(answer(host(9), add(route('Ours', { prefix: '10.0.0.0/8', via: NOWHERE }))).reach).not.toBe('none');
  });

  test('that leads what is for the controller astray locks out all that is behind its gateway', () => {
    const estate = { ...sample.intent.estate, controller: ['203.0.113.80'] };
    const before: Intent = { ...sample.intent, estate };
    const outcome = (via: RouteVia, prefix = '203.0.113.0/24') => {
      const after = appliedWith(sample.roster, before, add(route('Closed', { prefix, via })));
      return outcomeOf(after, before).lockOuts.filter(({ why }) => why.includes('“Closed”'));
    };
    expect(outcome(NOWHERE).map(({ name }) => name)).toEqual(sample.roster.map(({ name }) => name));
    expect(outcome(to(host(5)))[0]!.why).toContain(`leads 203.0.113.0/24 to ${host(5)}`);
    expect(outcome({ kind: 'uplink', port: 'wan1' })).toEqual([]);
    expect(outcome(NOWHERE, '198.51.100.0/24')).toEqual([]);
  });
});
