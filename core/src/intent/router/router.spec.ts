import { describe, expect, test } from 'vitest';
import { parseIp } from '../../address';
import { ask, consequencesOf, reachMatrix } from '../../assess';
import { judgingSite } from '../../assess/led-across';
import { randomFrom } from '../../base';
import type { GatewayDocument, SwitchDocument } from '../../document';
import { latticeGrid, rowInWords, traceStrand, withAssumed } from '../../lattice';
import { compileSite } from '../../rollout';
import { pointOf, type Packet } from '../../rules';
import { appliedWith, refusedWith, sampleId, sampleSite } from '../../testing';
import { resolve, stepsBetween, type Intent, type Operation } from '..';
import type { SiteRouter } from './router';

const sample = sampleSite({ segments: 6, aps: 2 });
const { roster } = sample;
const siteId = sample.site.id;
const [management, crew, tills, cameras, guests, works] = sample.site.segments as [
  ...(typeof sample.site.segments)[number][],
];
const gateway = roster.find(({ model }) => model.startsWith('GW'))!;
const core = roster.find(({ model }) => model.startsWith('SW'))!;
const small = { ...roster.at(-1)!, id: sampleId(5, 1), name: 'x-sw-09', serial: 'SW-9', model: 'SW-8P' };

const BOX: SiteRouter = {
  id: sampleId(7, 1),
  name: 'Harbour box',
  meets: { segmentId: management!.id, address: '10.1.1.9' },
  at: { deviceId: core.id, port: '20' },
};
const SWITCH: SiteRouter = {
  id: sampleId(7, 2),
  name: 'Core',
  deviceId: core.id,
  meets: { segmentId: management!.id, address: '10.1.1.8' },
};
const add = (router: SiteRouter): Operation => ({ type: 'router.add', siteId, router });
const routed = (segment: typeof crew, to: string | null, from: string | null = null): Operation => ({
  ...{ type: 'segment.set', siteId, segmentId: segment!.id },
  ...{ from: { routed: from }, to: { routed: to } },
});
const rule = (id: string, from: string, to: string): Operation => ({
  ...{ type: 'rule.add', siteId, behind: null },
  rules: [
    {
      ...{ id, verdict: 'deny' },
      from: [{ kind: 'segment', name: from }],
      to: [{ kind: 'segment', name: to }],
      services: [{ protocol: 'any' }],
    },
  ],
});
const done = (...operations: Operation[]): Intent => appliedWith([...roster, small], sample.intent, ...operations);
const refused = (operation: Operation, intent: Intent = sample.intent): string =>
  refusedWith([...roster, small], intent, operation);
const at = (intent: Intent) => resolve(intent.estate, intent.sites.get(siteId)!);
const documents = (intent: Intent) => compileSite(at(intent), roster);
const outcomeOf = (intent: Intent) =>
  consequencesOf({
    ...{ estate: intent.estate, site: intent.sites.get(siteId)!, roster, links: sample.links, told: {} },
  });
const codes = (intent: Intent): string[] => outcomeOf(intent).findings.map(({ code }) => code);
const reachOf = (intent: Intent, from: string, to: string): string => {
  const { places, draft } = reachMatrix({ site: at(intent), roster, live: null }, null);
  const [i, j] = [from, to].map((name) => places.findIndex((each) => each.name === name));
  return draft[i!]![j!]!;
};
const asked = (intent: Intent, from: string, to: string, services = 'tcp 443') => {
  const answer = ask(
    { site: at(intent), roster, live: null },
    { question: { from, to, services }, on: 'draft', minute: null },
  );
  if ('flaws' in answer) throw new Error(answer.flaws[0]!.message);
  return answer;
};

