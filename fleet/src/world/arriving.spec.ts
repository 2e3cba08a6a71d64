import type { GatewayDocument, PublishedDocument, TranslationDocument } from '@iron-lattice/core/document';
import type { PolicyDocument, PolicyRule } from '@iron-lattice/core/rules';
import { expect, test } from 'vitest';
import { factoryDocument } from './factory-document';
import { World } from './world';
import type { WorldFile } from './world-file';

const SERVER = '0e:00:00:00:00:01';
const FILE: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: [
    { serial: 'GW', model: 'GW-4', mac: '02:00:00:00:00:01', firmware: '1' },
    { serial: 'FAR', model: 'GW-4', mac: '02:00:00:00:00:02', firmware: '1' },
  ],
  cables: [],
  providers: [
    { name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9', 'FAR:wan1': '203.0.113.20' } },
    { name: 'Hillcrest Line', gives: { 'GW:wan2': '198.51.100.9' } },
  ],
  knocks: [{ from: '198.51.100.66', at: 'GW:wan1', asks: 'tcp 443' }],
  clients: [
    { mac: SERVER, at: 'GW:1', name: 'shop', offers: ['tcp 8443'] },
    { mac: '0e:00:00:00:00:02', at: 'GW:2', name: 'till' },
    { mac: '0e:00:00:00:00:03', at: 'FAR:1', name: 'visitor' },
  ],
};
const shop = (more: Partial<PublishedDocument> = {}): PublishedDocument => ({
  ...{ id: 'p', name: 'Shop', from: ['any'], protocols: ['tcp'], outside: '443', address: '10.9.10.20', inside: 8443 },
  ...more,
});
const rule = (more: Partial<PolicyRule>): PolicyRule => ({
  ...{ id: 'r', name: 'r', verdict: 'allow', from: ['any'], to: ['any'], services: [{ protocol: 'any' }], ...more },
});
const OUTSIDE = rule({
  id: 'outside',
  name: 'Nothing begins outside',
  verdict: 'deny',
  from: ['198.51.100.0/24', '203.0.113.0/24'],
});
const LET_IN = rule({
  id: 'published p',
  name: 'Published: Shop',
  from: OUTSIDE.from,
  to: ['10.9.10.20'],
  services: [{ protocol: 'tcp', ports: ['8443'] }],
});

/** A gateway with a server behind it, and another elsewhere. */
function setUp(
  published: readonly PublishedDocument[],
  rules: readonly PolicyRule[] = [LET_IN, OUTSIDE],
  far: Partial<GatewayDocument> = {},
): World {
  const world = new World(FILE);
  const run = (serial: string, net: string, more: Partial<GatewayDocument>): void => {
    const device = FILE.devices.find((each) => each.serial === serial)!;
    const document = factoryDocument(device) as GatewayDocument;
    world.run(
      serial,
      {
        ...document,
        ports: document.ports.map((port) => ({ ...port, untagged: 10 })),
        interfaces: [{ vlan: 10, name: 'Crew', address: `${net}.1/24` }],
        addressServices: [
          {
            ...{ vlan: 10, subnet: `${net}.0/24`, first: `${net}.20`, last: `${net}.30`, gateway: `${net}.1` },
            ...{ dns: [], leaseSeconds: 600, reservations: [{ mac: SERVER, address: `${net}.20`, name: 'shop' }] },
          },
        ],
        ...more,
      },
      {},
    );
  };
  const policy: PolicyDocument = { otherwise: 'allow', rules };
  const uplinks = ['wan1', 'wan2'].map((port) => ({ port, method: 'dhcp' as const, translate: true }));
  run('GW', '10.9.10', { published, policy, uplinks });
  run('FAR', '10.8.10', far);
  world.lease({ box: world.box('GW'), vlan: 10 }, SERVER);
  return world;
}
const ask = (world: World, target: string, port: number, protocol: 'tcp' | 'udp' = 'tcp') =>
  world.knock('198.51.100.66', target, { protocol, port });

