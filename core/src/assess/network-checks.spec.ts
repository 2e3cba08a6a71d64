import { describe, expect, test } from 'vitest';
import type { Operation, SiteRouter, StaticRoute } from '../intent';
import { resolve, type Intent } from '../intent';
import { appliedWith, sampleId, sampleJoin, sampleSite, sampleSites } from '../testing';
import { ask, consequencesOf } from '.';

const sample = sampleSite({ segments: 4, aps: 1 });
const { roster } = sample;
const siteId = sample.site.id;
const [management, crew, , works] = sample.site.segments;
const gateway = roster.find(({ model }) => model.startsWith('GW'))!;
const core = roster.find(({ model }) => model.startsWith('SW'))!;
const ap = roster.at(-1)!;

const BOX: SiteRouter = {
  ...{ id: sampleId(7, 1), name: 'Harbour box', meets: { segmentId: management!.id, address: '10.1.1.9' } },
  at: { deviceId: core.id, port: '20' },
  behind: ['172.20.0.0/16'],
};
const addRouter: Operation = { type: 'router.add', siteId, router: BOX };
const route = (name: string, prefix: string, to: string | null, metric = 0): Operation => ({
  ...{ type: 'route.add', siteId },
  route: {
    ...{ id: name, deviceId: gateway.id, name, prefix, metric },
    via:
      to === null
        ? { kind: 'nowhere' }
        : to.startsWith('wan')
          ? { kind: 'uplink', port: to }
          : { kind: 'address', address: to },
  } satisfies StaticRoute,
});
const rule = (id: string, to: string, verdict: 'allow' | 'deny' = 'allow'): Operation => ({
  ...{ type: 'rule.add', siteId, behind: null },
  rules: [
    {
      ...{ id, verdict, from: [{ kind: 'segment', name: crew!.name }], to: [{ kind: 'addresses', text: to }] },
      services: [{ protocol: 'tcp', ports: ['443'] }],
    },
  ],
});
const done = (...operations: Operation[]): Intent => appliedWith(roster, sample.intent, ...operations);
const outcomeOf = (intent: Intent, devices = roster) =>
  consequencesOf({
    ...{ estate: intent.estate, site: intent.sites.get(siteId)!, roster: devices, links: sample.links, told: {} },
  });
const found = (intent: Intent, code: string, devices = roster) =>
  outcomeOf(intent, devices).findings.filter((each) => each.code === code);
const reachOf = (intent: Intent, to: string, uplinks: readonly { address: string }[] = []) => {
  const site = resolve(intent.estate, intent.sites.get(siteId)!);
  const question = { from: crew!.name, to, services: 'tcp 443' };
  const answer = ask({ site, roster, live: null, uplinks }, { question, on: 'draft', minute: null });
  if ('flaws' in answer) throw new Error(answer.flaws[0]!.message);
  return { reach: answer.reach, last: answer.there.at(-1)?.title };
};

describe('a route that is said by hand', () => {
  test('to a router that has not what it is for goes round, of just what that has not, and the mend ends it', () => {
    const intent = done(addRouter, route('Wide', '172.16.0.0/12', '10.1.1.9'));
    const [circle, ...more] = found(intent, 'paths.route-circle');
    expect(more).toEqual([]);
    expect(circle).toMatchObject({ severity: 'error', message: '“Wide” goes round in circles', place: { id: 'Wide' } });
    expect(circle!.reason).toContain(
      '10.1.1.3 in Management → 172.16.0.1: Its route “Wide” leads 172.16.0.0/12 to “Harbour box” (10.1.1.9)',
    );
    // What is behind the router it gets.
    expect(circle!.reason).toContain('That is so of 172.16.0.0/14, 172.21.0.0-172.31.255.255.');
    expect(circle!.reason).toContain('What is sent from behind “Harbour box” goes round too.');
    expect(reachOf(intent, '172.19.255.255')).toEqual({ reach: 'none', last: 'Goes round in circles' });
    expect(reachOf(intent, '172.20.0.9').reach).toBe('all');
    expect(reachOf(intent, '172.21.0.0').reach).toBe('none');
    expect(found(appliedWith(roster, intent, ...circle!.mend!.operations), 'paths.route-circle')).toEqual([]);
    // With a line of its own the box keeps what is public, and hands back what is private.
    const own = appliedWith(
      roster,
      done(route('Wide', '172.16.0.0/12', '10.1.1.9'), route('Out', '203.0.113.0/24', '10.1.1.9')),
      {
        ...{ type: 'router.add', siteId, router: { ...BOX, ownWayOut: true } },
      },
    );
    expect(found(own, 'paths.route-circle').map(({ place }) => place.id)).toEqual(['Wide']);
  });

  test('to a device that hands nothing on ends there', () => {
    const address = { address: '10.1.1.40', length: 24, gateway: '10.1.1.1', dns: [] };
    const devices = roster.map((each) => (each.id === ap.id ? { ...each, address } : each));
    const intent = done(route('Works', '172.20.0.0/16', '10.1.1.40'));
    expect(found(intent, 'paths.route-dead-end')).toEqual([]);
    const [end] = found(intent, 'paths.route-dead-end', devices);
    expect(end!.reason).toContain(`leads 172.20.0.0/16 to ${ap.name} (10.1.1.40), which hands nothing on.`);
    expect(end!.mend).not.toBeNull();
  });

  test('takes nothing from anybody unsaid: what a router has and goes elsewhere is named with a packet', () => {
    const over = (...more: Operation[]) => found(done(addRouter, ...more), 'paths.route-over');
    expect(over(route('Wide', '172.16.0.0/12', 'wan1'))).toEqual([]);
    const [taken] = over(route('Part', '172.20.4.0/22', 'wan1'));
    expect(taken).toMatchObject({
      severity: 'warning',
      message: expect.stringContaining('172.20.4.0/22 of the router at 10.1.1.9'),
    });
    expect(taken!.reason).toContain('→ 172.20.4.1: it goes out by wan1');
    // Said to go where it goes anyway it takes nothing.
    expect(over(route('Part', '172.20.4.0/22', '10.1.1.9'))).toEqual([]);
    expect(over(route('Shut', '172.20.0.0/16', null))).toHaveLength(1);
    expect(over(route('Shut', '172.20.0.0/16', null, 5))).toEqual([]);
  });

  test('takes what joined sites share, of each that it takes something of', () => {
    const joined = sampleSites({ sites: 4, segments: 3 });
    const own = joined.siteIds[2]!;
    const by = (prefix: string): Operation => ({
      ...{ type: 'route.add', siteId: own },
      route: { ...{ id: 'a', deviceId: sampleId(2, 2), name: 'Old', prefix }, via: { kind: 'uplink', port: 'wan1' } },
    });
    const over = (prefix: string) => {
      const intent = appliedWith(joined.roster, joined.intent, ...sampleJoin(1, 3), by(prefix));
      const devices = joined.roster.filter(({ siteId: at }) => at === own);
      const { findings } = consequencesOf({
        ...{ estate: intent.estate, site: intent.sites.get(own)!, roster: devices, links: [], told: {} },
      });
      return findings.filter(({ code }) => code === 'paths.route-over').map(({ message }) => message);
    };
    expect(over('10.0.48.0/20')).toEqual(['“Old” takes 10.0.48.0/24 of Site 3 and 2 more elsewhere']);
    expect(over('10.0.49.0/25')).toEqual(['“Old” takes 10.0.49.0/25 of Site 3 elsewhere']);
    expect(over('10.77.0.0/16')).toEqual([]);
  });

  test('to a neighbour among clients is told, and to one in a segment of its own is not', () => {
    expect(found(done(route('Works', '172.20.0.0/16', '10.1.10.5')), 'paths.route-among')).toHaveLength(1);
    const alone: Operation = {
      ...{
        type: 'segment.set',
        siteId,
        segmentId: works!.id,
        from: { addresses: works!.addresses },
        to: { addresses: null },
      },
    };
    const apart = done(alone, route('Works', '172.20.0.0/16', works!.gateway.replace(/1$/, '5')));
    expect(found(apart, 'paths.route-among')).toEqual([]);
  });
});