describe('a router beside the gateway', () => {
  test('is refused with a word of what is wrong', () => {
    const there = done(add(BOX));
    const other = { ...BOX, id: sampleId(7, 3), name: 'Other', at: null };
    const said = (more: Partial<SiteRouter>): string => refused(add({ ...other, ...more }), there);
    const meets = (address: string, segmentId = management!.id) => said({ meets: { segmentId, address } });
    expect(said({ name: ' ' })).toContain('Give it a name');
    expect(said({ name: 'harbour BOX' })).toContain('has a router “harbour BOX” already');
    expect(said({ meets: null })).toContain('or that it has a way out of its own');
    expect(meets('10.1.1.9')).toContain('is the address of “Harbour box”');
    expect(meets('10.1.1.1')).toContain('is the gateway itself');
    expect(meets('10.1.1.255')).toContain('for nobody in it');
    expect(meets('10.9.9.9')).toContain('is no address of “Management”');
    expect(meets('10.1.1.7', sampleId(1, 77))).toContain('no longer at Sample');
    expect(said({ at: BOX.at! })).toContain('plugged in at port 20 already');
    const there2 = { ...other, meets: { segmentId: management!.id, address: '10.1.1.7' } };
    expect(refused(add({ ...there2, behind: ['10.60.0.0'] }), there)).toContain('is no prefix');
    expect(refused(add({ ...there2, behind: ['0.0.0.0/0'] }), there)).toContain('a way out of its own');
    expect(refused(add({ ...there2, behind: ['10.1.0.0/16'] }), there)).toContain('overlaps 10.1.1.0/24');
    expect(refused(add({ ...there2, behind: ['10.60.0.0/16', '10.60.4.0/24'] }), there)).toContain('another line');
    const lets = (kind: 'ssid' | 'segment', name: string): SiteRouter['lets'] => [
      { id: 'a', verdict: 'deny', from: [{ kind, name }], to: [{ kind: 'any' }], services: [{ protocol: 'any' }] },
    ];
    expect(refused(add({ ...there2, lets: lets('ssid', 'Crew') }), there)).toContain('knows addresses alone');
    expect(refused(add({ ...there2, lets: lets('segment', 'Nowhere') }), there)).toContain('no segment Nowhere');
    expect(refused(add({ ...SWITCH, deviceId: gateway.id }))).toContain('a switch of Sample');
    expect(refused(add({ ...SWITCH, deviceId: small.id }))).toContain('x-sw-09 is a SW-8P, which does not route');
    expect(refused(add({ ...SWITCH, meets: null }))).toContain('Say in which segment');
    expect(refused(add({ ...SWITCH, behind: ['10.60.0.0/16'] }))).toContain('nothing is assumed');
    expect(refused(add({ ...SWITCH, id: sampleId(7, 4), name: 'Two' }), done(add(SWITCH)))).toContain('“Core” already');
  });

  test('routes segments that can be routed so, and stays while it does', () => {
    const there = done(add(BOX), add(SWITCH));
    expect(refused(routed(crew, sampleId(7, 9)), there)).toContain('no longer at the site');
    expect(refused(routed(management, 'nowhere'))).toContain('would reach no controller');
    expect(refused(routed(management, BOX.id), there)).toContain('meets the gateway there');
    expect(refused(routed(crew, 'nowhere'))).toContain('a switch gives addresses, or nobody');
    const v6 = { prefix: 'fd00:1::/64', gateway: 'fd00:1::1', mode: 'slaac' as const };
    const six: Operation = { type: 'segment.set', siteId, segmentId: crew!.id, from: { v6: null }, to: { v6 } };
    expect(refused(routed(crew, SWITCH.id), done(add(SWITCH), six))).toContain('routes IPv4 alone');
    const held = done(add(BOX), routed(crew, BOX.id));
    expect(refused({ type: 'router.remove', siteId, routerId: BOX.id }, held)).toContain('routes Segment 1');
    const renamed = appliedWith(roster, held, {
      ...{ type: 'segment.set', siteId, segmentId: crew!.id },
      ...{ from: { name: crew!.name }, to: { name: 'Crew' } },
    });
    expect(renamed.sites.get(siteId)!.segments[1]).toMatchObject({ name: 'Crew', routed: BOX.id });
    const steps = stepsBetween(sample.intent.sites.get(siteId)!, held.sites.get(siteId)!);
    expect(steps.map(({ type }) => type).sort()).toEqual(['router.add', 'segment.set']);
  });

  test('what is assumed of one follows segments to other names, and they keep theirs to it', () => {
    const lets: SiteRouter['lets'] = [
      {
        ...{ id: 'a', verdict: 'deny', services: [{ protocol: 'any' }] },
        from: [{ kind: 'segment', name: crew!.name }],
        to: [{ kind: 'any' }],
      },
    ];
    const intent = done(add({ ...BOX, lets }), {
      ...{ type: 'segment.set', siteId, segmentId: crew!.id },
      ...{ from: { name: crew!.name }, to: { name: 'Crew' } },
    });
    expect(intent.sites.get(siteId)!.routers![0]!.lets![0]!.from).toEqual([{ kind: 'segment', name: 'Crew' }]);
  });
});

