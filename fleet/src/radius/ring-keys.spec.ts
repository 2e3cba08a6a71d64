import type { ApDocument, RadiusServerDocument, SsidDocument } from '@iron-lattice/core/document';
import { changeRequest, octetsOfText } from '@iron-lattice/core/radius';
import { pairwiseKey } from '@iron-lattice/core/wireless';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import { factory, SMALL_WORLD } from '../world/small-world.fixture';
import { World } from '../world/world';
import { checkDirectory } from './directory-file';
import { DIRECTORY, SECRET } from './directory.fixture';
import { EntryDesk } from './entry-desk';

const mac = (last: string): string => `0e:c4:60:00:00:${last}`;
const MASTER = pairwiseKey('slack water at noon', new TextEncoder().encode('Berths'));
const servers = ['first', 'second'].map((name, i) => ({
  ...{ name: `${name}.test.example`, address: `198.51.100.9${i}`, port: 1812, accounting: 1813, secret: SECRET },
}));
const directory = checkDirectory({
  ...{ ...DIRECTORY, servers },
  macs: {
    [mac('01')]: {
      keys: [{ key: 'berth one key' }, { key: 'berth seven key', vlan: 'Berth 7' }, { key: MASTER, vlan: '7' }],
    },
    [mac('02')]: { keys: [{ key: 'berth nine key', vlan: 'Berth 9' }] },
    [mac('03')]: { filterId: 'Crew' },
  },
});
/** What clients give: each MAC address, and a key. */
const GIVES: readonly (readonly [last: string, passphrase: string])[] = [
  ['01', 'berth seven key'],
  ['02', 'berth nine key'],
  ['03', 'berth one key'],
  ['04', 'berth one key'],
];
const world = new World({
  ...structuredClone(SMALL_WORLD),
  air: { places: { A: [0, 0, 3] }, hurry: 0.001 },
  clients: GIVES.map(([last, passphrase]) => ({ mac: mac(last), near: 'A', ssid: 'Berths', passphrase })),
});
const desk = new EntryDesk(world, directory);
const [one, two] = desk.standIns as [(typeof desk.standIns)[number], (typeof desk.standIns)[number]];
beforeAll(() => desk.listen(0));
afterAll(() => desk.close());
beforeEach(() => {
  for (const each of desk.standIns) each.mood = null;
});

const asked = (name: string, order: number): RadiusServerDocument => ({
  ...{ name, address: `${name}.test.example`, port: 1812, accounting: 1813, secret: { secret: 's' }, order },
  ...{ timeout: 0.5, tries: 1, dead: 3600, macs: 'colon_lower' },
});
/** Runs an AP whose keys servers name, once all its clients were asked for. */
async function sends(told = [asked('first', 1), asked('second', 2)]): Promise<void> {
  desk.classes.forget('A');
  const ssid: SsidDocument = {
    ...{ id: 'd', name: 'Berths', security: 'wpa2-psk', bands: ['2.4', '5'], vlan: 8 },
    ring: { asked: true, segments: [{ name: 'Berth 7', vlan: 7 }] },
  };
  const document: ApDocument = {
    ...(factory('A') as ApDocument),
    ports: [{ name: 'lan', untagged: 1, tagged: [7, 8] }],
    ssids: [ssid],
    ...(told.length === 0 ? {} : { radius: { servers: told, segments: [] } }),
  };
  world.run('A', document, { s: SECRET });
  for (const [last, gives] of GIVES) await desk.classes.settled(world.box('A'), mac(last), 'Berths', { gives });
}
/** What became of each client. */
const fared = (): Readonly<Record<string, string>> => ({
  ...Object.fromEntries(world.clientsOf('A').map((each) => [each.mac.slice(-2), `${each.vlan} by ${each.keyedBy}`])),
  ...Object.fromEntries(
    world
      .refusedOf('A')
      .map(({ mac: of, why, server, said }) => [of.slice(-2), ['not', why, server, said].filter(Boolean).join(' ')]),
  ),
});

