import type {
  ApDocument,
  GatewayDocument,
  RadiusServerDocument,
  SsidDocument,
  SwitchDocument,
} from '@iron-lattice/core/document';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { Enters } from '../world/enters';
import { factory, SMALL_WORLD } from '../world/small-world.fixture';
import { World } from '../world/world';
import { checkDirectory } from './directory-file';
import { DIRECTORY, SECRET } from './directory.fixture';
import { EntryDesk } from './entry-desk';

const servers = ['first', 'second'].map((name, i) => ({
  ...{ name: `${name}.test.example`, address: `198.51.100.9${i}`, port: 1812, accounting: 1813, secret: SECRET },
}));
const directory = checkDirectory({
  ...DIRECTORY,
  servers,
  users: {
    ...DIRECTORY.users,
    'pella.frew': { password: 'oar 5', filterId: 'Gulls' },
    'otto.line': { password: 'oar 6' },
  },
});
const PASSWORD = 'lantern fish 4';
const marn: Enters = { method: 'eap-ttls', user: 'marn.ellis', password: PASSWORD };
/** Clients by what each says to be. */
const SAID: Readonly<Record<string, Enters | undefined>> = {
  '02': marn,
  '03': { ...marn, method: 'peap', believes: 'stand-ins' },
  '04': { ...marn, method: 'eap-tls', password: '' },
  '05': { ...marn, method: 'eap-md5' },
  '06': { ...marn, password: 'lantern fish 5' },
  '07': { ...marn, user: 'pella.frew', password: 'oar 5' },
  '08': { ...marn, user: 'otto.line', password: 'oar 6' },
  '09': undefined,
};
const mac = (last: string): string => `0e:c4:60:00:00:${last}`;
const world = new World({
  ...structuredClone(SMALL_WORLD),
  air: { places: { A: [0, 0, 3] }, hurry: 0.001 },
  clients: Object.entries(SAID).map(([last, enters]) => ({
    ...{ mac: mac(last), near: 'A', ssid: 'Deck', ...(enters ? { enters } : { passphrase: 'gull tern kelp' }) },
  })),
});
const desk = new EntryDesk(world, directory);
const [one, two] = desk.standIns as [(typeof desk.standIns)[number], (typeof desk.standIns)[number]];
beforeAll(async () => {
  await desk.listen(0);
  const face = (vlan: number) => ({ vlan, name: `VLAN ${vlan}`, address: `10.0.${vlan}.1/24` });
  const service = (vlan: number) => ({
    ...{ vlan, subnet: `10.0.${vlan}.0/24`, first: `10.0.${vlan}.20`, last: `10.0.${vlan}.99` },
    ...{ gateway: `10.0.${vlan}.1`, dns: [], leaseSeconds: 3600 },
  });
  const gateway: GatewayDocument = {
    ...(factory('GW') as GatewayDocument),
    ports: [{ name: '1', untagged: 1, tagged: [7, 8] }],
    ...{ interfaces: [face(1), face(7), face(8)], addressServices: [service(1), service(7), service(8)] },
  };
  world.run('GW', gateway, {});
  const carries = (name: string) => ({ name, untagged: 1, tagged: [7, 8] });
  world.run('SW', { ...(factory('SW') as SwitchDocument), ports: [carries('1'), carries('9')] }, {});
});
afterAll(() => desk.close());
beforeEach(() => {
  for (const each of desk.standIns) each.mood = null;
});