describe('what devices are told of one', () => {
  test('the gateway keeps out of what others route, and knows the way there', () => {
    const intent = done(add({ ...BOX, behind: ['172.20.0.0/16'] }), routed(crew, BOX.id), routed(tills, BOX.id));
    const told = documents(intent).get(gateway.id) as GatewayDocument;
    expect(told.interfaces.map(({ name }) => name)).toEqual(['Management', 'Segment 3', 'Segment 4', 'Segment 5']);
    expect(told.addressServices.map(({ vlan }) => vlan)).toEqual([1, 30, 40, 50]);
    expect(told.routes).toEqual([
      { name: 'Segment 1 by Harbour box', prefix: '10.1.10.0/24', to: '10.1.1.9' },
      { name: 'Segment 2 by Harbour box', prefix: '10.1.20.0/24', to: '10.1.1.9' },
      { name: '172.20.0.0/16 behind Harbour box', prefix: '172.20.0.0/16', to: '10.1.1.9' },
    ]);
  });

  test('a switch that routes has their addresses, gives addresses as their gateway would, and knows the way on', () => {
    const told = documents(done(add(SWITCH), routed(crew, SWITCH.id))).get(core.id) as SwitchDocument;
    expect(told.interfaces).toEqual([{ vlan: 10, name: 'Segment 1', address: '10.1.10.1/24' }]);
    expect(told.onward).toEqual({ vlan: 1, address: '10.1.1.8/24', to: '10.1.1.1' });
    expect(told.addressServices?.map(({ vlan, gateway: by }) => [vlan, by])).toEqual([[10, '10.1.10.1']]);
    const idle = documents(done(add(SWITCH))).get(core.id) as SwitchDocument;
    expect([idle.interfaces, idle.onward, idle.addressServices]).toEqual([undefined, undefined, undefined]);
  });
});