test('somebody outside reaches what is published, at the uplinks that are said, and nothing else', () => {
  const world = setUp([shop({ ports: ['wan1'] })]);
  expect(ask(world, '203.0.113.9', 443)).toEqual({
    ok: true,
    why: '203.0.113.9 leads to 10.9.10.20. 10.9.10.20 answers.',
  });
  expect(ask(world, '203.0.113.9', 80)).toMatchObject({
    ok: false,
    why: expect.stringContaining('publishes nothing at tcp 80'),
  });
  expect(ask(world, '203.0.113.9', 443, 'udp').ok).toBe(false);
  expect(ask(world, '198.51.100.9', 443).ok).toBe(false);
  expect(ask(world, '203.0.113.77', 443).why).toBe('Nobody has 203.0.113.77.');
});

test('rules that come first keep people out, and are told; without the rule of its own nobody is let in', () => {
  const first = rule({ id: 'f', name: 'Not from there', verdict: 'deny', from: ['198.51.100.66'] });
  const kept = ask(setUp([shop()], [first, LET_IN, OUTSIDE]), '203.0.113.9', 443);
  expect(kept).toMatchObject({ ok: false, stoppedBy: 'Not from there' });
  expect(ask(setUp([shop()], [OUTSIDE]), '203.0.113.9', 443)).toMatchObject({ stoppedBy: 'Nothing begins outside' });
  expect(ask(setUp([shop({ from: ['203.0.113.0/24'] })]), '203.0.113.9', 443).ok).toBe(false);
});

test('whoever knocks is counted by the rule of what is published', () => {
  const world = setUp([shop()]);
  const hits = (): number => world.hitsOf('GW').find((each) => each.rule === 'published p')?.packets ?? 0;
  const before = hits();
  expect(hits()).toBeGreaterThan(before);
});

test('whoever is inside reaches it under the address of outside where that is said, and finds only the gateway there else', () => {
  const inside = (world: World) =>
    world.asking.try('GW', { does: 'connect', port: '2', protocol: 'tcp', number: 443 }, '203.0.113.9');
  expect(inside(setUp([shop({ within: true })]))).toMatchObject({
    ok: true,
    text: expect.stringContaining('leads to 10.9.10.20'),
  });
  expect(inside(setUp([shop()]))).toMatchObject({ ok: false, text: expect.stringContaining('publishes nothing') });
  const kept = rule({ id: 'k', name: 'Tills keep away', verdict: 'deny', from: ['10.9.10.0/24'], to: ['10.9.10.20'] });
  expect(inside(setUp([shop({ within: true })], [kept, LET_IN, OUTSIDE]))).toMatchObject({
    ok: false,
    stoppedBy: 'Tills keep away',
  });
});

test('somebody at another site comes as the uplink of that site, while the link carries anything', () => {
  const world = setUp([shop({ from: ['203.0.113.20'] })]);
  const visit = () =>
    world.asking.try('FAR', { does: 'connect', port: '1', protocol: 'tcp', number: 443 }, '203.0.113.9');
  expect(visit()).toMatchObject({ ok: true, text: expect.stringContaining('203.0.113.9 leads to 10.9.10.20') });
  world.fares('Hillcrest Line', { silent: true });
  expect(visit().ok).toBe(true);
  world.fares('Tidewire', { silent: true });
  expect(ask(world, '203.0.113.9', 443)).toMatchObject({ ok: false, why: 'Nothing gets through to 203.0.113.9.' });
});

test('somebody is seen as what is said of whom leaves: one of a pool, or itself, whom nobody answers', () => {
  const seen = (as: TranslationDocument['as']): Partial<GatewayDocument> => ({
    translations: [{ id: 't', name: 't', port: 'wan1', from: ['10.8.10.0/24'], to: ['any'], as }],
  });
  const visit = (far: Partial<GatewayDocument>) =>
    setUp([shop({ from: ['203.0.113.24'] })], [LET_IN, OUTSIDE], far).asking.try(
      'FAR',
      { does: 'connect', port: '1', protocol: 'tcp', number: 443 },
      '203.0.113.9',
    );
  expect(visit({}).ok).toBe(false);
  expect(visit(seen({ pool: '203.0.113.24' })).ok).toBe(true);
  expect(visit(seen('itself')).text).toContain('wan1 does not translate 10.8.10.21: nobody outside can answer it');
});
