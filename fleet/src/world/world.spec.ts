import { expect, test, vi } from 'vitest';
import type {
  ApDocument,
  DeviceDocument,
  GatewayDocument,
  Interface6Document,
  SwitchDocument,
} from '@iron-lattice/core/document';
import { readTimes, type PolicyRule } from '@iron-lattice/core/rules';
import { factoryDocument } from './factory-document';
import { World } from './world';
import { checkWorld, readWorld, type WiredClient, type WorldFile } from './world-file';

const FILE: WorldFile = {
  format: 'iron-lattice.world/1',
  devices: [
    { serial: 'GW', model: 'GW-4', mac: '02:00:00:00:00:01', firmware: '1' },
    { serial: 'SW', model: 'SW-8P', mac: '02:00:00:00:00:02', firmware: '1' },
    { serial: 'AP', model: 'AP-6', mac: '02:00:00:00:00:03', firmware: '1' },
    { serial: 'LONE', model: 'AP-6', mac: '02:00:00:00:00:04', firmware: '1' },
  ],
  cables: [
    ['GW:1', 'SW:9'],
    ['SW:1', 'AP:lan'],
  ],
  providers: [{ name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' } }],
  names: { 'timetable.example': '198.51.100.80' },
  clients: [
    { mac: '0e:00:00:00:00:01', near: 'AP', ssid: 'Deck', passphrase: 'right-one' },
    { mac: '0e:00:00:00:00:02', near: 'AP', ssid: 'Deck', passphrase: 'wrong-one' },
  ],
};
const ports = (document: DeviceDocument, change: Record<string, object>) =>
  document.ports.map((port) => ({ ...port, ...change[port.name] }));
const factory = <T extends DeviceDocument>(serial: string): T =>
  factoryDocument(FILE.devices.find((each) => each.serial === serial)!) as T;

/** A world whose gateway routes VLAN 10, whose AP sends an SSID in it, and whose switch carries it when told. */
function setUp(carried: boolean): World {
  const world = new World(FILE);
  const gateway = factory<GatewayDocument>('GW');
  world.run(
    'GW',
    {
      ...gateway,
      ports: ports(gateway, { '1': { tagged: [10] } }),
      interfaces: [...gateway.interfaces, { vlan: 10, name: 'Crew', address: '10.9.10.1/24' }],
      addressServices: [
        ...gateway.addressServices,
        {
          vlan: 10,
          subnet: '10.9.10.0/24',
          first: '10.9.10.20',
          last: '10.9.10.21',
          gateway: '10.9.10.1',
          dns: [],
          leaseSeconds: 600,
        },
      ],
    },
    {},
  );
  const ap = factory<ApDocument>('AP');
  const ssid = {
    id: 'i',
    name: 'Deck',
    security: 'wpa3-sae' as const,
    passphrase: { secret: 's' },
    bands: ['5' as const],
    vlan: 10,
  };
  world.run('AP', { ...ap, ports: ports(ap, { lan: { tagged: [10] } }), ssids: [ssid] }, { s: 'right-one' });
  const box = factory<SwitchDocument>('SW');
  world.run(
    'SW',
    { ...box, ports: ports(box, { '9': { tagged: [10] }, ...(carried ? { '1': { tagged: [10] } } : {}) }) },
    {},
  );
  return world;
}

test('boxes fresh from the factory reach the controller over cables and provider; one without a cable does not', () => {
  const world = new World(FILE);
  expect(['GW', 'SW', 'AP', 'LONE'].map((serial) => world.reachesController(serial))).toEqual([
    true,
    true,
    true,
    false,
  ]);
  expect(world.neighboursOf('SW')).toEqual([
    { port: '9', chassis: '02:00:00:00:00:01', theirPort: '1' },
    { port: '1', chassis: '02:00:00:00:00:03', theirPort: 'lan' },
  ]);
  expect(world.uplinksOf('GW')).toEqual([
    { port: 'wan1', up: true, address: '203.0.113.9', gateway: '203.0.113.1' },
    { port: 'wan2', up: false, address: null },
  ]);
});

test('a port that drops management cuts off what hangs on it, and only that; every change is told', () => {
  const world = setUp(true);
  const told: string[][] = [];
  world.onChange((serials) => told.push([...serials].sort()));
  const box = factory<SwitchDocument>('SW');
  world.run('SW', { ...box, ports: ports(box, { '1': { untagged: null } }) }, {});
  expect(['GW', 'SW', 'AP'].map((serial) => world.reachesController(serial))).toEqual([true, true, false]);
  expect(told).toEqual([['AP', 'GW', 'SW']]);
});

test('an outage or a pulled plug further in cuts off everything behind it', () => {
  const world = setUp(true);
  world.provider('Tidewire', false);
  expect(['GW', 'SW', 'AP'].map((serial) => world.reachesController(serial))).toEqual([false, false, false]);
  world.provider('Tidewire', true);
  world.power('SW', false);
  expect(['GW', 'SW', 'AP'].map((serial) => world.reachesController(serial))).toEqual([true, false, false]);
  expect(world.neighboursOf('AP')).toEqual([]);
});

test('a client with the right passphrase is given an address of its VLAN, and keeps it; a wrong one is not let in', () => {
  const world = setUp(true);
  const since: unknown = expect.any(Number);
  const wanted = [{ mac: '0e:00:00:00:00:01', ssid: 'Deck', vlan: 10, address: '10.9.10.20', since }];
  const first = world.clientsOf('AP');
  expect(first).toMatchObject(wanted);
  expect(world.clientsOf('AP')).toEqual(first);
  expect(world.leasesOf('GW')).toEqual([{ vlan: 10, mac: '0e:00:00:00:00:01', address: '10.9.10.20', since }]);
});

test('where the switch does not carry the VLAN the client associates and gets no address', () => {
  expect(setUp(false).clientsOf('AP')).toMatchObject([{ mac: '0e:00:00:00:00:01', vlan: 10, address: null }]);
});

test('pings are answered by gateways, leaseholders and the outside, and by nobody else', () => {
  const world = setUp(true);
  world.clientsOf('AP');
  const answers = ['192.168.1.1', '10.9.10.1', '10.9.10.20', '10.9.10.99', '198.51.100.1', 'x'].map((target) =>
    world.asking.ping('AP', target),
  );
  expect(answers).toEqual([true, true, true, false, true, false]);
});

test('a world file with a cable to nowhere or a field too many is refused', () => {
  expect(() => checkWorld({ ...FILE, cables: [['GW:1', 'NONE:1']] })).toThrow('cable end NONE:1 is at no device');
  expect(() => checkWorld({ ...FILE, weather: 'rain' })).toThrow('"weather" is not allowed');
  expect(readWorld('demo/skerrow.world.json').devices.length).toBeGreaterThan(30);
});

test('a fixed address counts only with the gateway that is there', () => {
  const world = setUp(true);
  const ap = factory<ApDocument>('AP');
  const address = { address: '192.168.1.77', length: 24, gateway: '192.168.1.1', dns: ['192.168.1.1'] };
  world.run('AP', { ...ap, management: { vlan: 1, address } }, {});
  expect([world.addressOf('AP'), world.reachesController('AP')]).toEqual(['192.168.1.77', true]);
  world.run('AP', { ...ap, management: { vlan: 1, address: { ...address, gateway: '192.168.1.9' } } }, {});
  expect(world.reachesController('AP')).toBe(false);
});

test('routes are traced and names looked up by way of the gateway, as long as it has an uplink', () => {
  const world = setUp(true);
  expect(world.asking.trace('AP', '198.51.100.80')).toEqual({
    hops: ['192.168.1.1', '203.0.113.1', '198.51.100.80'],
    arrived: true,
  });
  expect(world.asking.trace('AP', '192.168.1.1')).toEqual({ hops: ['192.168.1.1'], arrived: true });
  expect(world.asking.trace('AP', '10.99.0.1')).toEqual({ hops: ['192.168.1.1'], arrived: false });
  expect(world.asking.lookUp('AP', 'Timetable.example')).toEqual({ server: '192.168.1.1', address: '198.51.100.80' });
  world.provider('Tidewire', false);
  expect(world.asking.lookUp('AP', 'timetable.example')).toEqual({ server: '192.168.1.1', address: null });
  expect(world.asking.lookUp('LONE', 'timetable.example')).toEqual({ server: null, address: null });
});

test('a gateway sees the boxes behind it, and each knows which port leads out', () => {
  const world = setUp(true);
  expect(world.seenFrom('GW').map(({ device }) => device.serial)).toEqual(['GW', 'SW', 'AP']);
  expect(world.wayOut('SW')).toMatchObject({ port: '9', nextIp: '192.168.1.1', nextMac: '02:00:00:00:00:01' });
  expect(world.wayOut('AP')).toMatchObject({ port: 'lan' });
  expect(world.wayOut('GW')).toMatchObject({ port: 'wan1', address: '203.0.113.9' });
  expect(world.wayOut('LONE')).toBeNull();
});

test('a box put where another stood has its cables; the other has none', () => {
  const world = setUp(true);
  world.recable('AP', 'LONE');
  expect([world.reachesController('LONE'), world.reachesController('AP')]).toEqual([true, false]);
  expect(world.neighboursOf('SW').map((each) => each.chassis)).toContain('02:00:00:00:00:04');
  expect(world.neighboursOf('AP')).toEqual([]);
});

/** The world of above with a client on a cable, and what the gateway and the switch are told of VLAN 10. */
function served(
  gatewayExtra: Partial<GatewayDocument>,
  switchExtra: Partial<SwitchDocument> = {},
  more: Partial<WorldFile> = {},
  client: Partial<WiredClient> = {},
) {
  const wired = { mac: '0e:00:00:00:00:07', name: 'till-1', at: 'SW:3', watts: 6, ...client } as WiredClient;
  const world = new World({ ...FILE, ...more, clients: [wired] });
  const [gateway, plain] = [factory<GatewayDocument>('GW'), factory<SwitchDocument>('SW')];
  const faces = [...gateway.interfaces, { vlan: 10, name: 'Crew', address: '10.9.10.1/24' }];
  world.run(
    'GW',
    { ...gateway, ports: ports(gateway, { '1': { tagged: [10] } }), interfaces: faces, ...gatewayExtra },
    {},
  );
  world.run(
    'SW',
    { ...plain, ports: ports(plain, { '9': { tagged: [10] }, '3': { untagged: 10 } }), ...switchExtra },
    {},
  );
  return world;
}
const service = {
  vlan: 10,
  subnet: '10.9.10.0/24',
  first: '10.9.10.20',
  last: '10.9.10.21',
  gateway: '10.9.10.1',
  dns: [],
  leaseSeconds: 60,
};

test('a client on a cable is seen at its port, with its lease and its name, and draws power', () => {
  const world = served({ addressServices: [service] });
  expect(world.wiredOf('SW')).toMatchObject([{ mac: '0e:00:00:00:00:07', port: '3', vlan: 10 }]);
  expect(world.leasesOf('GW')).toMatchObject([{ vlan: 10, address: '10.9.10.20', name: 'till-1' }]);
  expect(world.portsOf('SW').find((port) => port.port === '3')).toEqual({ port: '3', up: true, speed: 1000, watts: 6 });
  expect(world.portsOf('SW').find((port) => port.port === '4')).toEqual({ port: '4', up: false });
});

test('a port that asks for proof lets nobody in who has none of that kind', () => {
  const asks = (auth: '802.1X' | 'mac', members: readonly string[] = [], vlan: number | null = 10) => {
    const world = served({ addressServices: [service] }, {}, {}, {});
    const box = factory<SwitchDocument>('SW');
    const classes = [{ id: 'c', name: 'Tills', vlan, members }];
    const untagged = auth === 'mac' ? null : 10;
    world.run('SW', { ...box, ports: ports(box, { '3': { untagged, auth }, '9': { tagged: [10] } }), classes }, {});
    return world;
  };
  for (const world of [asks('802.1X'), asks('mac'), asks('mac', ['0e:00:00:00:00:07'], null)]) {
    const before = world.leasesOf('GW').length;
    expect(world.wiredOf('SW')).toEqual([]);
    expect(world.leasesOf('GW')).toHaveLength(before);
  }
  const known = asks('mac', ['0e:00:00:00:00:07']);
  expect(known.wiredOf('SW')).toMatchObject([{ mac: '0e:00:00:00:00:07', port: '3', vlan: 10 }]);
  const seats = [undefined, '0e:00:00:00:00:07'].map((mac) =>
    known.asking.seat('SW', { port: '3', ...(mac ? { mac } : {}) }),
  );
  expect(seats.map((seat) => seat?.vlan)).toEqual([undefined, 10]);
});

test('a client makes its IPv6 address of what the gateway advertises, or is given one by DHCPv6', () => {
  const told = (face: Partial<Interface6Document>) =>
    served({
      addressServices: [service],
      interfaces6: [{ vlan: 10, address: '2001:db8:9:10::1/64', flags: 'none', ...face }],
    });
  const address6 = (world: World) => world.wiredOf('SW')[0]!.address6;
  expect(address6(told({}))).toBe('2001:db8:9:10:c00:ff:fe00:7');
  expect(address6(told({ flags: 'other' }))).toBe('2001:db8:9:10:c00:ff:fe00:7');
  const world = told({ flags: 'managed', first: '2001:db8:9:10::1', last: '2001:db8:9:10::ff' });
  expect(address6(world)).toBe('2001:db8:9:10::2'); // the gateway has the first
  expect(address6(world)).toBe('2001:db8:9:10::2');
  expect(address6(told({ vlan: 20 }))).toBeUndefined();
  expect(address6(served({ addressServices: [service] }))).toBeUndefined();
});

test.each([
  [
    'its reservation',
    { ...service, reservations: [{ mac: '0e:00:00:00:00:07', address: '10.9.10.9', name: '' }] },
    '10.9.10.9',
  ],
  [
    'none that is reserved for another',
    { ...service, reservations: [{ mac: '0e:00:00:00:00:08', address: '10.9.10.20', name: '' }] },
    '10.9.10.21',
  ],
  ['none that is excluded', { ...service, exclude: [{ first: '10.9.10.20', last: '10.9.10.20' }] }, '10.9.10.21'],
  [
    'one of a further range',
    {
      ...service,
      exclude: [{ first: '10.9.10.20', last: '10.9.10.21' }],
      also: [{ first: '10.9.10.50', last: '10.9.10.50' }],
    },
    '10.9.10.50',
  ],
])('a client is given %s', (_name, told, wanted) => {
  const world = served({ addressServices: [told] });
  world.wiredOf('SW');
  expect(world.leasesOf('GW').map((lease) => lease.address)).toEqual([wanted]);
});

test('a switch that serves answers first, and a gateway asks a server elsewhere when it can reach it', () => {
  const bySwitch = served({}, { addressServices: [{ ...service, own: '10.9.10.2' }] });
  bySwitch.wiredOf('SW');
  expect(bySwitch.leasesOf('SW').map((lease) => lease.address)).toEqual(['10.9.10.20']);
  const relays = (server: string) => {
    const world = served(
      { addressServices: [], relays: [{ vlan: 10, server }] },
      {},
      { addressServers: ['198.51.100.7', '10.77.0.1'] },
    );
    world.wiredOf('SW');
    return world.leasesOf('GW').map((lease) => lease.address);
  };
  expect(relays('198.51.100.7')).toEqual(['10.9.10.10']);
  expect(relays('10.77.0.1')).toEqual([]); // private, and in no subnet of the gateway
  expect(relays('198.51.100.8')).toEqual([]); // nobody answers there
});

test('an AP that translates gives its own clients addresses, and a pool parts them by MAC', () => {
  const clients = Array.from({ length: 40 }, (_, i) => ({
    mac: `0e:00:00:00:01:${i.toString(16).padStart(2, '0')}`,
    near: 'AP',
    ssid: 'Deck',
    passphrase: 'p',
  }));
  const world = new World({ ...FILE, clients });
  const ap = factory<ApDocument>('AP');
  const ssid = {
    id: 's',
    name: 'Deck',
    security: 'wpa2-psk' as const,
    passphrase: { secret: 'k' },
    bands: ['5'] as const,
  };
  world.run(
    'AP',
    {
      ...ap,
      ssids: [{ ...ssid, vlan: 10 }],
      interfaces: [{ vlan: 10, name: 'Deck', address: '10.9.10.1/24' }],
      addressServices: [{ ...service, last: '10.9.10.90' }],
    },
    { k: 'p' },
  );
  expect(world.clientsOf('AP')[0]).toMatchObject({ vlan: 10, address: '10.9.10.20' });
  expect(world.leasesOf('AP')).toHaveLength(40);
  world.run('AP', { ...ap, ssids: [{ ...ssid, vlan: 10, pool: [10, 20, 30] }] }, { k: 'p' });
  const first = world.clientsOf('AP').map((client) => client.vlan);
  expect(new Set(first).size).toBe(3);
  expect(world.clientsOf('AP').map((client) => client.vlan)).toEqual(first);
});

/** The same, with a policy at the gateway. */
function policed(...rules: PolicyRule[]): World {
  const world = setUp(true);
  const document = world.box('GW').document as GatewayDocument;
  world.run('GW', { ...document, policy: { otherwise: 'allow', rules } }, {});
  return world;
}
const denying = (from: string, to: string, more: Partial<PolicyRule> = {}): PolicyRule => ({
  id: `${from} ${to}`,
  name: `${from} to ${to}`,
  verdict: 'deny',
  from: [from],
  to: [to],
  services: [{ protocol: 'any' }],
  ...more,
});

test('a rule with hours is in force at them by the gateway’s clock, and not on a day that they leave out', () => {
  vi.useFakeTimers({ toFake: ['Date'] });
  const times = readTimes('Mon-Fri 08:00-18:00')!;
  const world = policed(denying('10.9.10.0/24', '198.51.100.0/24', { times, closed: ['2026-12-25'] }));
  world.clientsOf('AP');
  const answers = (now: string): boolean => {
    vi.setSystemTime(new Date(now));
    const seat = world.asking.seat('AP', { ssid: 'Deck' })!;
    return world.asking.get(seat, '198.51.100.80', { protocol: 'tcp', port: 80 }).ok;
  };
  expect(answers('2026-12-24T10:00:00Z')).toBe(false);
  expect(answers('2026-12-24T20:00:00Z')).toBe(true);
  expect(answers('2026-12-25T10:00:00Z')).toBe(true); // a Friday that is left out
  expect(answers('2027-01-01T10:00:00Z')).toBe(false); // and one that is not
  vi.useRealTimers();
});

test('a gateway lets through what its policy does, counts what each rule decides, and says which stopped it', () => {
  const world = policed(
    denying('10.9.10.0/24', '198.51.100.0/24', { services: [{ protocol: 'tcp', ports: ['443'] }] }),
  );
  world.clientsOf('AP'); // it is given its address
  const seat = world.asking.seat('AP', { ssid: 'Deck' })!;
  expect(world.asking.get(seat, '198.51.100.80', { protocol: 'icmp' }).ok).toBe(true);
  expect(world.asking.get(seat, '198.51.100.80', { protocol: 'tcp', port: 80 }).ok).toBe(true);
  expect(world.asking.get(seat, '198.51.100.80', { protocol: 'tcp', port: 443 })).toMatchObject({
    ok: false,
    why: expect.stringContaining('10.9.10.0/24 to 198.51.100.0/24') as string,
  });
  const [hit] = world.hitsOf('GW');
  // The one that asked, and the client that is there and says what it always says.
  expect(hit!.packets).toBeGreaterThanOrEqual(2);
});

test('a policy that closes a device’s way to the controller cuts it off, and only those it names', () => {
  const world = policed(denying('192.168.1.0/24', '203.0.113.200'));
  expect(['GW', 'SW', 'AP'].map((serial) => world.reachesController(serial))).toEqual([true, false, false]);
  const open = policed(denying('10.9.10.0/24', '203.0.113.200'));
  expect(['GW', 'SW', 'AP'].map((serial) => open.reachesController(serial))).toEqual([true, true, true]);
});

test('a rule with hours is in force by the clock of its site alone', () => {
  const days = [1, 2, 3, 4, 5, 6, 7];
  const now = new Date();
  const minute = now.getUTCHours() * 60 + now.getUTCMinutes();
  const text = (at: number): string =>
    `${String(Math.floor((at % 1440) / 60)).padStart(2, '0')}:${String(at % 60).padStart(2, '0')}`;
  const site = { name: 'Here', country: 'IE', timeZone: 'UTC' };
  const answers = (from: number, to: number): boolean => {
    const world = policed(denying('any', '198.51.100.80', { times: [{ days, from: text(from), to: text(to) }] }));
    const document = world.box('GW').document as GatewayDocument;
    world.run('GW', { ...document, site }, {});
    return world.asking.ping('AP', '198.51.100.80');
  };
  expect(answers(minute + 1380, minute + 60)).toBe(false); // from an hour ago to in an hour
  expect(answers(minute + 120, minute + 180)).toBe(true);
});

test('clients that are kept apart do not reach each other, and reach what is beyond the gateway', () => {
  const world = setUp(true);
  const [client] = world.clientsOf('AP');
  const seat = world.asking.seat('AP', { ssid: 'Deck' })!;
  expect(world.asking.get(seat, client!.address!, { protocol: 'icmp' }).ok).toBe(true);
  const ap = world.box('AP').document as ApDocument;
  world.run('AP', { ...ap, ssids: ap.ssids.map((ssid) => ({ ...ssid, isolated: true as const })) }, { s: 'right-one' });
  const apart = world.asking.seat('AP', { ssid: 'Deck' })!;
  expect(world.asking.get(apart, client!.address!, { protocol: 'icmp' })).toMatchObject({ ok: false });
  expect(world.asking.get(apart, '198.51.100.80', { protocol: 'icmp' }).ok).toBe(true);
});

test('a switch judges each packet by itself: a deny one way also stops what answers the other way', () => {
  const world = setUp(true);
  const document = world.box('SW').document as SwitchDocument;
  const listed = (from: string, to: string): void =>
    world.run('SW', { ...document, list: { otherwise: 'allow', rules: [denying(from, to)] } }, {});
  const ask = () =>
    world.asking.get(world.asking.seat('AP', { ssid: 'Deck' })!, '198.51.100.80', { protocol: 'tcp', port: 443 });
  listed('10.9.10.0/24', '198.51.100.81');
  expect(ask()).toMatchObject({ ok: true });
  listed('10.9.10.0/24', '198.51.100.80');
  expect(ask()).toMatchObject({ ok: false, why: expect.stringMatching(/^Stopped by/) as string });
  listed('198.51.100.80', '10.9.10.0/24');
  expect(ask()).toMatchObject({ ok: false, why: expect.stringMatching(/^The answer is stopped by/) as string });
  expect(world.hitsOf('SW')).toEqual([{ rule: '198.51.100.80 10.9.10.0/24', packets: 1 }]);
  listed('203.0.113.200', '192.168.1.0/24'); // what the controller answers
  expect(['GW', 'SW', 'AP'].map((serial) => world.reachesController(serial))).toEqual([true, false, false]);
});

test('an AP judges packets of the SSID alone that its lists are for, from clients and to them', () => {
  const world = setUp(true);
  const ap = world.box('AP').document as ApDocument;
  const told = (from: PolicyRule[], to: PolicyRule[], name = 'Deck'): void => {
    const lists = { from: { otherwise: 'allow', rules: from }, to: { otherwise: 'allow', rules: to } } as const;
    const ssids = ap.ssids.map((ssid) => (ssid.name === name ? { ...ssid, lists } : ssid));
    world.run('AP', { ...ap, ssids }, { s: 'right-one' });
  };
  const ask = (target = '198.51.100.80') =>
    world.asking.get(world.asking.seat('AP', { ssid: 'Deck' })!, target, { protocol: 'icmp' });
  const deny = denying('any', '198.51.100.80');
  told([deny], []);
  expect(ask()).toMatchObject({ ok: false, stoppedBy: deny.name });
  expect(ask('198.51.100.81').ok).toBe(true);
  told([deny], [], 'Another');
  expect(ask().ok).toBe(true);
  told([], [denying('198.51.100.80', 'any')]);
  expect(ask().why).toMatch(/^The answer is stopped by/);
  const [client] = world.clientsOf('AP');
  told([], [denying('any', client!.address!)]);
  expect(ask(client!.address!)).toMatchObject({ ok: false });
});

test('a rule that is to note what it decides leaves the packets, the newest last; others leave none', () => {
  const deny = denying('10.9.10.0/24', '198.51.100.0/24', {
    services: [{ protocol: 'tcp', ports: ['443'] }],
    log: true,
  });
  const world = policed(deny, denying('any', '198.51.100.99'));
  const seat = world.asking.seat('AP', { ssid: 'Deck' })!;
  world.asking.get(seat, '198.51.100.99', { protocol: 'icmp' });
  for (let i = 1; i <= 50; i++) world.asking.get(seat, `198.51.100.${i}`, { protocol: 'tcp', port: 443 });
  const notes = world.notesOf('GW');
  expect(notes).toHaveLength(40);
  expect(notes.at(-1)).toMatchObject({
    rule: deny.id,
    passed: false,
    packet: `${seat.address} → 198.51.100.50, TCP 443`,
  });
});

test('an AP puts a client that it knows into the VLAN of its class, and judges its packets by the lists of that', () => {
  const world = setUp(true);
  const ap = world.box('AP').document as ApDocument;
  const deny = denying('any', '198.51.100.80');
  const lists = { from: { otherwise: 'allow', rules: [deny] }, to: { otherwise: 'allow', rules: [] } } as const;
  const told = (vlan: number | null, byClass = true): void => {
    const classes = [{ id: 'c', name: 'Gates', vlan, members: ['0e:00:00:00:00:01'] }];
    const asks = byClass ? { byClass: true as const } : {};
    const ssids = ap.ssids.map((ssid) => ({ ...ssid, ...asks, classLists: [{ id: 'c', name: 'Gates', ...lists }] }));
    world.run('AP', { ...ap, ssids, classes }, { s: 'right-one' });
  };
  const seat = (mac?: string) => world.asking.seat('AP', { ssid: 'Deck', ...(mac ? { mac } : {}) });
  const ask = (mac?: string) => world.asking.get(seat(mac)!, '198.51.100.80', { protocol: 'icmp' });
  told(10);
  expect(world.clientsOf('AP').map(({ vlan }) => vlan)).toEqual([10]);
  expect(ask('0e:00:00:00:00:01')).toMatchObject({ ok: false, stoppedBy: deny.name });
  expect(ask().ok).toBe(true);
  expect(world.hitsOf('AP')).toEqual([{ rule: deny.id, packets: 1 }]);
  told(30);
  expect(world.clientsOf('AP')).toMatchObject([{ vlan: 30, address: null }]); // nobody routes that one
  told(null);
  expect(world.clientsOf('AP')).toEqual([]);
  expect([seat('0e:00:00:00:00:01'), seat()?.vlan]).toEqual([null, 10]);
  told(30, false);
  expect(world.clientsOf('AP').map(({ vlan }) => vlan)).toEqual([10]);
});

test('a client is at the AP it walks to, is sent away for a while, and says why it is not taken in', () => {
  const world = setUp(true);
  const [client] = world.clientsOf('AP');
  expect(client).toMatchObject({ band: '5', streams: 2 });
  expect(world.refusedOf('AP')).toMatchObject([{ why: 'passphrase' }]);
  expect(world.disconnect('AP', '0e:00:00:00:00:99')).toBe(false);
  expect(world.disconnect('AP', client!.mac)).toBe(true);
  expect(world.clientsOf('AP')).toEqual([]);
  expect(() => world.walk('0e:00:00:00:00:99', 'AP')).toThrow(RangeError);
});

test('a pretend client leaves by IPv6 where its prefix is one that a provider delegated, step by step as the routers answer', () => {
  const six = { 'GW:wan1': { network: '2001:db8:f1::/64', router: 'fe80::1', prefix: '2001:db8:9::/48' } };
  const of = (prefix: string, uplink: object = { six: 'prefix' }, more: Partial<GatewayDocument> = {}) =>
    served(
      {
        addressServices: [service],
        interfaces6: [{ vlan: 10, address: `${prefix}:10::1/64`, flags: 'none' }],
        uplinks: [{ port: 'wan1', method: 'dhcp', translate: true, ...uplink }],
        ...more,
      },
      {},
      { providers: [{ name: 'Tidewire', gives: { 'GW:wan1': '203.0.113.9' }, six }] },
    );
  const outside = '2001:db8:ffff::80';
  const tried = (world: World, does: 'ping' | 'trace' = 'ping', target = outside) =>
    world.asking.try('SW', { does, port: '3', mac: '0e:00:00:00:00:07' }, target);
  const world = of('2001:db8:9');
  expect(tried(world)).toEqual({ ok: true, text: `From 2001:db8:9:10:c00:ff:fe00:7: ${outside} answers.` });
  expect(tried(world, 'trace').text).toBe(`1  2001:db8:9:10::1\n2  fe80::1\n3  ${outside}`);
  expect(world.uplinksOf('GW')[0]).toMatchObject({ prefix: '2001:db8:9::/48' });
  expect(tried(world, 'ping', '2001:db8:9:10::1').ok).toBe(true);
  expect(tried(world, 'ping', '2001:db8:9:10::77').text).toContain('Nobody answers at 2001:db8:9:10::77.');
  expect(tried(of('2001:db8:8')).text).toContain('leaves by wan1, whose provider knows no way back to it');
  const shut = of('2001:db8:9', { six: 'prefix' }, { policy: { otherwise: 'deny', rules: [] } });
  expect(tried(shut)).toMatchObject({ ok: false, stoppedBy: 'no rule that allows it' });
  expect(tried(of('2001:db8:9', {})).text).toContain('no uplink with IPv6 that is up');
  expect(tried(served({ addressServices: [service] })).text).toBe('It has no address of IPv6.');
});