describe('who reaches whom', () => {
  const stop = rule('stop', tills!.name, crew!.name);
  test('what a box routes it hands on by itself, whatever the gateway would say, and that is found', () => {
    const before = done(stop);
    expect(reachOf(before, tills!.name, crew!.name)).toBe('none');
    const half = done(stop, add(BOX), routed(crew, BOX.id));
    expect(reachOf(half, tills!.name, crew!.name)).toBe('none');
    expect(codes(half)).not.toContain('paths.router-past');
    const both = done(stop, add(BOX), routed(crew, BOX.id), routed(tills, BOX.id));
    expect(reachOf(both, tills!.name, crew!.name)).toBe('all');
    expect(codes(both)).toContain('rules.unpassed');
    const past = done(
      rule('stop', tills!.name, crew!.name),
      { ...rule('wide', tills!.name, crew!.name), ...{} },
      add(BOX),
      routed(crew, BOX.id),
      routed(tills, BOX.id),
    );
    expect(codes(past).filter((code) => code === 'paths.router-past').length).toBeLessThanOrEqual(1);
    const steps = asked(both, tills!.name, crew!.name).there;
    expect(steps.map(({ at, passed }) => [at, passed])).toEqual([['Harbour box', true]]);
    expect(steps[0]!.detail).toContain('Assumed');
  });

  test('a rule that means more than a box has is not kept inside it, with the packet', () => {
    const isolation: Operation = {
      ...{ type: 'segment.set', siteId, segmentId: crew!.id },
      ...{ from: { isolation: null }, to: { isolation: { segments: true } } },
    };
    const intent = done(isolation, add(BOX), routed(crew, BOX.id), routed(tills, BOX.id));
    const found = outcomeOf(intent).findings.filter(({ code }) => code === 'paths.router-past');
    expect(found.map(({ message }) => message)).toEqual([
      '“Segment 1 is kept from other segments” is not kept between Segment 1 and Segment 2',
      '“Other segments are kept from Segment 1” is not kept between Segment 2 and Segment 1',
    ]);
    expect(found[0]!.reason).toMatch(/“Harbour box” routes both: .*10\.1\.[12]0\./);
    expect(reachOf(intent, crew!.name, tills!.name)).toBe('all');
    expect(reachOf(intent, crew!.name, cameras!.name)).toBe('none');
  });

  test('what is assumed that it stops is stopped, on the way to the gateway too', () => {
    const lets: SiteRouter['lets'] = [
      {
        ...{ id: 'a', verdict: 'allow', services: [{ protocol: 'tcp', ports: ['443'] }] },
        from: [{ kind: 'segment', name: crew!.name }],
        to: [{ kind: 'any' }],
      },
      {
        ...{ id: 'b', verdict: 'deny', services: [{ protocol: 'any' }] },
        from: [{ kind: 'segment', name: crew!.name }],
        to: [{ kind: 'any' }],
      },
    ];
    const intent = done(add({ ...BOX, lets }), routed(crew, BOX.id), routed(tills, BOX.id));
    expect(reachOf(intent, crew!.name, tills!.name)).toBe('some');
    expect(reachOf(intent, crew!.name, cameras!.name)).toBe('some');
    expect(reachOf(intent, tills!.name, crew!.name)).toBe('all');
    const web = asked(intent, crew!.name, cameras!.name);
    expect(web.there.map(({ at, passed }) => [at, passed])).toEqual([
      ['Harbour box', true],
      [gateway.name, true],
    ]);
    const ssh = asked(intent, crew!.name, 'internet', 'tcp 22');
    expect(ssh.there.map(({ at, passed }) => [at, passed])).toEqual([['Harbour box', false]]);
    expect(ssh.reach).toBe('none');
  });

  test('into what nobody routes nothing gets, nor out of it', () => {
    const quiet: Operation = {
      ...{ type: 'segment.set', siteId, segmentId: works!.id },
      ...{ from: { addresses: works!.addresses, routed: null }, to: { addresses: null, routed: 'nowhere' } },
    };
    const intent = done(quiet);
    expect(reachOf(intent, works!.name, crew!.name)).toBe('none');
    expect(reachOf(intent, guests!.name, works!.name)).toBe('none');
    expect(reachOf(intent, works!.name, 'Internet')).toBe('none');
    expect(asked(intent, crew!.name, works!.name).there.at(-1)!.detail).toContain('routed by nobody');
    expect(codes(intent)).not.toContain('lattice.not-carried');
    // It is carried all the same: a port that lacks it is found.
    const port = sample.site.ports[core.id]!['1']!;
    const cut = appliedWith(roster, intent, {
      ...{ type: 'port.set', siteId, deviceId: core.id, port: '1', from: port },
      to: { ...port, tagged: (port.tagged as string[]).filter((id) => id !== works!.id) },
    });
    expect(outcomeOf(cut).findings.map(({ message }) => message)).toContainEqual(
      expect.stringContaining(`${works!.name} stops at ${core.name} port 1`),
    );
  });

  test('a box with a line of its own leads out by it, and nothing begins there; one that meets nobody is apart', () => {
    const alone = { ...BOX, meets: null, ownWayOut: true };
    const intent = done(stop, rule('out', crew!.name, cameras!.name), add(alone), routed(crew, BOX.id));
    expect(reachOf(intent, crew!.name, 'Internet')).toBe('all');
    expect(reachOf(intent, 'Internet', crew!.name)).toBe('none');
    expect(reachOf(intent, crew!.name, cameras!.name)).toBe('none');
    expect(reachOf(intent, cameras!.name, crew!.name)).toBe('none');
    expect(asked(intent, crew!.name, 'internet').there.map(({ at }) => at)).toEqual(['Harbour box']);
  });

  test('whoever is where it meets the gateway is reached from behind it by nobody, since the answer comes back another way', () => {
    const intent = done(add(BOX), routed(crew, BOX.id));
    // But for the box itself.
    expect(reachOf(intent, crew!.name, 'Management')).toBe('some');
    expect(reachOf(intent, 'Management', crew!.name)).toBe('all');
    expect(reachOf(intent, crew!.name, 'Gateway')).toBe('all');
    const said = asked(intent, crew!.name, '10.1.1.40').rules.filter(({ verdict }) => verdict === 'deny');
    expect(said.map(({ name, at: where }) => [where, name])).toEqual([
      ['router', expect.stringContaining('Harbour box: It sends this there by itself')],
    ]);
    expect(asked(intent, crew!.name, '10.1.1.40').there.at(-1)).toMatchObject({
      ...{ at: 'Harbour box', passed: false, detail: expect.stringContaining('comes back by the gateway') },
    });
  });

  test('what is published leads through a box that hands on to the gateway, and nowhere where that has a line of its own', () => {
    const published: Operation = {
      ...{ type: 'publication.add', siteId },
      publication: {
        ...{
          id: sampleId(8, 1),
          deviceId: gateway.id,
          name: 'Shop',
          ports: ['wan1'],
          protocol: 'tcp',
          outside: '8443',
        },
        ...{ address: '10.1.10.5', inside: 443, from: [{ kind: 'internet' }] },
      },
    };
    const found = (more: Partial<SiteRouter>): string[] =>
      outcomeOf(done(add({ ...BOX, ...more }), routed(crew, BOX.id), published))
        .findings.filter(({ place }) => place.kind === 'publication')
        .map(({ code }) => code);
    const away = found({ ownWayOut: true });
    expect(away).toHaveLength(1);
    expect(found({})).not.toContain(away[0]);
  });

  test('a site without a gateway of ours is one that boxes of others route: it lacks none, and answers follow what is assumed', () => {
    const rest = roster.filter(({ id }) => id !== gateway.id);
    const alone = { ...BOX, meets: null, ownWayOut: true };
    const all = sample.site.segments.map((segment) => routed(segment, BOX.id));
    const intent = done(stop, add(alone), ...all);
    const input = {
      ...{ estate: intent.estate, site: intent.sites.get(siteId)!, roster: rest },
      ...{ links: sample.links.filter(({ a, b }) => ![a.deviceId, b.deviceId].includes(gateway.id)), told: {} },
    };
    const found = consequencesOf(input).findings.map(({ code }) => code);
    expect(found).not.toContain('lattice.no-gateway');
    const { places, draft } = reachMatrix({ site: at(intent), roster: rest, live: null }, null);
    const of = (from: string, to: string) => {
      const [i, j] = [from, to].map((name) => places.findIndex((each) => each.name === name));
      return draft[i!]![j!];
    };
    expect([of(tills!.name, crew!.name), of(crew!.name, 'Internet'), of('Internet', crew!.name)]).toEqual([
      ...['all', 'all', 'none'],
    ]);
    const some = done(add(alone), ...all.slice(1));
    const lacks = consequencesOf({ ...input, estate: some.estate, site: some.sites.get(siteId)! }).findings;
    expect(lacks.map(({ code }) => code)).toContain('lattice.no-gateway');
  });

  test('whatever routers there are, each packet fares as the sets of packets say', () => {
    const random = randomFrom(7);
    const addresses = [
      ...sample.site.segments.map(({ subnet }) => subnet.split('.').slice(0, 3).join('.')),
      '198.51.100',
    ];
    for (let round = 0; round < 40; round++) {
      const box = {
        ...BOX,
        ...(random(3) === 0 ? { meets: null, ownWayOut: true } : { ownWayOut: random(2) === 0 }),
        lets: [
          {
            ...{ id: 'a', verdict: random(2) === 0 ? ('deny' as const) : ('allow' as const) },
            from: [{ kind: 'segment' as const, name: crew!.name }],
            to: [{ kind: 'segment' as const, name: [tills, cameras, guests][random(3)]!.name }],
            services: [{ protocol: 'tcp' as const, ports: ['443'] }],
          },
        ],
      };
      const moves = [crew, tills, cameras].map((segment) => {
        const to = [null, BOX.id, SWITCH.id][random(3)]!;
        return to === null ? null : routed(segment, to);
      });
      const shut: Operation = {
        ...{ type: 'segment.set', siteId, segmentId: works!.id },
        ...{ from: { addresses: works!.addresses, routed: null }, to: { addresses: null, routed: 'nowhere' } },
      };
      const rules = [
        rule('one', [crew, tills][random(2)]!.name, [tills, cameras, guests][random(3)]!.name),
        rule('two', [guests, cameras][random(2)]!.name, [crew, tills][random(2)]!.name),
      ].filter((each) => JSON.stringify(each).match(/Segment (\d).*Segment (\1)/) === null);
      const intent = done(...rules, add(box), add(SWITCH), ...moves.flatMap((each) => each ?? []), shut);
      const passage = judgingSite(at(intent), roster).view.passage(0);
      const space = passage.decider.space(4);
      const allowed = passage.allowed(4);
      for (let i = 0; i < 60; i++) {
        const host = (): bigint => parseIp(`${addresses[random(addresses.length)]}.${20 + random(100)}`)!.value;
        const port = [443, 22][random(2)]!;
        const packet: Packet = {
          ...{ version: 4, source: host(), destination: host(), protocol: 6, port, sourcePort: 49_152 },
        };
        const passed = passage.stops(packet).every((stop) => stop.passed);
        expect([round, i, space.at(allowed, pointOf(packet)) > 0]).toEqual([round, i, passed]);
      }
    }
  });
});

