import type { GatewayDocument } from '@iron-lattice/core/document';
import type { PolicyDocument } from '@iron-lattice/core/rules';
import type { AskedServer } from '@iron-lattice/core/radius';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { factory, SMALL_WORLD } from '../world/small-world.fixture';
import { World } from '../world/world';
import { DIRECTORY, SECRET } from './directory.fixture';
import { EntryDesk } from './entry-desk';

const world = new World(structuredClone(SMALL_WORLD));
const desk = new EntryDesk(world, DIRECTORY);
const service = { vlan: 1, subnet: '10.0.1.0/24', first: '10.0.1.20', last: '10.0.1.99', gateway: '10.0.1.1' };
const gateway = (policy?: PolicyDocument): GatewayDocument => ({
  ...(factory('GW') as GatewayDocument),
  ports: [{ name: '1', untagged: 1, tagged: [] }],
  interfaces: [{ vlan: 1, name: 'Management', address: '10.0.1.1/24' }],
  addressServices: [{ ...service, dns: [], leaseSeconds: 3600 }],
  ...(policy ? { policy } : {}),
});
beforeAll(async () => {
  world.run('GW', gateway(), {});
  await desk.listen(0);
});
afterAll(() => desk.close());

const SERVER: AskedServer = {
  ...{ name: 'Quay', address: 'radius.test.example', port: 1812, secret: SECRET },
  ...{ timeout: 0.3, tries: 1, macs: 'none_lower' },
};
const asked = { method: 'pap', user: 'marn.ellis', password: 'lantern fish 4' } as const;
const ask = async (server: Partial<AskedServer> = {}, through?: string) => {
  const exchange = await desk.ask('A', { server: { ...SERVER, ...server }, asked, ...(through ? { through } : {}) });
  return `${exchange.end} ${exchange.address} ${exchange.sent}`;
};

test('an AP asks by the ways of its world, and by real packets from there', async () => {
  expect(await ask()).toBe('accepted 198.51.100.90 1');
  expect(await ask({ address: '198.51.100.90' })).toBe('accepted 198.51.100.90 1');
  expect(await ask({ address: 'radius.nowhere.example' })).toBe('unresolved null 0');
  expect(await ask({ port: 1912 })).toBe('closed 198.51.100.90 0');
  expect(await ask({ address: '10.0.1.77' })).toBe('unreachable 10.0.1.77 0');
  expect(await ask({ address: '127.0.0.1', port: desk.standIns[0]!.ports.auth })).toBe('accepted 127.0.0.1 1');
  const { packets } = await desk.ask('A', { server: SERVER, asked });
  const said = Object.fromEntries(packets[0]!.attributes.map(({ name, value }) => [name, value]));
  expect(said).toMatchObject({ 'NAS-Port-Type': 'Wireless 802.11', 'NAS-IP-Address': world.addressOf('A') });
});

test('through the gateway the gateway asks, where it answers', async () => {
  expect(await ask({}, '10.0.1.1')).toBe('accepted 198.51.100.90 1');
  expect(await ask({}, '10.0.9.1')).toBe('unreachable null 0');
});

test('a rule that stops the request is named, and the request never leaves', async () => {
  const seen = desk.standIns[0]!.seen.length;
  const rule = { id: 'r', name: 'no strangers', verdict: 'deny' as const, from: ['any'], to: ['198.51.100.0/24'] };
  world.run('GW', gateway({ otherwise: 'allow', rules: [{ ...rule, services: [{ protocol: 17 }] }] }), {});
  const { end, why } = await desk.ask('A', { server: { ...SERVER, address: '198.51.100.90' }, asked });
  expect([end, why]).toEqual(['unreachable', expect.stringContaining('no strangers')]);
  world.run('GW', gateway(), {});
  world.provider('Tidewire', false);
  expect(await ask({ address: '198.51.100.90' })).toBe('unreachable 198.51.100.90 0');
  expect(await ask()).toBe('unresolved null 0');
  world.provider('Tidewire', true);
  expect(desk.standIns[0]!.seen).toHaveLength(seen);
});
