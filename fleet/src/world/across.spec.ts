import { generateKeyPairSync } from 'node:crypto';
import { TUNNEL_ASKS_SECONDS, TUNNEL_LOSSES, type GatewayDocument } from '@iron-lattice/core/document';
import { joinedEnds, resolve, type Member, type Operation } from '@iron-lattice/core/intent';
import { rehearseJoined, type JoinedMishap } from '@iron-lattice/core/routing';
import { compileSite } from '@iron-lattice/core/rollout';
import type { Rule } from '@iron-lattice/core/rules';
import { appliedWith, sampleId, sampleJoin, sampleSites } from '@iron-lattice/core/testing';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { World } from './world';
import type { WorldFile } from './world-file';

/** Two hubs, north and south, and three spokes behind providers that translate. */
const sample = sampleSites({ sites: 5, segments: 2 });
const [NORTH, SOUTH, WEST, EAST, FAR] = [0, 1, 2, 3, 4];
const printer = (n: number): string => `0e:00:00:00:00:0${n}`;

const FILE: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: sample.roster.map(({ serial, model }, n) => ({ serial, model, mac: `02:00:00:00:00:0${n}`, firmware: '1' })),
  cables: [],
  providers: [
    { name: 'Tidewire', gives: { 'GW-0:wan1': '203.0.113.1', 'GW-1:wan1': '203.0.113.2' }, latency: 10 },
    { name: 'Second', gives: { 'GW-0:wan2': '198.51.100.1', 'GW-2:wan2': '198.51.100.77' }, latency: 30 },
    {
      name: 'Behind',
      gives: { 'GW-2:wan1': '100.64.0.2', 'GW-3:wan1': '192.168.1.3', 'GW-4:wan1': '100.64.0.4' },
      latency: 20,
    },
  ],
  clients: sample.roster.map(({ serial }, n) => ({
    mac: printer(n),
    at: `${serial}:1`,
    name: `printer-${n}`,
    offers: ['tcp 9100'],
  })),
};

/** Rules by which whoever is in a joined site gets at printers, and at nothing else. */
const letIn = (n: number): Operation => ({
  ...{ type: 'rule.add', siteId: sample.siteIds[n]!, behind: null },
  rules: [
    rule(31, n, 'allow', { protocol: 'tcp', ports: ['9100'] }, { protocol: 'icmp' }),
    rule(30, n, 'deny', { protocol: 'any' }),
  ],
});
const rule = (kind: number, n: number, verdict: Rule['verdict'], ...services: Rule['services']): Rule => ({
  ...{
    id: sampleId(kind, n),
    verdict,
    from: [{ kind: 'addresses', text: '10.0.0.0/8' }],
    to: [{ kind: 'addresses', text: `10.0.${n * 16}.0/20` }],
    services,
  },
});
const set = (n: number, from: Partial<Member>, to: Partial<Member>): Operation => ({
  ...{ type: 'member.set', memberId: sampleId(20, n), from, to },
});

/** Keys that belong together, for each site. */
const keys = sample.roster.map((_, n) => {
  const { x, d } = generateKeyPairSync('x25519').privateKey.export({ format: 'jwk' });
  const plain = (text: string) => Buffer.from(text, 'base64url').toString('base64');
  return { secret: sampleId(21, n), public: plain(x!), own: plain(d!) };
});
const secrets = Object.fromEntries(keys.map(({ secret, own }) => [secret, own]));
const withKey = (operation: Operation): Operation => {
  if (operation.type !== 'member.add') return operation;
  const { own: _own, ...key } = keys[sample.siteIds.indexOf(operation.member.siteId)]!;
  return { ...operation, member: { ...operation.member, key } };
};

function setUp(...operations: Operation[]): World {
  const intent = appliedWith(
    sample.roster,
    sample.intent,
    ...sampleJoin(2, 3).map(withKey),
    ...[0, 1, 2, 3, 4].map(letIn),
    ...operations,
  );
  const world = new World(FILE);
  for (const device of sample.roster) {
    const site = resolve(intent.estate, intent.sites.get(device.siteId)!);
    const document = compileSite(site, [device]).get(device.id) as GatewayDocument;
    world.run(device.serial, document, secrets);
  }
  for (const [n, { serial }] of sample.roster.entries()) world.lease({ box: world.box(serial), vlan: 1 }, printer(n));
  world.paths.askOnward();
  return world;
}
const addressOf = (world: World, n: number): string => world.leasesOf(`GW-${n}`)[0]!.address;
/** What the printer of one site finds at that of another. */
function finds(world: World, from: number, to: number, number = 9100) {
  const at = { port: '1', mac: printer(from) } as const;
  const target = addressOf(world, to);
  const { ok, text, stoppedBy } = world.asking.try(
    `GW-${from}`,
    { does: 'connect', protocol: 'tcp', number, ...at },
    target,
  );
  const trace = world.asking.try(`GW-${from}`, { does: 'trace', ...at }, target).text;
  return { ok, text, stoppedBy, hops: trace.split('\n').map((line) => line.split('  ')[1]) };
}
const tunnels = (world: World, n: number) =>
  world.paths.report(world.box(`GW-${n}`))!.tunnels!.map(({ peer, up, by, to }) => [peer, up, by, to]);
