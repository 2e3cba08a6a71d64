import { generateKeyPairSync, verify } from 'node:crypto';
import { afterEach, expect, test, vi } from 'vitest';
import type { ApDocument, GatewayDocument, PortalDocument } from '@iron-lattice/core/document';
import { claimText, readWord, wordText } from '@iron-lattice/core/guests';
import { HeldGuests } from '../devices/held-guests';
import { leaseOf, openPage, smallWindow } from '../phone';
import type { Device } from '../devices/device';
import { factory, SMALL_WORLD } from './small-world.fixture';
import { NO_NAMER } from './named';
import { World } from './world';

const MAC = '0e:00:00:00:00:01';
const portal: PortalDocument = { id: 'p', name: 'Passengers', garden: ['tickets.example', '198.51.100.9'] };
const NAMES = { 'news.example': '198.51.100.7', 'tickets.example': '198.51.100.8' };

function setUp(more: Partial<PortalDocument> = {}, names: Readonly<Record<string, string>> = {}) {
  const world = new World({
    ...structuredClone(SMALL_WORLD),
    names: { ...NAMES, ...names },
    controller: '203.0.113.200',
    air: { places: { A: [0, 0, 3], [MAC]: [3, 0, 1] }, hurry: 0.001 },
    clients: [{ mac: MAC, near: 'A', ssid: 'Deck', bands: ['5'] }],
  });
  const gateway = factory('GW') as GatewayDocument;
  world.run('GW', gateway, {});
  const { vlan } = gateway.interfaces[0]!;
  const ap: ApDocument = {
    ...(factory('A') as ApDocument),
    radios: [{ band: '5', at: { channel: 36, width: 20, centre: 36 }, power: 20 }],
    ssids: [{ id: 's', name: 'Deck', security: 'open', bands: ['5'], vlan, portal: { ...portal, ...more } }],
  };
  world.run('A', ap, {});
  const said: object[] = [];
  const guests = new HeldGuests('A', world, (frame) => said.push(frame));
  guests.welcomed({ portal: 'http://127.0.0.1:8624' });
  const key = generateKeyPairSync('ed25519');
  const device = { wayIn: (who: never, url: string) => guests.wayIn(key.privateKey, who, url) } as unknown as Device;
  const open = (url: string) => openPage(world, new Map([['A', device]]), MAC, url);
  const told = (more: object) =>
    guests.take({ type: 'guests', portal: 'p', guests: [{ mac: MAC, in: true, ...more }] });
  return { world, guests, said, open, told, key };
}
afterEach(() => vi.useRealTimers());

test('before a guest is let in, names are looked up and nothing passes but to the portal and the walled garden', () => {
  const { open } = setUp();
  expect(open('http://tickets.example/').status).toBe(200);
  expect(open('http://198.51.100.9/').status).toBe(200);
  expect(open('http://203.0.113.200:8624/').status).toBe(200);
  expect(open('http://203.0.113.200:8620/').status).toBe(0); // the controller itself is no part of the portal
  expect(open('https://news.example/')).toMatchObject({ status: 0, text: expect.stringContaining('Held back by') });
  expect(open('http://nobody.example/')).toMatchObject({ status: 0, text: 'Nobody knows nobody.example.' });
});

test('what it asks for by HTTP is answered with a way to the portal, signed by the AP that holds it', () => {
  const { open, key } = setUp();
  const { status, location } = open('http://news.example/today?x=1');
  expect(status).toBe(302);
  const [payload, signature] = new URL(location!).searchParams.get('who')!.split('.');
  expect(verify(null, Buffer.from(claimText(payload!)), key.publicKey, Buffer.from(signature!, 'base64url'))).toBe(
    true,
  );
  expect(JSON.parse(Buffer.from(payload!, 'base64url').toString())).toMatchObject({
    ...{ serial: 'A', portal: 'p', mac: MAC, at: 'Deck', url: 'http://news.example/today?x=1' },
  });
  expect(open('http://news.example/today').location).not.toBe(location);
});

