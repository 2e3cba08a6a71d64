import type { GatewayDocument, PortDocument, RadiusServerDocument, SwitchDocument } from '@iron-lattice/core/document';
import { afterAll, beforeAll, beforeEach, expect, test } from 'vitest';
import type { Enters } from '../world/enters';
import { factory, SMALL_WORLD } from '../world/small-world.fixture';
import { World } from '../world/world';
import { checkDirectory } from './directory-file';
import { DIRECTORY, SECRET } from './directory.fixture';
import { EntryDesk } from './entry-desk';

const server = { address: '198.51.100.90', port: 1812, accounting: 1813, secret: SECRET };
const PHONE = '0e:c4:70:00:00:01';
const directory = checkDirectory({
  ...DIRECTORY,
  servers: [{ ...server, name: 'first.test.example' }],
  macs: { ...DIRECTORY.macs, [PHONE]: { filterId: 'Phones' } },
});
const marn: Enters = { method: 'peap', user: 'marn.ellis', password: 'lantern fish 4' };
/** At port 3: a crew laptop, a phone, a printer that nobody knows, and a laptop whose password is wrong; one after the other. */
const COMERS: Readonly<Record<string, Enters | undefined>> = {
  '0e:c4:60:00:00:11': marn,
  [PHONE]: undefined,
  '0e:c4:60:00:00:99': undefined,
  '0e:c4:60:00:00:12': { ...marn, password: 'lantern fish 5' },
};
const world = new World({
  ...structuredClone(SMALL_WORLD),
  clients: Object.entries(COMERS).map(([mac, enters]) => ({ mac, at: 'SW:3', ...(enters ? { enters } : {}) })),
});
const desk = new EntryDesk(world, directory);
const [standIn] = desk.standIns as [(typeof desk.standIns)[number]];
const VLANS = [7, 40, 60, 61, 62];
beforeAll(async () => {
  await desk.listen(0);
  const services = [1, ...VLANS].map((vlan) => ({
    ...{ vlan, subnet: `10.0.${vlan}.0/24`, first: `10.0.${vlan}.20`, last: `10.0.${vlan}.99` },
    ...{ gateway: `10.0.${vlan}.1`, dns: [], leaseSeconds: 3600 },
  }));
  const gateway: GatewayDocument = {
    ...(factory('GW') as GatewayDocument),
    ports: [{ name: '1', untagged: 1, tagged: VLANS }],
    interfaces: services.map(({ vlan }) => ({ vlan, name: `VLAN ${vlan}`, address: `10.0.${vlan}.1/24` })),
    addressServices: services,
  };
  world.run('GW', gateway, {});
});
afterAll(() => desk.close());
beforeEach(() => {
  standIn.mood = null;
});

/** Runs a switch whose port 3 asks, once all that hang there were asked for. @returns where each is, and who is not known and why. */
async function asks(change: Partial<PortDocument>, secret = SECRET): Promise<readonly string[]> {
  const told: RadiusServerDocument = {
    ...{ name: 'first', address: 'first.test.example', port: 1812, secret: { secret: 's' }, order: 1 },
    ...{ timeout: 0.3, tries: 1, dead: 3600, macs: 'colon_lower' },
  };
  desk.classes.forget('SW');
  const document: SwitchDocument = {
    ...(factory('SW') as SwitchDocument),
    ports: [
      { name: '3', untagged: null, tagged: [], auth: '802.1X-mac', ...change },
      { name: '9', untagged: 1, tagged: VLANS },
    ],
    classes: [
      { id: 'crew', name: 'Crew', vlan: 7, members: [] },
      { id: 'phones', name: 'Phones', vlan: 40, members: [] },
    ],
    radius: { servers: [told], segments: [{ vlan: 7, name: 'Crew' }] },
  };
  world.run('SW', document, { s: secret });
  const box = world.box('SW');
  for (const [mac, enters] of Object.entries(COMERS)) {
    if (enters) await desk.classes.settled(box, mac, '3', { enters });
    await desk.classes.settled(box, mac, '3');
  }
  const last = (mac: string): string => mac.slice(-5);
  return [
    ...world.wiredOf('SW').map(({ mac, vlan, fell, tagged, entered, named }) => {
      const how = [fell, tagged && 'tagged', entered && `${entered.user} by ${entered.method}`, named?.classId];
      return [last(mac), vlan, ...how].filter(Boolean).join(' ');
    }),
    ...world.unknownOf('SW').map(({ mac, why, server: by }) => [`${last(mac)}:`, why, by].filter(Boolean).join(' ')),
  ];
}

