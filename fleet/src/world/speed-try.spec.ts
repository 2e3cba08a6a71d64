import { expect, test } from 'vitest';
import type {
  ApDocument,
  CapsDocument,
  GatewayDocument,
  SwitchDocument,
  VlanCapsDocument,
} from '@iron-lattice/core/document';
import type { SpeedTry } from '@iron-lattice/core/line';
import { factory, SMALL_WORLD } from './small-world.fixture';
import { World } from './world';
import type { WorldFile } from './world-file';

const FILE: WorldFile = {
  ...SMALL_WORLD,
  providers: [{ name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' }, mbps: [200, 50] }],
  air: { places: { A: [0, 0, 3] }, hurry: 0.001 },
};
const rate = (kbps: number) => ({ kbps, burst: Math.max(3028, kbps * 12.5) });
const probe: SpeedTry = { band: '5', metres: 3, phy: 'HE', streams: 2, width: 80, ssid: 's' };

function speedWith(air: CapsDocument | null, routed: readonly VlanCapsDocument[], asked: Partial<SpeedTry> = {}) {
  const world = new World(structuredClone(FILE));
  const sw = factory('SW') as SwitchDocument;
  world.run('SW', { ...sw, ports: sw.ports.map((port) => ({ ...port, untagged: 1 })) }, {});
  world.run('GW', { ...(factory('GW') as GatewayDocument), caps: routed }, {});
  const ssid = { id: 's', name: 'Deck', security: 'open' as const, bands: ['5' as const], vlan: 1 };
  const document: ApDocument = {
    ...(factory('A') as ApDocument),
    radios: [{ band: '5', at: { channel: 36, width: 80, centre: 42 }, power: 23 }],
    ssids: [{ ...ssid, ...(air ? { caps: air } : {}) }],
  };
  world.run('A', document, {});
  return world.trySpeed('A', { ...probe, ...asked });
}

test('without caps the uplink is the narrowest, and a probe of no SSID meets none', () => {
  expect(speedWith(null, []).speed).toMatchObject({ narrowest: 'uplink', down: 200, up: 50 });
  const { ssid: _none, ...nobody } = probe;
  const world = speedWith({ client: { down: rate(1000) } }, [], { ...nobody, ssid: undefined });
  expect(world.speed).toMatchObject({ narrowest: 'uplink' });
});

test('a cap of each client shows at one and at two, one of all is shared, and whose it is is told', () => {
  const client = { client: { down: rate(20_000), up: rate(5000) } };
  const one = speedWith(client, []).speed!;
  expect(one).toMatchObject({ narrowest: 'cap', cap: 'each client of the SSID, at the AP' });
  expect([one.down / 20, one.up / 5]).toEqual([expect.closeTo(1, 1), expect.closeTo(1, 1)]);
  const two = speedWith(client, [], { count: 2 }).speed!;
  expect(two.each!.map(([down]) => down / 20)).toEqual([expect.closeTo(1, 1), expect.closeTo(1, 1)]);
  const shared = [{ name: 'SSID Deck', vlans: [1], all: { down: rate(30_000) } }];
  expect(speedWith(client, shared).speed).toMatchObject({ cap: 'each client of the SSID, at the AP' });
  const both = speedWith(client, shared, { count: 2 }).speed!;
  expect(both).toMatchObject({ narrowest: 'cap', cap: 'SSID Deck, at the gateway' });
  expect(both.each!.map(([down]) => down / 15)).toEqual([expect.closeTo(1, 1), expect.closeTo(1, 1)]);
});

test('caps of other VLANs are not met, and two probes share what is left of the air and the uplink', () => {
  const other = [{ name: 'segment Crew', vlans: [8], all: { down: rate(1000) } }];
  expect(speedWith(null, other).speed).toMatchObject({ narrowest: 'uplink', down: 200 });
  const two = speedWith(null, other, { count: 2 }).speed!;
  expect(two.each).toEqual([
    [100, 25],
    [100, 25],
  ]);
});

test('a probe of an SSID that is not sent there is told so', () => {
  expect(speedWith(null, [], { ssid: 'other' })).toMatchObject({
    ok: false,
    text: expect.stringMatching(/does not send/) as string,
  });
});