test('where its portal is one of HTTPS, a client that is held is told of it by DHCP, in word that its AP signed', () => {
  const { world, guests, key } = setUp();
  const who = { portal: '0f0e0d0c-0b0a-4908-8706-050403020100', mac: MAC };
  expect(guests.captiveUrl(key.privateKey, who)).toBeNull();
  guests.welcomed({ portal: 'https://guests.skerrow.example' });
  const url = guests.captiveUrl(key.privateKey, who)!;
  const [, payload, signature] = /^https:\/\/guests\.skerrow\.example\/captive\/(.+)\.(.+)$/.exec(url)!;
  expect(readWord(Buffer.from(payload!, 'base64url'))).toMatchObject({ serial: 'A', ...who });
  expect(verify(null, Buffer.from(wordText(payload!)), key.publicKey, Buffer.from(signature!, 'base64url'))).toBe(true);
  const device = { captiveUrl: (of: never) => guests.captiveUrl(key.privateKey, of) } as unknown as Device;
  const uuid = new Map([['A', device]]);
  expect(leaseOf(world, uuid, MAC)).toMatchObject({ at: 'Deck', address: expect.stringMatching(/^\d/) });
  // What does not fit into an option is left out.
  guests.welcomed({ portal: `https://${'guests.'.repeat(20)}skerrow.example` });
  expect(guests.captiveUrl(key.privateKey, who)).toBeNull();
});

test('a guest is asked for once, let in until its time or what it may take is over, and held again', () => {
  vi.useFakeTimers({ now: 1_800_000_000_000 });
  const { world, guests, said, open, told } = setUp();
  guests.look();
  guests.look();
  expect(said).toEqual([{ type: 'guests-ask', portal: 'p', macs: [MAC] }]);
  told({ until: Date.now() + 60_000 });
  expect(said.at(-1)).toEqual({ type: 'guests-told', portal: 'p', macs: [MAC] });
  expect(open('https://news.example/').status).toBe(200);
  vi.advanceTimersByTime(60_000);
  expect(open('https://news.example/').status).toBe(0);
  world.clientsOf('A');
  told({ left: 100_000 });
  expect(open('https://news.example/').status).toBe(200);
  vi.advanceTimersByTime(60_000); // at some 34 octets a millisecond that is far more than is left
  expect(open('https://news.example/').status).toBe(0);
  told({});
  expect(open('https://news.example/').status).toBe(200);
  guests.take({ type: 'guests', portal: 'p', guests: [{ mac: MAC, in: false, again: Date.now() + 5000 }] });
  expect(open('http://news.example/').status).toBe(302);
  const before = said.length;
  vi.advanceTimersByTime(5001); // its day begins anew
  expect(said.slice(before)).toEqual([{ type: 'guests-ask', portal: 'p', macs: [MAC] }]);
});

test('outside its hours a portal lets nobody in whom the controller does, by the clock of its site', () => {
  vi.useFakeTimers({ now: Date.parse('2026-12-01T12:00Z') });
  const day = { name: 'Day', times: [{ days: [1, 2, 3, 4, 5], from: '08:00', to: '18:00' }] } as const;
  const { open, told } = setUp({ hours: day });
  told({});
  expect(open('https://news.example/').status).toBe(200);
  vi.setSystemTime(Date.parse('2026-12-01T20:00Z'));
  expect(open('https://news.example/')).toMatchObject({ status: 0, text: expect.stringContaining('Held back by') });
});

test('a guest that left is forgotten, and asked for when it comes back', () => {
  const { world, guests, said, told } = setUp();
  guests.look();
  told({});
  world.lookFor(MAC, 'Elsewhere', {});
  guests.look();
  world.lookFor(MAC, 'Deck', {});
  guests.look();
  expect(said.filter((frame) => 'type' in frame && frame.type === 'guests-ask')).toHaveLength(2);
  expect(world.guests.isIn(world.box('A'), { portal, mac: MAC })).toBe(false);
});

test('a client by cable is held at its port as one on the air is, until it is let in there, and what it takes is counted', () => {
  const laptop = { mac: '0e:00:00:00:00:02', at: 'SW:4', name: 'laptop' };
  const world = new World({
    ...{ ...structuredClone(SMALL_WORLD), names: NAMES, controller: '203.0.113.200', clients: [laptop] },
  });
  const document = factory('SW');
  world.run('GW', factory('GW'), {});
  const port = document.ports.find(({ name }) => name === '4')!;
  const told = { ...port, untagged: document.management.vlan, tagged: [], portal };
  world.run('SW', { ...document, ports: document.ports.map((each) => (each === port ? told : each)) }, {});
  const guests = new HeldGuests('SW', world, () => {});
  guests.welcomed({ portal: 'http://127.0.0.1:8624' });
  const { privateKey } = generateKeyPairSync('ed25519');
  const device = { wayIn: (who: never, url: string) => guests.wayIn(privateKey, who, url) } as unknown as Device;
  const open = (url: string) => openPage(world, new Map([['SW', device]]), laptop.mac, url);
  expect(world.guestsAt('SW')).toEqual([{ portal, mac: laptop.mac }]);
  expect(open('https://news.example/').status).toBe(0);
  expect(open('http://tickets.example/').status).toBe(200);
  const { status, location } = open('http://news.example/');
  expect(status).toBe(302);
  const [payload] = new URL(location!).searchParams.get('who')!.split('.');
  expect(JSON.parse(Buffer.from(payload!, 'base64url').toString())).toMatchObject({ serial: 'SW', at: '4' });
  guests.take({ type: 'guests', portal: 'p', guests: [{ mac: laptop.mac, in: true }] });
  expect(open('https://news.example/').status).toBe(200);
  world.wiredOf('SW');
  expect(world.sittings.takenAt('SW')).toMatchObject([{ mac: laptop.mac }]);
});