describe('private addresses that nothing leads to', () => {
  test('are not reached by the default route alone, and a rule that lets them pass says so', () => {
    const intent = done(rule('a', '10.99.0.0/24'), rule('b', '10.98.0.7', 'deny'), rule('c', '10.1.20.0-10.2.0.0'));
    expect(found(intent, 'rules.default-alone')).toMatchObject([
      { severity: 'warning', place: { id: 'a' }, reason: expect.stringContaining('The default route alone is for it') },
    ]);
    expect(found(intent, 'rules.nobody')).toMatchObject([{ place: { id: 'b' } }]);
    expect(reachOf(intent, '10.99.0.7')).toEqual({ reach: 'none', last: 'Gets nowhere' });
    expect(reachOf(intent, '198.51.100.7').reach).toBe('all');
    // So may one that gave such an address itself.
    expect(reachOf(intent, '10.99.0.7', [{ address: '192.168.1.20' }]).reach).toBe('all');
    // A provider that carries private addresses may have them.
    const plain: Operation = {
      ...{ type: 'uplink.set', siteId, deviceId: gateway.id, port: 'wan1', from: null, to: { translate: false } },
    };
    expect(reachOf(appliedWith(roster, intent, plain), '10.99.0.7').reach).toBe('all');
  });

  test('are there for a rule where a route, or a router beside the gateway, leads to them', () => {
    const lost = (intent: Intent) => ['rules.nobody', 'rules.default-alone'].flatMap((code) => found(intent, code));
    expect(lost(done(rule('a', '172.20.0.7')))).toHaveLength(1);
    expect(lost(done(addRouter, rule('a', '172.20.0.7')))).toEqual([]);
    expect(lost(done(route('Works', '172.20.0.0/16', '10.1.10.5'), rule('a', '172.20.0.7')))).toEqual([]);
    const shut = lost(done(route('Shut', '172.20.0.0/16', null), rule('a', '172.20.0.7')));
    expect(shut).toMatchObject([
      { code: 'rules.nobody', reason: expect.stringContaining('“Shut” leads 172.20.0.0/16 nowhere') },
    ]);
  });

  test('break a guarantee that they are always reached', () => {
    const always: Operation = {
      ...{ type: 'guarantee.add', siteId },
      guarantee: {
        ...{ id: 'g', kind: 'always', from: [{ kind: 'segment', name: crew!.name }], services: [{ protocol: 'any' }] },
        to: [{ kind: 'addresses', text: '172.20.0.0/24' }],
      },
    };
    const state = (...more: Operation[]) => outcomeOf(done(...more, always)).guarantees[0];
    expect(state()).toMatchObject({ state: 'broken', packet: 'What is for 172.20.0.0/24' });
    expect(state(addRouter)).toMatchObject({ state: 'holds' });
    expect(state(addRouter, route('Shut', '172.20.0.128/25', null))).toMatchObject({
      ...{ state: 'broken', packet: 'What is for 172.20.0.128/25', why: expect.stringContaining('“Shut” leads') },
    });
  });
});
