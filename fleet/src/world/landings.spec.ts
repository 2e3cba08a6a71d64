import { generateKeyPairSync } from 'node:crypto';
import { farEndOfSsid, type ApDocument } from '@iron-lattice/core/document';
import { resolve, type Intent, type Operation, type RosterDevice, type Ssid } from '@iron-lattice/core/intent';
import { compileSite } from '@iron-lattice/core/rollout';
import { appliedWith, sampleId, sampleMember, sampleSites } from '@iron-lattice/core/testing';
import { expect, test } from 'vitest';
import { World } from './world';
import type { WorldFile } from './world-file';

/** A hub, the quay where clients come out, and an isle from which they are carried there by the hub. */
const sample = sampleSites({ sites: 3, segments: 3 });
const [HUB, QUAY, ISLE] = [0, 1, 2];
const ap: RosterDevice = {
  ...{ id: sampleId(4, 2), siteId: sample.siteIds[ISLE]!, name: 's2-ap-01', serial: 'AP-2', model: 'AP-6' },
};
const roster = [...sample.roster, ap];
const PHONE = '0e:00:00:00:00:31';
const FILE: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: roster.map(({ serial, model }, n) => ({ serial, model, mac: `02:00:00:00:00:0${n}`, firmware: '1' })),
  cables: [['GW-2:1', 'AP-2:lan']],
  providers: [
    { name: 'Tidewire', gives: { 'GW-0:wan1': '203.0.113.1', 'GW-1:wan1': '203.0.113.2' }, mbps: [400, 80] },
    { name: 'Behind', gives: { 'GW-2:wan1': '100.64.0.4' }, mbps: [300, 60] },
  ],
  air: { places: { 'AP-2': [0, 0, 3] }, hurry: 0.001 },
  clients: [
    { mac: PHONE, near: 'AP-2', ssid: 'Deck' },
    { mac: '0e:00:00:00:00:32', at: 'GW-1:1', name: 'printer', offers: ['tcp 9100'] },
  ],
};
const keys = [HUB, QUAY, ISLE].map((n) => {
  const { x, d } = generateKeyPairSync('x25519').privateKey.export({ format: 'jwk' });
  const plain = (text: string) => Buffer.from(text, 'base64url').toString('base64');
  return { secret: sampleId(21, n), public: plain(x!), own: plain(d!) };
});
const secrets = Object.fromEntries(keys.map(({ secret, own }) => [secret, own]));
const member = (n: number, more: object): Operation => {
  const { own: _own, ...key } = keys[n]!;
  return { type: 'member.add', member: { ...sampleMember(n, more), key } };
};
const deck: Ssid = {
  ...{ id: sampleId(5, 0), name: 'Deck', security: 'open', passphrase: null, bands: ['5'], segment: 'Segment 2' },
  ...{ tunnel: sample.siteIds[QUAY]!, reach: { kind: 'sites', siteIds: [sample.siteIds[ISLE]!] } },
};
const joined = appliedWith(
  roster,
  sample.intent,
  { type: 'overlay.set', from: null, to: { spans: ['10.0.0.0/8'] } },
  member(HUB, { role: 'hub', found: { wan1: '203.0.113.1' } }),
  member(QUAY, { hubs: [sampleId(20, HUB)] }),
  member(ISLE, { hubs: [sampleId(20, HUB)] }),
);
const carried = appliedWith(roster, joined, { type: 'ssid.add', ssid: deck });

function running(intent: Intent = carried, ...operations: Operation[]): World {
  const now = appliedWith(roster, intent, ...operations);
  const world = new World(structuredClone(FILE));
  for (const siteId of sample.siteIds) {
    const site = resolve(now.estate, now.sites.get(siteId)!);
    const devices = roster.filter((each) => each.siteId === siteId);
    for (const [id, document] of compileSite(site, devices))
      world.run(devices.find((each) => each.id === id)!.serial, document, secrets);
  }
  world.paths.askOnward();
  return world;
}
const addressOf = (world: World) => world.clientsOf('AP-2')[0]?.address ?? null;
const deny = (n: number): Operation => ({
  ...{ type: 'rule.add', siteId: sample.siteIds[n]!, behind: null },
  rules: [
    {
      ...{ id: sampleId(30, n), verdict: 'deny', from: [{ kind: 'any' }], to: [{ kind: 'any' }] },
      services: [{ protocol: 47 }],
    },
  ],
});
/** The same AP, told otherwise. */
const retold = (world: World, change: (document: ApDocument) => ApDocument): void =>
  world.run('AP-2', change(world.box('AP-2').document as ApDocument), secrets);