test('whoever proves who it is at a port is held by none, or by the portal that its server names', () => {
  const laptop = { mac: '0e:00:00:00:00:02', at: 'SW:4', enters: { method: 'eap-ttls', user: 'u', password: 'p' } };
  const world = new World({ ...structuredClone(SMALL_WORLD), clients: [laptop as never] });
  const document = factory('SW');
  const port = document.ports.find(({ name }) => name === '4')!;
  const asks = { ...port, untagged: 1, tagged: [], auth: '802.1X' as const, guest: 1, portal };
  const named: PortalDocument = { id: 'q', name: 'Contractors' };
  const ports = document.ports.map((each) => (each === port ? asks : each));
  world.run('SW', { ...document, ports, radius: { servers: [], segments: [], portals: [named] } }, {});
  const says = (filterIds: string[] | null): void => {
    world.namer = {
      ...NO_NAMER,
      prove: () =>
        filterIds
          ? { ok: true, said: { filterIds, vlan: { kind: 'none', text: '' } }, server: 'Quay', keys: true }
          : { ok: false, why: 'rejected', server: 'Quay' },
    };
  };
  says([]);
  expect(world.guestsAt('SW')).toEqual([]);
  says(['contractors']);
  expect(world.guestsAt('SW')).toEqual([{ portal: named, mac: laptop.mac }]);
  says(null);
  world.run('SW', { ...document, ports: ports.map((each) => (each === asks ? { ...asks, rejected: 1 } : each)) }, {});
  expect(world.guestsAt('SW')).toEqual([{ portal, mac: laptop.mac }]); // it is put where guests are
});

test('whoever took what it may goes on at the rate that is told, and what it takes from then on is no more than that', () => {
  vi.useFakeTimers({ now: 1_000_000 });
  const { world, open, told } = setUp();
  told({ left: 30_000, slow: 8 });
  world.clientsOf('A');
  const took = (): number => world.sittings.takenAt('A').reduce((sum, { down, up }) => sum + down + up, 0);
  const before = took();
  vi.advanceTimersByTime(10_000); // at 272 kb/s
  expect(took() - before).toBeGreaterThan(300_000);
  expect(open('https://news.example/').status).toBe(200);
  const full = took();
  vi.advanceTimersByTime(10_000);
  expect(took() - full).toBe(20_000); // 8 kb/s each way
  told({ left: 0 });
  expect(open('https://news.example/').status).toBe(0);
});

test('the small window of a phone opens with where it is sent, and stays closed where what it looks at passes', () => {
  const window = (more: Partial<PortalDocument>, url: string): string | null => {
    const { world, guests, key } = setUp(more, { 'online.skerrow.example': '198.51.100.82' });
    guests.welcomed({ portal: url });
    const device = {
      wayIn: (who: never, page: string) => guests.wayIn(key.privateKey, who, page),
      captiveUrl: (of: never) => guests.captiveUrl(key.privateKey, of),
    } as unknown as Device;
    return smallWindow(world, new Map([['A', device]]), MAC);
  };
  const id = '0f0e0d0c-0b0a-4908-8706-050403020100';
  expect(window({}, 'http://127.0.0.1:8624')).toMatch(/^http:\/\/127\.0\.0\.1:8624\/\?who=/);
  expect(window({ id }, 'https://127.0.0.1:8624')).toMatch(/^https:\/\/127\.0\.0\.1:8624\/captive\//);
  const quiet = { id, quiet: true, garden: ['online.skerrow.example'] } as const;
  for (const url of ['http://127.0.0.1:8624', 'https://127.0.0.1:8624']) expect(window(quiet, url)).toBeNull();
});
