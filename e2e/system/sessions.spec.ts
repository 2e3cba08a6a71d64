import { execFile } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate } from './estate';

type Json = Record<string, any>;
const PHONE = '0e:c4:11:00:01:43';
const MARN = { method: 'eap-ttls', user: 'marn.ellis', password: 'lantern fish 4' };
const SECRET = 'tide-bell-lantern-kelp-gannet-32';
const ids = { ssid: randomUUID(), crew: randomUUID(), night: randomUUID() };

let estate: Estate;
let siteId = '';
let deviceId = '';
beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  siteId = (await estate.site('Brinmouth')).id;
  const { roster } = await estate.siteDraft(siteId);
  deviceId = roster.find((each: Json) => each['name'] === 'bm-ap-01').id;
  const reach = { kind: 'sites', siteIds: [siteId] };
  const ssid = {
    ...{ id: ids.ssid, name: 'Skerrow Deck', security: 'wpa2-wpa3-enterprise', passphrase: null, bands: ['2.4', '5'] },
    ...{ segment: 'Passengers', byClass: true, caps: { client: { down: 5000 } }, reach },
  };
  const classOf = (id: string, name: string, segment: string, more: object = {}): object => ({
    type: 'class.add',
    accessClass: { id, name, segment, members: [], reach, ...more },
  });
  await estate.edit([
    classOf(ids.crew, 'Crew', 'Crew', { rate: { down: 40_000, up: 10_000 }, session: 480 }),
    classOf(ids.night, 'Night', 'Voice'),
    { type: 'ssid.add', ssid },
  ]);
});
afterAll(() => estate.end());

const gets = async (who: string, assumedId: string | null): Promise<Json> => {
  const { id } = await estate.draft();
  const { rows } = await estate.call('POST', `/api/drafts/${id}/gets`, { siteId, who, assumedId });
  return rows.find(({ place }: Json) => place['id'] === ids.ssid);
};
const tries = async (entry: object, assumedId: string | null): Promise<Json> => {
  const { id } = await estate.draft();
  const asked = { siteId, who: MARN.user, assumedId, place: { ssidId: ids.ssid }, entry };
  return estate.call('POST', `/api/drafts/${id}/gets/try`, asked);
};

test('what somebody would get is computed before any device hears of it, and reality is held against it', async () => {
  expect(await gets('marn.ellis', ids.crew)).toMatchObject({
    ...{ how: 'Who they are (802.1X)', server: 'Skerrow accounts', assumed: true, stops: null },
    ...{ accessClass: { name: 'Crew' }, segment: { name: 'Crew', vlan: 10 }, session: 480 },
    ...{ down: { kbps: 40_000 }, up: { kbps: 10_000 } },
  });
  const row = await gets('marn.ellis', ids.crew);
  expect(row['reach'].find(({ kind }: Json) => kind === 'internet')).toMatchObject({ reach: 'all' });
  expect((await gets('0e:c4:11:00:01:43', null))['stops']).toMatch(/proves nothing there/);

  expect(await tries(MARN, ids.crew)).toMatchObject({ accessClass: 'Crew', segment: 'Crew', stops: null, differs: [] });
  // Taken to be of another class than the server says, and with a wrong password: it is shown where reality differs.
  expect((await tries(MARN, ids.night))['differs']).toEqual([
    'They get the class “Crew”, and were to get the class “Night”.',
    'They are in Crew, and were to be in Voice.',
  ]);
  const wrong = await tries({ ...MARN, password: 'lantern fish 5' }, ids.crew);
  expect(wrong['differs']).toEqual([
    expect.stringMatching(/^They were to be let in, into Crew, and are not: “Skerrow accounts” turns them away/),
  ]);
  expect(JSON.stringify(wrong)).not.toMatch(/lantern/);
});

const client = async (): Promise<Json | undefined> =>
  (await estate.call('GET', `/api/sites/${siteId}/clients`)).find((each: Json) => each['mac'] === PHONE);
const isIn = (vlan: number): Promise<Json> =>
  estate.until(`the phone is in VLAN ${vlan}`, async () => {
    const found = await client();
    return found?.['vlan'] === vlan && found['entered'] && found['at'] && found;
  }) as Promise<Json>;
const heard = async (status: RegExp): Promise<boolean> => {
  const servers: Json[] = JSON.parse(await estate.radiusSeen());
  return servers.some(({ seen }) =>
    seen.some(({ attributes }: Json) => {
      const of = (name: string): string => attributes.find((each: Json) => each['name'] === name)?.value ?? '';
      const what = `${of('Acct-Status-Type')} ${of('Acct-Terminate-Cause')}`;
      return of('User-Name') === 'marn.ellis' && of('Acct-Session-Id') !== '' && status.test(what);
    }),
  );
};
const changes = async (classId: string | null): Promise<Json> => {
  const { at } = (await client())!;
  return estate.call('POST', `/api/devices/${at.deviceId}/session-changes`, { mac: PHONE, classId });
};