describe('where segments run', () => {
  const strand = (intent: Intent, vlan: number) => {
    const plant = withAssumed(at(intent), roster, documents(intent), sample.links);
    return traceStrand(plant.documents, plant.links, roster.at(-1)!.id, vlan);
  };
  test('one that a box routes runs to where that is plugged in, and a port that lacks it is found', () => {
    const open: Operation = {
      ...{ type: 'port.set', siteId, deviceId: core.id, port: '20' },
      ...{ from: sample.site.ports[core.id]!['20']!, to: { untagged: management!.id, tagged: [crew!.id] } },
    };
    const shut = done(add(BOX), routed(crew, BOX.id));
    expect(outcomeOf(shut).findings.map(({ message }) => message)).toContainEqual(
      `${crew!.name} stops at ${core.name} port 20`,
    );
    // It has to meet the gateway as well.
    const tagless: Operation = { ...open, to: { untagged: null, tagged: [crew!.id] } };
    const apart = outcomeOf(done(add(BOX), routed(crew, BOX.id), tagless)).findings;
    expect(apart.find(({ message }) => message === `Management stops at ${core.name} port 20`)).toMatchObject({
      ...{ reason: expect.stringContaining('Harbour box meets the gateway there') },
      mend: { label: `carry 1 untagged on port 20 of ${core.name}` },
    });
    const intent = done(add(BOX), routed(crew, BOX.id), open);
    expect(strand(intent, 10)).toMatchObject({ state: 'whole', gatewayId: BOX.id });
    const grid = latticeGrid(at(intent), roster, documents(intent), sample.links);
    const row = grid.rows.find(({ segment }) => segment.id === crew!.id)!;
    expect([row.missing, row.cells[`router:${BOX.id}`], row.cells['service:addresses']]).toEqual([
      [],
      'routed',
      'served',
    ]);
    expect(rowInWords(row, grid.columns, null)).toContain('routed by Harbour box');
    expect(codes(intent)).not.toContain('lattice.not-carried');
  });

  test('one that a switch routes ends there, and the switch needs where it meets the gateway', () => {
    const intent = done(add(SWITCH), routed(crew, SWITCH.id));
    expect(strand(intent, 10)).toMatchObject({ state: 'whole', gatewayId: core.id });
    expect(codes(intent).filter((code) => code.startsWith('paths.router'))).toEqual(['paths.router-among']);
  });
});