const face = (n: number): string => `10.0.${n * 16}.1`;

describe('tunnels between sites', () => {
  test('are begun by whoever knows where the other end is, and show how long the way is', () => {
    const world = setUp();
    expect(tunnels(world, WEST)).toEqual([
      ['Site 0', true, 'wan1', '203.0.113.1'],
      ['Site 1', true, 'wan1', '203.0.113.2'],
    ]);
    expect(tunnels(world, NORTH)).toEqual([
      ['Site 1', true, 'wan1', '203.0.113.2'],
      ['Site 2', true, 'wan1', '100.64.0.2'],
      ['Site 3', true, 'wan1', '192.168.1.3'],
      ['Site 4', true, 'wan1', '100.64.0.4'],
    ]);
    const [first] = world.paths.report(world.box('GW-2'))!.tunnels!;
    expect(first!.delay).toBeGreaterThan(25);
    expect(first!.delay).toBeLessThan(35);
    // Who has another’s key is nobody.
    world.run('GW-2', world.box('GW-2').document, { ...secrets, [keys[2]!.secret]: keys[3]!.own });
    for (let i = 0; i < 3; i++) world.paths.askOnward();
    expect(world.paths.report(world.box('GW-2'))!.tunnels![0]).toMatchObject({
      up: false,
      why: expect.stringContaining('not the key'),
    });
  });

  test('carry what is for another site by the hub, and back, and the rules of both ends decide', () => {
    const world = setUp();
    expect(finds(world, WEST, EAST)).toMatchObject({
      ...{ ok: true, text: expect.stringContaining('answers. By s0-gw-01, then s3-gw-01.') },
      hops: [face(WEST), face(NORTH), face(EAST), addressOf(world, EAST)],
    });
    expect(finds(world, WEST, NORTH).hops).toEqual([face(WEST), face(NORTH), addressOf(world, NORTH)]);
    // Nobody is let in at another port.
    expect(finds(world, WEST, EAST, 22)).toMatchObject({
      ok: false,
      text: expect.stringContaining('topped by s3-gw-01'),
    });
    // What a hub does not share is not reached through it either.
    const [, other] = sample.intent.sites.get(sample.siteIds[NORTH]!)!.segments;
    const sharing = setUp(set(NORTH, { segments: 'all' }, { segments: [other!.id] }));
    expect(finds(sharing, WEST, NORTH)).toMatchObject({
      ok: false,
      text: expect.stringContaining('it does not share 10.0.0.'),
    });
    // What no site has never leaves by an uplink.
    const nobody = world.asking.try('GW-2', { does: 'ping', port: '1', mac: printer(2) }, '10.200.0.1');
    expect(nobody).toMatchObject({ ok: false, text: expect.stringContaining('no joined site has 10.200.0.1') });
  });

  test('fail over: to the second uplink, to the second hub, and to nothing', () => {
    const world = setUp();
    world.provider('Behind', false);
    for (let i = 0; i < 3; i++) world.paths.askOnward();
    expect(tunnels(world, WEST)).toEqual([
      ['Site 0', true, 'wan2', '203.0.113.1'],
      ['Site 1', true, 'wan2', '203.0.113.2'],
    ]);
    expect(tunnels(world, EAST).map(([, up]) => up)).toEqual([false, false]);
    const other = setUp(
      set(NORTH, { found: { wan1: '203.0.113.1' } }, { found: { wan1: '203.0.113.1', wan2: '198.51.100.1' } }),
    );
    other.provider('Tidewire', false);
    for (let i = 0; i < 2; i++) other.paths.askOnward();
    // It is found at its second address at once.
    expect(tunnels(other, WEST)[0]).toEqual(['Site 0', true, 'wan1', '198.51.100.1']);
    world.provider('Behind', true);
    world.paths.askOnward();
    world.power('GW-0', false);
    for (let i = 0; i < 3; i++) world.paths.askOnward();
    expect(finds(world, WEST, EAST)).toMatchObject({
      ok: true,
      hops: [face(WEST), face(SOUTH), face(EAST), expect.anything()],
    });
    world.power('GW-1', false);
    for (let i = 0; i < 3; i++) world.paths.askOnward();
    expect(finds(world, WEST, EAST)).toMatchObject({ ok: false, text: expect.stringContaining('Dropped by s2-gw-01') });
  });

  test('a hub without a tunnel to a site hands on to the hub that has one, and what it sends comes back that way', () => {
    const world = setUp(set(EAST, { hubs: [sampleId(20, 0), sampleId(20, 1)] }, { hubs: [sampleId(20, 1)] }));
    expect(finds(world, WEST, EAST).hops).toEqual([
      face(WEST),
      face(NORTH),
      face(SOUTH),
      face(EAST),
      expect.anything(),
    ]);
    expect(finds(world, EAST, WEST).hops).toEqual([face(EAST), face(SOUTH), face(WEST), expect.anything()]);
  });

  test('one of their own between two spokes is gone by first, and not needed', () => {
    const world = setUp(
      set(WEST, { direct: [] }, { direct: [sampleId(20, 3)] }),
      set(EAST, { found: {} }, { found: { wan1: '203.0.113.30' } }),
    );
    // Nothing hands on what comes to the address yet.
    expect(tunnels(world, WEST).find(([peer]) => peer === 'Site 3')).toMatchObject({ 1: false });
    expect(finds(world, WEST, EAST).hops).toHaveLength(4);
    const forwarding = new World({
      ...FILE,
      providers: FILE.providers.map((each) =>
        each.name === 'Behind' ? { ...each, forwards: { '203.0.113.30': 'GW-3:wan1' } } : each,
      ),
    });
    for (const { serial } of sample.roster) forwarding.run(serial, world.box(serial).document, secrets);
    for (const [n, { serial }] of sample.roster.entries())
      forwarding.lease({ box: forwarding.box(serial), vlan: 1 }, printer(n));
    forwarding.paths.askOnward();
    expect(finds(forwarding, WEST, EAST).hops).toEqual([face(WEST), face(EAST), expect.anything()]);
  });

  test('what a site takes is all that gets through, and a site that leaves by its hub does so', () => {
    const world = setUp(
      set(EAST, { takes: null }, { takes: ['10.0.0.0/20'] }),
      set(FAR, { leaves: 'here' }, { leaves: 'hub' }),
    );
    expect(finds(world, EAST, NORTH).ok).toBe(true);
    expect(finds(world, EAST, WEST)).toMatchObject({ ok: false, text: expect.stringContaining('no joined site has') });
    expect(finds(world, WEST, EAST)).toMatchObject({
      ok: false,
      text: expect.stringContaining('is not behind Site 0'),
    });
    const out = world.asking.try('GW-4', { does: 'trace', port: '1', mac: printer(4) }, '198.51.100.80').text;
    expect(out.split('\n').map((line) => line.split('  ')[1])).toEqual([face(FAR), face(NORTH), '198.51.100.80']);
    const own = world.asking.try('GW-2', { does: 'trace', port: '1', mac: printer(2) }, '198.51.100.80').text;
    expect(own).not.toContain(face(NORTH));
  });
});

