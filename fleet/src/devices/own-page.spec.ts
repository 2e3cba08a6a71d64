import { once } from 'node:events';
import type { AddressInfo } from 'node:net';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { WebSocketServer } from 'ws';
import { Fleet } from '../fleet';
import type { WorldFile } from '../world/world-file';
import { OwnPage, type Sent } from './own-page';

const ASKS = { vlan: 7, login: { user: 'line-58', password: 'gulls' } };
const worldOf = (asks: object): WorldFile => ({
  format: 'iron-lattice.world/1',
  devices: [
    { serial: 'GW', model: 'GW-3C', mac: '02:00:00:00:00:01', firmware: '1' },
    { serial: 'SW', model: 'SW-8P', mac: '02:00:00:00:00:02', firmware: '1' },
  ],
  cables: [['GW:1', 'SW:9']],
  providers: [{ name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.11' }, router: { 'GW:wan1': '203.0.113.9' }, asks }],
  clients: [],
});

let server: WebSocketServer;
let fleet: Fleet;
const begin = (asks: object): OwnPage => {
  const { port } = server.address() as AddressInfo;
  fleet = new Fleet(worldOf(asks), `ws://127.0.0.1:${port}`, null);
  return new OwnPage(fleet.device('GW'), fleet.world);
};
beforeEach(async () => {
  server = new WebSocketServer({ port: 0, host: '127.0.0.1', path: '/line' });
  await once(server, 'listening');
});
afterEach(() => {
  fleet.stop();
  server.close();
});

const sent = (fields: Record<string, string>, more: Partial<Sent> = {}): Sent => ({
  ...{ body: new URLSearchParams(fields).toString(), type: 'application/x-www-form-urlencoded', site: 'same-origin' },
  ...more,
});
const PPPOE = { port: 'wan1', way: 'pppoe', user: 'line-58', password: 'gulls', vlan: '7' };

test('a gateway whose provider wants more than DHCP calls once its own page was told what, with it in its proof', async () => {
  const page = begin(ASKS);
  fleet.start(['GW']);
  expect(fleet.world.reachesController('GW')).toBe(false);
  expect(page.answer('/', null).page).toContain('Nobody answers untagged.');
  const called = once(server, 'connection');
  expect(page.answer('/', sent(PPPOE))).toEqual({ status: 303, location: '/' });
  expect(page.answer('/', null).page).toContain('has 203.0.113.11.');
  const [line] = await called;
  const [hello] = (await once(line, 'message')) as [Buffer];
  expect(hello.toString()).not.toContain('gulls');
  line.send(JSON.stringify({ type: 'challenge', nonce: 'A'.repeat(43) + '=' }));
  const [proof] = (await once(line, 'message')) as [Buffer];
  expect(JSON.parse(proof.toString()).first).toEqual({
    ...{ port: 'wan1', way: 'pppoe', vlan: 7, login: { user: 'line-58', password: 'gulls' } },
  });
});

test('the page never shows the password, and keeps it for the same name alone', () => {
  const page = begin(ASKS);
  page.answer('/', sent(PPPOE));
  expect(page.answer('/', null).page).not.toContain('gulls');
  expect(page.answer('/', sent({ ...PPPOE, password: '' })).status).toBe(303);
  expect(fleet.device('GW').first?.login?.password).toBe('gulls');
  expect(page.answer('/', sent({ ...PPPOE, user: 'line-59', password: '' })).status).toBe(422);
});

const STATIC = { port: 'wan1', way: 'static', address: '203.0.113.11/29', gateway: '203.0.113.9' };
test('an address of its own is checked against its gateway, in words, with what was typed kept', () => {
  const page = begin({ fixed: true });
  const wrong = page.answer('/', sent({ ...STATIC, gateway: '203.0.113.99' }));
  expect(wrong.status).toBe(422);
  expect(wrong.page).toContain('The gateway 203.0.113.99 is outside of its subnet');
  expect(wrong.page).toContain('value="203.0.113.99"');
  expect(fleet.device('GW').first).toBeUndefined();
  expect(page.answer('/', sent(STATIC)).status).toBe(303);
  expect(fleet.world.reachesController('GW')).toBe(true);
});

test.each([
  ['from a page elsewhere', sent(STATIC, { site: 'cross-site' }), 403],
  ['in another form', sent(STATIC, { type: 'application/json' }), 400],
  ['too much', sent({ ...STATIC, dns: '9'.repeat(5000) }), 400],
  ['a way that there is not', sent({ ...STATIC, way: 'pigeon' }), 422],
  ['a port inside', sent({ ...STATIC, port: '1' }), 422],
  ['the modem by PPPoE', sent({ ...PPPOE, port: 'cell' }), 422],
  ['a script as a name', sent({ ...PPPOE, user: '<script>x</script>', vlan: 'x' }), 422],
])('what is sent %s sets nothing', (_what, what, status) => {
  const page = begin({ fixed: true });
  const answer = page.answer('/', what);
  expect(answer.status).toBe(status);
  expect(answer.page).not.toContain('<script>');
  expect(fleet.device('GW').first).toBeUndefined();
});

test('once a controller told it something the page sets nothing; a switch has none', () => {
  const page = begin({ fixed: true });
  const { document } = fleet.world.box('GW');
  const hash = 'a'.repeat(64);
  (fleet.device('GW') as unknown as { store: { keep(kept: object): void } }).store.keep({
    hash,
    document,
    secrets: {},
  });
  expect(page.answer('/', sent(STATIC)).status).toBe(409);
  expect(page.answer('/', null).page).not.toContain('<form');
  expect(new OwnPage(fleet.device('SW'), fleet.world).answer('/', null).status).toBe(404);
});
