import { execFile } from 'node:child_process';
import type { ApDocument, ClassDocument, GatewayDocument, RadiusServerDocument } from '@iron-lattice/core/document';
import { afterAll, beforeAll, beforeEach, expect, test, vi } from 'vitest';
import type { Enters } from '../world/enters';
import { factory, SMALL_WORLD } from '../world/small-world.fixture';
import { World } from '../world/world';
import { checkDirectory } from './directory-file';
import { DIRECTORY, SECRET } from './directory.fixture';
import { EntryDesk } from './entry-desk';

const servers = ['first', 'second'].map((name, i) => ({
  ...{ name: `${name}.test.example`, address: `198.51.100.9${i}`, port: 1812, accounting: 1813, secret: SECRET },
}));
const marn: Enters = { method: 'eap-ttls', user: 'marn.ellis', password: 'lantern fish 4' };
const [MARN, TILL, LISTED] = ['0e:c4:60:00:00:02', '0e:c4:60:00:00:01', '0e:c4:60:00:00:08'] as const;
const world = new World({
  ...structuredClone(SMALL_WORLD),
  air: { places: { A: [0, 0, 3] }, hurry: 0.001 },
  clients: [
    { mac: MARN, near: 'A', ssid: 'Deck', enters: marn, takes: [8000, 800] },
    { mac: TILL, at: 'SW:3', takes: [8000, 800] },
    { mac: LISTED, at: 'SW:4' },
  ],
});
const desk = new EntryDesk(world, checkDirectory({ ...DIRECTORY, servers }));
const [one, two] = desk.standIns as [(typeof desk.standIns)[number], (typeof desk.standIns)[number]];

const asked = (name: string, order: number): RadiusServerDocument => ({
  ...{ name, address: `${name}.test.example`, port: 1812, accounting: 1813, secret: { secret: 's' }, order },
  ...{ timeout: 0.3, tries: 1, dead: 3600, macs: 'none_lower' },
});
const CREW: ClassDocument = { id: 'crew', name: 'Crew', vlan: 7, members: [] };
const radius = { servers: [asked('first', 1), asked('second', 2)], segments: [{ vlan: 8, name: 'Ticketing' }] };

/** An AP and a switch ask who somebody is; each class as it is given. */
async function runs(crew: Partial<ClassDocument> = {}, tills: Partial<ClassDocument> = {}): Promise<void> {
  for (const serial of ['A', 'SW']) desk.classes.forget(serial);
  const classes: ClassDocument[] = [
    { ...CREW, ...crew },
    { id: 'tills', name: 'Tills', vlan: 8, members: [], ...tills },
    { id: 'listed', name: 'Listed', vlan: 7, members: [LISTED] },
  ];
  const carries = { untagged: 1, tagged: [7, 8] };
  const asks = { untagged: null, tagged: [], auth: 'mac' as const };
  const named = (serial: string, name: string) => {
    const document = factory(serial);
    return { ...document, device: { ...document.device, name } };
  };
  const sw = {
    ...named('SW', 'quay-sw'),
    ...{ classes, radius },
    ports: [
      { name: '1', ...carries },
      { name: '9', ...carries },
      { name: '3', ...asks },
      { name: '4', ...asks },
    ],
  };
  world.run('SW', sw, { s: SECRET });
  const ap = {
    ...named('A', 'quay-ap'),
    ...{ classes, radius, ports: [{ name: 'lan', ...carries }] },
    ssids: [{ id: 'd', name: 'Deck', security: 'wpa2-enterprise', bands: ['2.4', '5'], vlan: 8, byClass: true }],
  };
  world.run('A', ap as ApDocument, { s: SECRET });
  await desk.classes.settled(world.box('A'), MARN, 'Deck', { enters: marn });
  await desk.classes.settled(world.box('SW'), TILL, '3');
}
const onAir = () => world.clientsOf('A').find(({ mac }) => mac === MARN);
const wired = (mac: string) => world.wiredOf('SW').find((each) => each.mac === mac);
/** Kinds of accounting that a server heard of somebody, with why each ended. */
const heard = (server: typeof one, station: string): string[] =>
  server.seen.flatMap(({ attributes }) => {
    const of = (name: string): string | undefined => attributes.find((each) => each.name === name)?.value;
    const status = of('Acct-Status-Type');
    if (!status || of('Calling-Station-Id') !== station.toUpperCase().replaceAll(':', '-')) return [];
    return [[status, of('Acct-Terminate-Cause')].filter(Boolean).join(' ')];
  });