test('a session is accounted, changed and ended as its server would; by its server itself too; and counted anew after a restart', async () => {
  expect((await estate.rollOut(true)).state).toBe('done');
  await estate.tell({ do: 'look-for', mac: PHONE, ssid: 'Skerrow Deck', enters: { ...MARN, believes: 'stand-ins' } });
  await isIn(10);
  await estate.until('its server was told that it came', () => heard(/^Start/));
  const taken = async (): Promise<number> =>
    (await estate.call('GET', `/api/sites/${siteId}/taken`)).find((each: Json) => each['mac'] === PHONE)?.down ?? 0;
  const first = await estate.until('what it took is told', taken);
  await estate.until('more is told', async () => (await taken()) > first);

  const changed = await changes(ids.night);
  expect(changed).toMatchObject({ ok: true, server: 'Skerrow accounts' });
  expect(changed['packets'].map(({ name }: Json) => name)).toEqual(['CoA-Request', 'CoA-ACK']);
  expect(JSON.stringify(changed)).not.toContain(SECRET);
  await isIn(60);
  const { at } = (await client())!;
  const port = await estate.changesPort();
  const coa = await new Promise<string>((resolve) => {
    const child = execFile('radclient', ['-x', '-r', '1', `127.0.0.1:${port}`, 'coa', SECRET], (_no, out, err) =>
      resolve(`${out}${err}`),
    );
    const lines = [`NAS-Identifier = "${at.deviceName}"`, 'User-Name = "marn.ellis"', 'Filter-Id = "Crew"'];
    child.stdin!.end([...lines, 'Message-Authenticator = 0x00', ''].join('\n'));
  });
  expect(coa).toContain('CoA-ACK');
  await isIn(10);
  expect(await changes(null)).toMatchObject({
    ok: true,
    packets: [{ name: 'Disconnect-Request' }, { name: 'Disconnect-ACK' }],
  });
  await estate.until('its server was told why it ended', () => heard(/^Stop Admin Reset/));
  await isIn(10);

  await Promise.all([estate.stopController(), estate.stopFleet()]);
  await estate.startController();
  estate.startFleet();
  await estate.allInStep(siteId);
  await estate.tell({ do: 'look-for', mac: PHONE, ssid: 'Skerrow Deck', enters: { ...MARN, believes: 'stand-ins' } });
  await isIn(10);
  await estate.until('what it took is told again', taken);
});

test('how servers fare is told as devices find it, and what comes of one that dies is rehearsed before', async () => {
  const { estate: shared } = await estate.siteDraft(siteId);
  const [first] = shared.radius as Json[];
  const { id } = await estate.draft();
  const { rows, standing } = await estate.call(
    'GET',
    `/api/drafts/${id}/sites/${siteId}/radius/${first!['id']}/if-dead`,
  );
  expect(standing).toBeGreaterThan(0);
  expect(rows.find(({ where }: Json) => where === '“Skerrow Deck”')).toMatchObject({ next: 'Skerrow standby' });
  const health = async (name: string): Promise<Json | undefined> =>
    (await estate.call('GET', `/api/sites/${siteId}/server-health`)).find((each: Json) => each['name'] === name);
  expect(await health('Skerrow accounts')).toMatchObject({ silentFor: [] });
  await estate.tell({ do: 'radius', name: 'radius.skerrow.example', mood: 'silent' });
  expect(await changes(null)).toMatchObject({ ok: true });
  await estate.until(
    'an AP has no answer of it',
    async () => (await health('Skerrow accounts'))?.['silentFor'].length > 0,
  );
  // As was rehearsed, the other one is asked instead.
  await estate.until(
    'the other one let it in',
    async () => (await client())?.['entered']?.server === 'Skerrow standby',
  );
  await estate.tell({ do: 'radius', name: 'radius.skerrow.example', mood: null });
});

test('a class has its own rate at an AP, tried with a probe, and ends sessions', async () => {
  const tried = async (classId?: string): Promise<number> => {
    const asked = { band: '5', metres: 3, phy: 'HE', streams: 2, width: 80, ssid: ids.ssid };
    const more = classId === undefined ? {} : { classId };
    const { got } = await estate.call('POST', `/api/devices/${deviceId}/speed-tests`, { ...asked, ...more });
    return got.down;
  };
  expect(await tried()).toBeCloseTo(5, 0);
  expect((await tried(ids.crew)) / 40).toBeCloseTo(1, 1);
  // Eight hours are a moment here.
  await estate.tell({ do: 'hurry', share: 0.0001 });
  await estate.until('its session was over', () => heard(/^Stop Session Timeout/));
});