test('a client gets an address of the other site, by the hub, and the AP hears the gateway there', () => {
  const world = running();
  expect(farEndOfSsid((world.box('AP-2').document as ApDocument).ssids[0]!)).toBe('10.0.16.1');
  expect(addressOf(world)).toMatch(/^10\.0\.18\.\d+$/);
  expect(world.landingsOf('AP-2')).toEqual([{ to: '10.0.16.1', answers: true }]);
  expect(world.tunnelOf('AP-2')).toBeNull();
  expect(world.leasesOf('GW-1').find(({ mac }) => mac === PHONE)).toMatchObject({ vlan: 20 });
  expect(world.leasesOf('GW-2').some(({ mac }) => mac === PHONE)).toBe(false);
});

test('it reaches what is there, and leaves by the line of that site', () => {
  const world = running();
  world.wiredOf('GW-1');
  const printer = world.leasesOf('GW-1').find(({ name }) => name === 'printer')!.address;
  const seat = { ssid: 'Deck' };
  const print = { does: 'connect' as const, protocol: 'tcp' as const, number: 9100, ...seat };
  expect(world.asking.try('AP-2', print, printer)).toMatchObject({ ok: true });
  const traced = world.asking.try('AP-2', { does: 'trace', ...seat }, '198.51.100.81');
  expect(traced.text.split('\n')[0]).toBe('1  10.0.18.1');
  expect(world.asking.try('AP-2', { does: 'ping', ...seat }, '198.51.100.81')).toMatchObject({ ok: true });
  // Its own site's line is of no use to it, but for the tunnel.
  world.provider('Tidewire', false);
  expect(world.asking.try('AP-2', { does: 'ping', ...seat }, '198.51.100.81')).toMatchObject({ ok: false });
});

test.each([
  ['is not joined', (world: World) => world.provider('Behind', false)],
  ['has its hub cut off', (world: World) => world.power('GW-0', false)],
  ['has no gateway any more', (world: World) => world.power('GW-1', false)],
])('a site that %s leaves clients without an address, and it is back when that is over', (what, cut) => {
  const world = running();
  cut(world);
  for (let i = 0; i < 4; i++) world.paths.askOnward();
  expect([addressOf(world), world.landingsOf('AP-2')[0]?.answers]).toEqual([null, false]);
  if (what === 'is not joined') world.provider('Behind', true);
  else world.power(what === 'has its hub cut off' ? 'GW-0' : 'GW-1', true);
  for (let i = 0; i < 4; i++) world.paths.askOnward();
  expect([addressOf(world) === null, world.landingsOf('AP-2')[0]?.answers]).toEqual([false, true]);
});

test.each([
  ['its own site', ISLE],
  ['the other site', QUAY],
])('rules of %s that stop GRE stop it', (_whose, n) => {
  const world = running(carried, deny(n));
  expect([addressOf(world), world.landingsOf('AP-2')[0]?.answers]).toEqual([null, false]);
});

test('a gateway takes nothing of a site that it was not told of, and no VLAN that it was not told of', () => {
  const world = running(joined);
  expect(world.landingsOf('AP-2')).toEqual([]);
  const ssid = {
    id: 's',
    name: 'Deck',
    security: 'open' as const,
    bands: ['5' as const],
    vlan: 20,
    tunnel: '10.0.16.1',
  };
  const told = (vlan: number) => (document: ApDocument) => ({
    ...document,
    ssids: [{ ...ssid, vlan }],
    landings: [{ to: '10.0.16.1', mtu: 1398 }],
  });
  retold(world, told(20));
  expect([addressOf(world), world.landingsOf('AP-2')]).toEqual([null, [{ to: '10.0.16.1', answers: false }]]);
  const taking = running();
  retold(taking, told(10));
  expect([addressOf(taking), taking.landingsOf('AP-2')]).toEqual([null, [{ to: '10.0.16.1', answers: true }]]);
});

test('the AP is heard of when something changes at the other site', () => {
  const world = running();
  const heard: string[] = [];
  world.onChange((serials) => heard.push(...serials));
  world.power('GW-1', false);
  expect(heard).toContain('AP-2');
});

test('a test of speed goes by the lines of both sites: what comes down there goes up there as well', () => {
  const probe = { ...{ band: '5' as const, metres: 1, phy: 'HE' as const, streams: 4, width: 80 }, ssid: deck.id };
  const here = running().trySpeed('AP-2', probe).speed!;
  // Down it is the 80 up of the quay, up the 60 up of the isle.
  expect(here.narrowest).toBe('uplink');
  expect(here.down).toBeGreaterThan(70);
  expect(here.down).toBeLessThanOrEqual(80);
  expect(here.up).toBeGreaterThan(50);
  expect(here.up).toBeLessThanOrEqual(60);
  const { ssid: _none, ...alone } = probe;
  expect(running().trySpeed('AP-2', alone).speed!.down).toBeGreaterThan(250);
});