/** What a server was given back with accounting. */
const echoed = (server: typeof one): ReadonlySet<string | undefined> =>
  new Set(
    server.seen.flatMap(({ attributes }) =>
      attributes.some(({ name }) => name === 'Acct-Status-Type')
        ? [attributes.find(({ name }) => name === 'Class')?.value]
        : [],
    ),
  );
const last = (server: typeof one, name: string): string | undefined =>
  server.seen.at(-1)?.attributes.find((each) => each.name === name)?.value;

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
});
afterAll(() => desk.close());
beforeEach(() => {
  for (const each of desk.standIns) {
    each.mood = null;
    each.seen.length = 0;
  }
  world.hush(MARN, false);
});

test('a server is told when somebody it let in came, how it fared and when it ended; the next one while it is silent', async () => {
  await runs();
  expect(onAir()).toMatchObject({ vlan: 7, entered: { user: 'marn.ellis' } });
  await vi.waitFor(() => expect(heard(one, MARN)).toEqual(['Start']));
  // Six hundred seconds are less than one here.
  await vi.waitFor(() => expect(heard(one, MARN)).toContain('Interim-Update'), { timeout: 5000 });
  world.disconnect('A', MARN);
  expect(onAir()).toBeUndefined();
  await vi.waitFor(() => expect(heard(one, MARN).at(-1)).toMatch(/^Stop/));
  expect(Number(last(one, 'Acct-Output-Octets'))).toBeGreaterThan(Number(last(one, 'Acct-Input-Octets')));
  expect([last(one, 'User-Name'), last(one, 'Framed-IP-Address')]).toEqual(['marn.ellis', '10.0.7.20']);
  // What the server wanted back comes with each word, as it was given (RFC 2865 §5.25); another one is not told it.
  expect(echoed(one)).toEqual(new Set([Buffer.from('tariff 3').toString('hex')]));
  expect(heard(two, MARN)).toEqual([]);
  one.mood = 'silent';
  await vi.waitFor(() => expect(onAir()).toBeDefined());
  await vi.waitFor(() => expect(heard(two, MARN)).toContain('Start'), { timeout: 3000 });
  expect(echoed(two)).toEqual(new Set([undefined]));
  // Of somebody whom a list knows no server is told.
  expect(wired(LISTED)).toMatchObject({ vlan: 7 });
  expect([...heard(one, LISTED), ...heard(two, LISTED)]).toEqual([]);
});

test('what somebody takes is counted, and no more than the class lets them', async () => {
  const seconds = async (crew: Partial<ClassDocument>): Promise<number> => {
    await runs(crew);
    world.disconnect('A', MARN);
    onAir();
    await vi.waitFor(() => expect(onAir()).toBeDefined());
    await new Promise((resolve) => setTimeout(resolve, 300));
    onAir();
    const [taken] = world.sittings.takenAt('A');
    const { since } = onAir()!;
    return (taken!.down * 8) / 1000 / ((Date.now() - since!) / 1000);
  };
  expect(await seconds({})).toBeCloseTo(8000, -3);
  const client = { down: { kbps: 1000, burst: 12_500 } };
  expect((await seconds({ client })) / 1000).toBeCloseTo(1, 0);
  // At a port too.
  await runs({}, { client });
  expect(wired(TILL)).toMatchObject({ vlan: 8 });
  const before = world.sittings.takenAt('SW').find(({ mac }) => mac === TILL)!;
  const at = Date.now();
  await new Promise((resolve) => setTimeout(resolve, 300));
  const after = world.sittings.takenAt('SW').find(({ mac }) => mac === TILL)!;
  expect(((after.down - before.down) * 8) / (Date.now() - at) / 1000).toBeCloseTo(1, 0);
});