test('a port that asks who somebody is, else for a known MAC address, puts each where it belongs', async () => {
  expect(await asks({})).toEqual([
    '00:11 7 marn.ellis by peap crew',
    '00:01 40 phones',
    '00:99: mute',
    '00:12: rejected first',
  ]);
  expect(await asks({ auth: '802.1X' })).toEqual([
    '00:11 7 marn.ellis by peap crew',
    ...['00:01: mute', '00:99: mute', '00:12: rejected first'],
  ]);
  expect(await asks({ auth: 'mac' })).toEqual([
    '00:01 40 phones',
    ...['00:11: rejected first', '00:99: rejected first', '00:12: rejected first'],
  ]);
});

test('whom none of its ways knows falls to its segments for such, and comes back when it is known', async () => {
  const falls = { guest: 60, rejected: 61, unanswered: 62 };
  expect(await asks(falls)).toEqual([
    '00:11 7 marn.ellis by peap crew',
    '00:01 40 phones',
    ...['00:99 60 guest', '00:12 61 rejected', '00:99: mute', '00:12: rejected first'],
  ]);
  standIn.mood = 'silent';
  expect(await asks(falls)).toEqual([
    ...['00:11 62 unanswered', '00:01 62 unanswered', '00:99 62 unanswered', '00:12 62 unanswered'],
    ...['00:11: nobody', '00:01: nobody', '00:99: nobody', '00:12: nobody'],
  ]);
  standIn.mood = null;
  expect((await asks(falls))[0]).toBe('00:11 7 marn.ellis by peap crew');
});

test('one client, or one and a desk phone whose frames are tagged, are all that a port takes where that is said', async () => {
  expect(await asks({ hosts: 'one', guest: 60 })).toEqual([
    '00:11 7 marn.ellis by peap crew',
    ...['00:01: full', '00:99: full', '00:12: rejected first'],
  ]);
  expect(await asks({ hosts: 'phone', voice: 40, guest: 60 })).toEqual([
    '00:11 7 marn.ellis by peap crew',
    '00:01 40 tagged phones',
    ...['00:99: full', '00:12: rejected first'],
  ]);
});

test('a session that is ended is asked anew, and what the server says by then counts', async () => {
  await asks({ guest: 60 });
  const laptop = '0e:c4:60:00:00:11';
  const before = standIn.seen.at(-1);
  expect(world.disconnect('SW', '0e:c4:60:00:00:77')).toBe(false);
  standIn.mood = 'reject-all';
  expect(world.disconnect('SW', laptop)).toBe(true);
  world.wiredOf('SW'); // whoever looks finds it being asked for
  await desk.classes.settled(world.box('SW'), laptop, '3', { enters: marn });
  await desk.classes.settled(world.box('SW'), laptop, '3');
  expect(standIn.seen.at(-1)).not.toBe(before);
  expect(world.wiredOf('SW').some(({ mac }) => mac === laptop)).toBe(false);
  expect(world.unknownOf('SW').find(({ mac }) => mac === laptop)).toMatchObject({
    why: 'rejected',
    user: 'marn.ellis',
  });
});

test('a seat at such a port is who it says to be, and falls where others do', async () => {
  await asks({ guest: 60 });
  const tries = async (entry?: Enters): Promise<string> => {
    const probe = { port: '3', does: 'ping', ...(entry ? { entry } : {}) } as const;
    await desk.learn('SW', probe);
    return world.asking.try('SW', probe, '10.0.7.1').text;
  };
  expect(await tries(marn)).toMatch(/^From 10\.0\.7\.\d+: 10\.0\.7\.1 answers/);
  expect(await tries()).toMatch(/^From 10\.0\.60\./);
  expect(await tries({ ...marn, password: 'no' })).toBe('marn.ellis is not let in: first turns it away.');
});
