import { resolve, type Operation, type Pair } from '@iron-lattice/core/intent';
import { compileSite } from '@iron-lattice/core/rollout';
import { appliedWith, samplePair } from '@iron-lattice/core/testing';
import { describe, expect, test } from 'vitest';
import { World } from './world';
import type { WorldFile } from './world-file';

const VLANS = [1, 10, 20];
const client = '0e:00:00:00:00:01';

/** Two gateways at a switch, each with a provider of its own, and a printer on the switch. */
function setUp(more: Partial<Pair> = {}, ...operations: Operation[]) {
  const sample = samplePair({ tracks: { first: ['wan1'], second: ['wan1'] }, ...more });
  const { roster, site, first, second } = sample;
  const [one, two] = [first.serial, second.serial];
  const sw = roster.find(({ model }) => model.startsWith('SW'))!;
  const file: WorldFile = {
    format: 'iron-lattice.world/1',
    devices: roster.map(({ serial, model }, n) => ({ serial, model, mac: `02:00:00:00:00:0${n}`, firmware: '1' })),
    cables: [
      [`${one}:1`, `${sw.serial}:25`],
      [`${two}:1`, `${sw.serial}:26`],
    ],
    providers: [
      { name: 'Tidewire', gives: { [`${one}:wan1`]: '203.0.113.1' } },
      { name: 'Second', gives: { [`${two}:wan1`]: '198.51.100.1' } },
    ],
    clients: [{ mac: client, at: `${sw.serial}:20`, name: 'printer', offers: ['tcp 9100'] }],
  };
  const segment = site.segments[1]!;
  const port: Operation = {
    ...{ type: 'port.set', siteId: site.id, deviceId: sw.id, port: '20' },
    ...{ from: site.ports[sw.id]!['20']!, to: { untagged: segment.id, tagged: [] } },
  };
  const intent = appliedWith(roster, sample.intent, port, sample.made, ...operations);
  const documents = compileSite(resolve(intent.estate, intent.sites.get(site.id)!), roster);
  const world = new World(file);
  const told = (device: { readonly id: string; readonly serial: string }): void =>
    world.run(device.serial, documents.get(device.id)!, {});
  for (const device of roster) told(device);
  const at = { box: world.box(sw.serial), vlan: 10 };
  const routes = () => world.gatewayFrom(at)?.box.device.serial ?? null;
  let now = Date.now();
  const pass = (seconds: number): void => world.pairs.pass((now += seconds * 1000));
  const state = (serial: string) => world.pathsOf(serial)?.pair?.state;
  return { world, sample, one, two, sw, at, routes, pass, state, told, documents };
}

describe('a pair of gateways', () => {
  test('the first holds the addresses in every segment, the second none, and each has its own', () => {
    const { world, one, two, routes, pass, state, at } = setUp();
    pass(30);
    expect([state(one), state(two)]).toEqual(['active', 'backup']);
    for (const vlan of VLANS) expect(world.gatewayFrom({ ...at, vlan })?.box.device.serial).toBe(one);
    expect(routes()).toBe(one);
    expect([world.addressOf(one), world.addressOf(two)]).toEqual(['10.1.1.2', '10.1.1.3']);
    expect(world.pathsOf(two)!.pair).toMatchObject({ priority: 150, hears: true });
    expect(world.reachesController(two)).toBe(true);
  });

  test('without power of the first the second routes and knows whom addresses were given, and hands back', () => {
    const { world, one, two, routes, pass, at } = setUp();
    pass(10);
    const lease = world.lease(at, client);
    expect(world.lease({ ...at }, '0e:00:00:00:00:02')).not.toBe(lease);
    pass(2);
    expect(world.leasesOf(two)).toEqual([]);
    world.power(one, false);
    expect(routes()).toBeNull();
    pass(2);
    expect(routes()).toBeNull();
    pass(2);
    expect(routes()).toBe(two);
    expect(world.lease(at, client)).toBe(lease);
    expect(world.leasesOf(two).map(({ mac }) => mac)).toContain(client);
    expect(world.pathsOf(two)!.changes.at(-1)).toMatchObject({ what: 'took-over' });
    world.power(one, true);
    pass(10);
    expect(routes()).toBe(one);
    expect(world.pathsOf(two)!.changes.at(-1)).toMatchObject({ what: 'stands-by' });
  });

  test('where leases are not told the other, it knows nobody, and gives an address twice', () => {
    const { world, one, two, routes, pass, at } = setUp({ leases: false });
    pass(10);
    const lease = world.lease(at, client);
    pass(2);
    world.power(one, false);
    pass(10);
    expect(routes()).toBe(two);
    expect(world.lease(at, '0e:00:00:00:00:02')).toBe(lease);
  });

  test('a tracked uplink that fails is handed over for, and one that is not is not', () => {
    for (const [tracks, holder] of [
      [['wan1'], 'two'],
      [[], 'one'],
    ] as const) {
      const found = setUp({ tracks: { first: tracks, second: [] } });
      found.pass(10);
      found.world.provider('Tidewire', false);
      for (let i = 0; i < 8; i++) found.world.paths.of(found.world.box(found.one))!.checkAll();
      found.pass(10);
      expect(found.routes()).toBe(found[holder]);
    }
  });

  test('where neither is preferred whoever routes goes on', () => {
    const { world, one, two, routes, pass } = setUp({ back: false });
    pass(10);
    world.power(one, false);
    pass(10);
    world.power(one, true);
    pass(30);
    expect(routes()).toBe(two);
  });

  test('that do not hear each other both route, and one gives in when they do', () => {
    const { world, one, two, pass, state, sw } = setUp();
    pass(10);
    world.pull(two, true);
    pass(10);
    expect([state(one), state(two)]).toEqual(['active', 'active']);
    expect(world.pathsOf(one)!.pair!.hears).toBe(false);
    world.pull(two, false);
    pass(10);
    expect([state(one), state(two)]).toEqual(['active', 'backup']);
    expect(world.box(sw.serial).powered).toBe(true);
  });

  test('is taken apart without both holding an address: the second lets go of all', () => {
    const { world, sample, one, two, routes, pass, state } = setUp();
    pass(10);
    world.power(one, false);
    pass(10);
    world.power(one, true);
    const alone = compileSite(resolve(sample.intent.estate, sample.site), sample.roster);
    world.run(two, alone.get(sample.second.id)!, {});
    pass(1);
    // What stepped down is followed at once, without waiting for its silence.
    expect(state(one)).toBe('active');
    world.run(one, alone.get(sample.first.id)!, {});
    expect(routes()).toBe(one);
    expect(state(one)).toBeUndefined();
  });

  test('becomes one while the first routes all along', () => {
    const { world, sample, routes, told, pass } = setUp();
    const alone = compileSite(resolve(sample.intent.estate, sample.site), sample.roster);
    for (const device of [sample.second, sample.first]) world.run(device.serial, alone.get(device.id)!, {});
    for (const device of [sample.first, sample.second]) {
      told(device);
      expect(routes()).toBe(sample.first.serial);
      pass(10);
      expect(routes()).toBe(sample.first.serial);
    }
  });
});