test('a class ends a session when its time is over, and when nothing is heard; it comes back, or once it speaks', async () => {
  await runs({ session: 300 });
  onAir();
  await vi.waitFor(() => expect(heard(one, MARN)).toContain('Stop Session Timeout'), { timeout: 5000 });
  await vi.waitFor(() => expect(onAir()).toBeDefined());
  await runs({ idle: 200 });
  onAir();
  await new Promise((resolve) => setTimeout(resolve, 300));
  expect(onAir()).toBeDefined();
  world.hush(MARN, true);
  onAir();
  await vi.waitFor(() => expect(heard(one, MARN)).toContain('Stop Idle Timeout'), { timeout: 5000 });
  await new Promise((resolve) => setTimeout(resolve, 100));
  expect(onAir()).toBeUndefined();
  world.hush(MARN, false);
  await vi.waitFor(() => expect(onAir()).toBeDefined());
});

test('a class has servers asked anew after its own time', async () => {
  await runs({ again: 0.2 });
  const asks = (): number =>
    one.seen.filter(
      ({ user, attributes }) => user === 'marn.ellis' && !attributes.some(({ name }) => name === 'Acct-Status-Type'),
    ).length;
  const before = asks();
  await vi.waitFor(
    () => {
      expect(onAir()).toBeDefined();
      expect(asks()).toBeGreaterThan(before);
    },
    { timeout: 3000 },
  );
});

/** What Debian's radclient makes of a change; it waits for the answer of this very process. */
const radclient = (kind: 'coa' | 'disconnect', attributes: readonly string[], secret = SECRET): Promise<string> =>
  new Promise((resolve) => {
    const to = `127.0.0.1:${desk.changes.port}`;
    const child = execFile('radclient', ['-x', '-r', '1', '-t', '1', to, kind, secret], (_error, stdout, stderr) =>
      resolve(`${stdout}${stderr}`),
    );
    child.stdin!.end([...attributes, 'Message-Authenticator = 0x00', ''].join('\n'));
  });

test('a server ends and changes what it let in, as radclient sends it; what names nobody, nothing or no class is told apart', async () => {
  await runs();
  expect(onAir()).toMatchObject({ vlan: 7 });
  const { name } = world.box('A').document.device;
  const at = `NAS-Identifier = "${name}"`;
  const station = `Calling-Station-Id = "${MARN.toUpperCase().replaceAll(':', '-')}"`;
  const [session] = world.sittings.sittingsAt('A');
  const changed = await radclient('coa', [at, station, 'Filter-Id = "tills"']);
  expect(changed).toContain('CoA-ACK');
  expect(onAir()).toMatchObject({ vlan: 8, entered: { user: 'marn.ellis' } });
  // It is the same session in another segment.
  expect(world.sittings.sittingsAt('A')).toMatchObject([{ id: session!.id, vlan: 8 }]);
  const nak = async (kind: 'coa' | 'disconnect', ...attributes: string[]): Promise<string | undefined> =>
    /Error-Cause = (\S+)/.exec(await radclient(kind, attributes))?.[1];
  expect(await nak('coa', at, station, 'Filter-Id = "Gulls"')).toBe('Invalid-Attribute-Value');
  expect(await nak('coa', at, station)).toBe('Missing-Attribute');
  expect(await nak('coa', at, 'Filter-Id = "Crew"')).toBe('Missing-Attribute');
  expect(await nak('disconnect', at, 'User-Name = "nobody"')).toBe('Session-Context-Not-Found');
  expect(await nak('disconnect', at, station, 'NAS-IP-Address = 192.0.2.9')).toBe('NAS-Identification-Mismatch');
  expect(await nak('coa', at, station, 'Framed-MTU = 1400', 'Filter-Id = "Crew"')).toBe('Unsupported-Attribute');
  const sw = `NAS-Identifier = "${world.box('SW').document.device.name}"`;
  const listed = `Calling-Station-Id = "${LISTED.replaceAll(':', '-')}"`;
  expect(await nak('coa', sw, listed, 'Filter-Id = "Tills"')).toBe('Administratively-Prohibited');
  // Who does not know the secret, and what says nothing of a device, is told nothing.
  expect(await radclient('disconnect', [at, station], 'another secret than theirs')).toMatch(/No reply/);
  expect(await radclient('disconnect', [station])).toMatch(/No reply/);
  expect(onAir()).toBeDefined();
  expect(await radclient('disconnect', [at, 'User-Name = "marn.ellis"'])).toContain('Disconnect-ACK');
  await vi.waitFor(() => expect(heard(one, MARN)).toContain('Stop Admin Reset'));
  // It is asked for anew, and has its own class again.
  await vi.waitFor(() => expect(onAir()).toMatchObject({ vlan: 7 }));
});