test('who gives a key that the server names joins where that leads; the others are told apart', async () => {
  await sends();
  expect(fared()).toEqual({
    '01': '7 by first',
    '02': 'not nowhere first Berth 9',
    '03': 'not passphrase first', // let in, and no key is named
    '04': 'not rejected first',
  });
  const requests = one.seen.map(({ user, attributes }) => ({ user, said: JSON.stringify(attributes) }));
  expect(requests.some(({ user, said }) => user === mac('01') && said.includes('Call Check'))).toBe(true);
  // What is given goes nowhere: it is compared with what the answer names.
  expect(JSON.stringify(requests)).not.toContain('berth seven key');
});

test('the next server is asked while one does not answer; without any, nobody is let in', async () => {
  one.mood = 'silent';
  await sends();
  expect(fared()).toMatchObject({ '01': '7 by second', '04': 'not rejected second' });
  two.mood = 'silent';
  await sends();
  expect(fared()).toMatchObject({ '01': 'not nobody' });
  await sends([]);
  expect(fared()).toMatchObject({ '01': 'not unasked' });
});

test('its session is accounted where its key is known, is ended by that server, and keeps the segment of its key', async () => {
  one.seen.length = 0;
  await sends();
  world.clientsOf('A');
  await expect.poll(() => one.seen.map(({ words }) => words)).toContain('accounted');
  const sitting = world.sittings.sittingsAt('A').find((each) => each.mac === mac('01'))!;
  expect(sitting).toMatchObject({ vlan: 7, keyedBy: 'first' });
  const box = world.box('A');
  const answers = (className: string | null): number => {
    const wanted = { device: box.document.device.name, mac: mac('01'), user: null, className };
    const { bytes } = changeRequest(wanted, 7, octetsOfText(SECRET), Date.now() / 1000);
    return desk.changes.judge(box, bytes)![0]!;
  };
  expect(answers('Crew')).toBe(45); // CoA-NAK (RFC 5176 §3.1)
  expect(world.clientsOf('A').find((each) => each.mac === mac('01'))).toMatchObject({ vlan: 7 });
  expect(answers(null)).toBe(41); // Disconnect-ACK
  expect(world.clientsOf('A').some((each) => each.mac === mac('01'))).toBe(false);
});

test('the controller, which keeps no keys at its server, is not asked for them', async () => {
  await sends([{ ...asked('own', 0), own: true, address: '' }, asked('second', 2)]);
  expect(fared()).toMatchObject({ '01': '7 by second' });
  expect(desk.classes.serversOf(world.box('A')).map(({ name }) => name)).toEqual(['second']);
});

test('a seat gives a key, the master key that is made of it too, and is told why it is not let in', async () => {
  await sends();
  const tries = async (gives?: string, as = '01') => {
    const probe = { ssid: 'Berths', mac: mac(as), does: 'ping', ...(gives === undefined ? {} : { gives }) } as const;
    await desk.learn('A', probe);
    return { vlan: world.asking.seat('A', probe)?.vlan, text: world.asking.try('A', probe, '10.0.7.1').text };
  };
  expect((await tries('berth one key')).vlan).toBe(8);
  expect((await tries('berth seven key')).vlan).toBe(7);
  expect((await tries('slack water at noon')).vlan).toBe(7);
  expect((await tries()).text).toBe('“Berths” asks for a key of its ring.');
  expect((await tries('berth ten key')).text).toBe('It is not let in: first names no such key for it.');
  expect((await tries('berth nine key', '02')).text).toContain('leads to “Berth 9”, which it does not here');
  expect((await tries('berth one key', '04')).text).toBe('It is not let in: first turns it away.');
});

test('an answer is told with where its keys lead, and never with a key', async () => {
  const entry = {
    server: { name: 'first', address: 'first.test.example', port: 1812, secret: SECRET, timeout: 1, tries: 1 },
    asked: { method: 'mac', user: mac('01'), password: '', mac: mac('01'), at: 'Berths', gives: 'berth one key' },
  } as const;
  const exchange = await desk.ask('A', { ...entry, server: { ...entry.server, macs: 'colon_lower' } });
  expect(exchange.ring).toEqual([
    { vlan: { kind: 'none', text: '' }, given: true },
    { vlan: { kind: 'name', text: 'Berth 7' } },
    { vlan: { kind: 'id', text: '7' } },
  ]);
  const told = JSON.stringify(exchange);
  for (const key of ['berth one key', 'berth seven key', MASTER]) expect(told).not.toContain(key);
});