const asked = (name: string, order: number, change: Partial<RadiusServerDocument> = {}): RadiusServerDocument => ({
  ...{ name, address: `${name}.test.example`, port: 1812, secret: { secret: 's' }, order },
  ...{ timeout: 0.5, tries: 1, dead: 3600, macs: 'colon_lower', ...change },
});
/** Runs an AP with an SSID that asks who somebody is, once all its clients were asked for. */
async function sends(
  change: Partial<SsidDocument> = {},
  told = [asked('first', 1), asked('second', 2)],
): Promise<void> {
  desk.classes.forget('A');
  const ssid: SsidDocument = {
    ...{
      id: 'd',
      name: 'Deck',
      security: 'wpa2-wpa3-enterprise',
      bands: ['2.4', '5'],
      vlan: 8,
      byClass: true,
      ...change,
    },
  };
  const document: ApDocument = {
    ...(factory('A') as ApDocument),
    ports: [{ name: 'lan', untagged: 1, tagged: [7, 8] }],
    ssids: [ssid],
    classes: [{ id: 'crew', name: 'Crew', vlan: 7, members: [mac('08')] }],
    ...(told.length === 0 ? {} : { radius: { servers: told, segments: [{ vlan: 7, name: 'Crew' }] } }),
  };
  world.run('A', document, { s: SECRET });
  const box = world.box('A');
  for (const [last, enters] of Object.entries(SAID))
    if (enters) await desk.classes.settled(box, mac(last), 'Deck', { enters });
}
/** What became of each client. */
const fared = (): Readonly<Record<string, string>> => ({
  ...Object.fromEntries(
    world
      .clientsOf('A')
      .map(({ mac: of, vlan, address, entered, named }) => [
        of.slice(-2),
        `${vlan}${address === null ? ' without address' : ''} ${entered?.method} ${entered?.server}${named ? ` ${named.classId}` : ''}`,
      ]),
  ),
  ...Object.fromEntries(
    world
      .refusedOf('A')
      .map(({ mac: of, why, server, said }) => [of.slice(-2), ['not', why, server, said].filter(Boolean).join(' ')]),
  ),
});

test('each joins by who it proves to be, with keys of its method; a MAC address counts for nothing there', async () => {
  await sends();
  expect(fared()).toEqual({
    '02': '7 eap-ttls first crew',
    '03': '7 peap first crew',
    '04': '7 eap-tls first crew',
    '05': 'not keyless first',
    '06': 'not rejected first',
    '07': 'not class first Gulls',
    '08': '8 eap-ttls first', // its MAC address is on a list, and the server names no class
    '09': 'not security',
  });
  await sends({ byClass: undefined as never });
  expect(fared()).toMatchObject({ '02': '8 eap-ttls first', '07': '8 eap-ttls first' });
});

test('192 bits take certificates alone; WPA3 is not for clients of before it', async () => {
  await sends({ security: 'wpa3-enterprise-192' });
  expect(fared()).toMatchObject({ '02': 'not security', '03': 'not security', '04': '7 eap-tls first crew' });
});

test('another server is asked while the first does not answer, and its own certificate is what is believed', async () => {
  one.mood = 'silent';
  await sends();
  expect(fared()).toMatchObject({
    '02': '7 eap-ttls second crew',
    '03': '7 peap second crew',
    '06': 'not rejected second',
  });
  two.mood = 'silent';
  await sends();
  expect(fared()).toMatchObject({ '02': 'not nobody', '04': 'not nobody' });
  await sends({}, []);
  expect(fared()).toMatchObject({ '02': 'not unasked' });
});

test('while servers are asked, a client is neither in nor turned away', async () => {
  one.mood = 'slow';
  const done = sends({}, [asked('first', 1, { timeout: 3 })]);
  expect(fared()['02']).toBeUndefined();
  one.mood = null;
  desk.classes.forget('A');
  await done;
  await sends();
  expect(fared()['02']).toBe('7 eap-ttls first crew');
});

test('a seat is who it says to be, and is told why it is not', async () => {
  await sends();
  const tries = async (entry?: Enters) => {
    const probe = { ssid: 'Deck', does: 'ping', ...(entry ? { entry } : {}) } as const;
    await desk.learn('A', probe);
    return world.asking.try('A', probe, '10.0.7.1').text;
  };
  expect(await tries(marn)).toMatch(/^From 10\.0\.7\.\d+: 10\.0\.7\.1 answers\.$/);
  expect(await tries()).toBe('“Deck” asks who it is, and nobody says.');
  expect(await tries({ ...marn, password: 'no' })).toBe('marn.ellis is not let in: first turns it away.');
  expect(await tries(SAID['07'])).toBe('pella.frew is not let in: first names the class “Gulls”, which is not here.');
});