test('a segment that another router takes over is without one for a moment only, and so when it comes back', () => {
  const awayBetween = (from: Intent, to: Intent): unknown[] => {
    const told = Object.fromEntries(documents(from));
    const input = { estate: to.estate, site: to.sites.get(siteId)!, roster, links: sample.links, told };
    const { changes } = consequencesOf(input);
    return changes.flatMap(({ outages }) => outages).map(({ what, vlans, seconds }) => [what, vlans, seconds]);
  };
  const plain = done(add(BOX), add(SWITCH));
  const boxed = done(add(BOX), add(SWITCH), routed(crew, BOX.id));
  const switched = done(add(BOX), add(SWITCH), routed(crew, SWITCH.id));
  expect(awayBetween(plain, boxed)).toEqual([['gateway', [10], 30]]);
  expect(awayBetween(plain, switched)).toEqual([['gateway', [10], 30]]);
  expect(awayBetween(switched, plain)).toEqual([['gateway', [10], 30]]);
  expect(awayBetween(boxed, plain)).toEqual([]);
  const shut: Operation = {
    ...{ type: 'segment.set', siteId, segmentId: crew!.id },
    ...{ from: { addresses: crew!.addresses, routed: null }, to: { addresses: null, routed: 'nowhere' } },
  };
  expect(awayBetween(plain, done(add(BOX), add(SWITCH), shut))).toEqual([['gateway', [10], null]]);
});