describe('hubs that fail', () => {
  const ends = joinedEnds(appliedWith(sample.roster, sample.intent, ...sampleJoin(2, 3)).estate);
  const idOf = (n: number): string => sampleId(20, n);
  /** Hubs without power for some seconds each; what happens does so at odd seconds, and gateways ask at even ones. */
  const outages = fc.array(
    fc.record({ hub: fc.constantFrom(NORTH, SOUTH), from: fc.nat(14), lasts: fc.integer({ min: 1, max: 8 }) }),
    { minLength: 1, maxLength: 4 },
  );

  test('leave others without a way for as long as was computed, second by second', () => {
    fc.assert(
      fc.property(outages, (list) => {
        const mishaps = list.map(({ hub, from, lasts }): JoinedMishap => {
          const begins = 1 + 2 * from;
          return { what: 'site', siteId: idOf(hub), from: begins, to: begins + 2 * lasts };
        });
        const told = rehearseJoined(ends, { from: idOf(WEST), to: idOf(EAST) }, mishaps, {
          ...{ asks: TUNNEL_ASKS_SECONDS, losses: TUNNEL_LOSSES, seconds: 60, phase: 'mean' },
        });
        const world = setUp();
        const really: boolean[] = [];
        for (let second = 0; second < 60; second++) {
          for (const hub of [NORTH, SOUTH]) {
            const off = mishaps.some(({ siteId, from, to }) => siteId === idOf(hub) && from <= second && second < to!);
            if (world.isPowered(`GW-${hub}`) === off) world.power(`GW-${hub}`, !off);
          }
          if (second % 2 === 0) world.paths.askOnward();
          really.push(finds(world, WEST, EAST).ok);
        }
        const computed = really.map(
          (_, i) => told.spans.find(({ from, to }) => from <= i + 0.5 && i + 0.5 < to)!.served,
        );
        expect(computed).toEqual(really);
      }),
      { seed: Number(process.env['SEED'] ?? 1), numRuns: 40 },
    );
  });
});