describe('what is found of one', () => {
  const found = (...operations: Operation[]): string[] =>
    codes(done(...operations)).filter((code) => code.startsWith('paths.router'));
  test.each([
    ['nothing that it routes', [add(BOX)], ['paths.router-idle']],
    ['a place among others where it meets the gateway', [add(BOX), routed(crew, BOX.id)], ['paths.router-among']],
    ['no place', [add({ ...BOX, at: null }), routed(crew, BOX.id)], ['paths.router-among', 'paths.router-where']],
    [
      'a port that is none',
      [add({ ...BOX, at: { deviceId: core.id, port: '99' } }), routed(crew, BOX.id)],
      ['paths.router-among', 'paths.router-port'],
    ],
    [
      'a port at which an AP hangs',
      [add({ ...BOX, at: { deviceId: core.id, port: '1' } }), routed(crew, BOX.id)],
      ['paths.router-among', 'paths.router-port'],
    ],
    [
      'an address that is given to others',
      [add({ ...BOX, meets: { segmentId: management!.id, address: '10.1.1.30' } }), routed(crew, BOX.id)],
      ['paths.router-among', 'paths.router-given'],
    ],
  ] as const)('%s', (_what, operations, wanted) => {
    expect(found(...(operations as readonly Operation[])).sort()).toEqual(wanted);
  });
});
