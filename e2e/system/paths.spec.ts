import { randomUUID } from 'node:crypto';
import { noticedAfter, type DrillView, type SitePathsView } from '@iron-lattice/core/paths';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { Estate } from './estate';

type Json = Record<string, any>;

let estate: Estate;
let siteId = '';
let deviceId = '';
/** Quick enough for a test: asked every 0.4 s, gone after 2 that are lost, back after 2 that are good. */
const WATCH = {
  ...{ interval: 0.4, losses: 2, timeout: 0.2, good: 2, hold: 0.5 },
  targets: [{ by: 'ping', to: 'gateway' }],
};

beforeAll(async () => {
  estate = await Estate.start();
  await estate.signIn();
  await estate.allInStep();
  siteId = (await estate.site('Ansel Quay')).id;
  const { roster, site } = await estate.siteDraft(siteId);
  deviceId = roster.find(({ name }: Json) => name === 'aq-gw-01').id;
  const said = site.uplinks[deviceId];
  const set = (port: string, more: Json): Json => ({
    ...{ type: 'uplink.set', siteId, deviceId, port, from: said[port], to: { ...said[port], watch: WATCH, ...more } },
  });
  await estate.edit([
    set('wan1', {}),
    set('wan2', { role: 'standby' }),
    { type: 'uplink.leaving', siteId, deviceId, from: null, to: { back: 1 } },
  ]);
  await estate.rollOut();
});
afterAll(() => estate.end());

const paths = (): Promise<SitePathsView> => estate.call('GET', `/api/sites/${siteId}/paths`) as never;
const uses = (...ports: string[]): Promise<SitePathsView> =>
  estate.until(`leaves by ${ports.join()}`, async () => {
    const view = await paths();
    const used = view.gateways[0]!.uplinks.filter((each) => each.used).map(({ port }) => port);
    return used.join() === ports.join() && view;
  });
const courses = async (): Promise<string[]> =>
  (await paths()).gateways[0]!.courses!.map(({ uses, meets }) => `${uses.join()} ${meets}`);
const leaves = async (): Promise<string> =>
  (await estate.call('GET', '/api/estate')).sites.find(({ id }: Json) => id === siteId).paths;

test('a provider through which nothing gets is noticed by questions alone, the standby stands in, and all goes back', async () => {
  await uses('wan1');
  expect(await leaves()).toBe('whole');
  await estate.tell({ do: 'fares', name: 'Tidewire', silent: true });
  const view = await uses('wan2');
  expect(view.gateways[0]).toMatchObject({
    state: 'standby',
    uplinks: [{ port: 'wan1', state: 'gone' }, { used: true }],
  });
  expect(await leaves()).toBe('standby');
  // Whoever is behind it is served by the other.
  const ping = await estate.call('POST', `/api/devices/${deviceId}/commands`, { name: 'ping', target: '203.0.113.80' });
  expect(ping).toMatchObject({ ok: true });
  await estate.tell({ do: 'fares', name: 'Tidewire', silent: false });
  const back = await uses('wan1');
  expect(back.gateways[0]!.state).toBe('whole');
  const words = await estate.until('all of it stands in its history', async () => {
    const history = await estate.call('GET', `/api/devices/${deviceId}/history`);
    const said: string[] = history.map((each: Json) => each.words);
    return said.includes('It leaves by wan1.') && said;
  });
  expect(words).toEqual(
    expect.arrayContaining([
      'Uplink wan1 is gone: No answer 2 times in a row. It leaves by wan2.',
      'Uplink wan1 is good again. It leaves by wan2.',
      'It leaves by wan1.',
    ]),
  );
});

test('a link that is cut is seen at once, losses are borne, and the trace shows the other provider', async () => {
  await estate.tell({ do: 'fares', name: 'Tidewire', up: false });
  const view = await uses('wan2');
  expect(view.gateways[0]!.uplinks[0]).toMatchObject({ state: 'none', why: 'No link.', address: null });
  const trace = await estate.call('POST', `/api/devices/${deviceId}/commands`, {
    name: 'trace',
    target: '203.0.113.80',
  });
  expect(trace.text).toContain('198.51.100.1');
  await estate.tell({ do: 'fares', name: 'Tidewire', up: true });
  await uses('wan1');
});

test('a rehearsal is played live, and ends as it was computed', async () => {
  const forecast = await estate.call('POST', `/api/devices/${deviceId}/drill-forecasts`, {
    mishaps: [{ what: 'silent', port: 'wan1', from: 1, to: 6 }],
  });
  expect(forecast.worst.longest).toBeCloseTo(noticedAfter(WATCH).worst, 1);
  await estate.call('POST', `/api/devices/${deviceId}/drills`, {
    mishaps: [{ what: 'silent', port: 'wan1', from: 1, to: 6 }],
  });
  const refused = await estate.refused('POST', `/api/devices/${deviceId}/drills`, {
    mishaps: [{ what: 'cut', port: 'wan2', from: 0, to: 5 }],
  });
  expect(refused['title']).toMatch('plays something already');
  const drill = await estate.until('played to its end', async () => {
    const [last] = (await estate.call('GET', `/api/sites/${siteId}/drills`)) as unknown as DrillView[];
    const gone = last?.changes.findIndex(({ what }) => what === 'gone') ?? -1;
    return gone >= 0 && last!.changes.slice(gone).some(({ what }) => what === 'used') && last;
  });
  const at = (what: string): number =>
    (Date.parse(drill.changes.findLast((each) => each.what === what)!.at) - Date.parse(drill.at)) / 1000;
  const computed = (what: string): number => drill.predicted.noticed.find((each) => each.what === what)!.at;
  // Real clocks: a check falls somewhere within its interval, and this machine may be late.
  expect(Math.abs(at('gone') - computed('gone'))).toBeLessThan(WATCH.interval + 2);
  expect(Math.abs(at('back') - computed('back'))).toBeLessThan(WATCH.interval + 2);
  await uses('wan1');
});

test('a gateway plays that it is without power: it is away, begins anew, and says so once it is back', async () => {
  const mishaps = [{ what: 'off', port: '', from: 1, to: 5 }];
  const forecast = await estate.call('POST', `/api/devices/${deviceId}/drill-forecasts`, { mishaps });
  expect(forecast.mean).toMatchObject({ dark: 4, broken: 1 });
  const serial: string = (await estate.siteDraft(siteId)).roster.find(({ id }: Json) => id === deviceId).serial;
  await estate.call('POST', `/api/devices/${deviceId}/drills`, { mishaps });
  await estate.until('without power', async () => !(await estate.device(serial)).powered);
  const started = await estate.until('begun anew', async () => {
    const [last] = (await estate.call('GET', `/api/sites/${siteId}/drills`)) as unknown as DrillView[];
    const found = last?.changes.find(({ what }) => what === 'started');
    return found && (Date.parse(found.at) - Date.parse(last!.at)) / 1000;
  });
  expect(Math.abs(started - 5)).toBeLessThan(2);
  await uses('wan1');
  const history = await estate.call('GET', `/api/devices/${deviceId}/history`);
  expect(history.map(({ words }: Json) => words)).toContain('It has power again. It leaves by wan1.');
});

test('what an uplink can do is measured, and one that is gone cannot be', async () => {
  const measured = await estate.call('POST', `/api/devices/${deviceId}/uplink-capacity`, { port: 'wan2' });
  expect(measured['down']).toBeGreaterThan(230);
  expect(measured['down']).toBeLessThan(251);
  await estate.tell({ do: 'fares', name: 'Hillcrest Line', silent: true });
  const refused = await estate.refused('POST', `/api/devices/${deviceId}/uplink-capacity`, { port: 'wan2' });
  expect(refused['title']).toMatch('Nothing gets through wan2');
  await estate.tell({ do: 'fares', name: 'Hillcrest Line', silent: false });
});

test('tickets leave by one alone, and by nothing while that is gone; calls leave what is too slow for them, and come back', async () => {
  const { site } = await estate.siteDraft(siteId);
  const [tickets, calls] = site.courses.filter((each: Json) => each.deviceId === deviceId);
  const steady = { bad: 2, good: 3, margin: 0.1 };
  await estate.edit([
    { type: 'course.set', siteId, courseId: tickets.id, from: { ports: tickets.ports }, to: { ports: ['wan1'] } },
    {
      ...{ type: 'course.set', siteId, courseId: calls.id },
      from: { needs: calls.needs, steady: null, otherwise: calls.otherwise },
      to: { needs: { latency: 100 }, steady, otherwise: 'nothing' },
    },
  ]);
  await estate.rollOut();
  const leave = (...wanted: string[]) =>
    estate.until(`courses leave by ${wanted.join()}`, async () => (await courses()).join('; ') === wanted.join('; '));
  await leave('wan1 true', 'wan2 true');
  await estate.tell({ do: 'fares', name: 'Hillcrest Line', delay: 150 });
  await leave('wan1 true', 'wan1 true');
  await estate.tell({ do: 'fares', name: 'Hillcrest Line', delay: 0 });
  await leave('wan1 true', 'wan2 true');
  await estate.tell({ do: 'fares', name: 'Tidewire', up: false });
  await leave(' false', 'wan2 true');
  const { changes } = await paths();
  expect(changes.find(({ what, course }) => what === 'steered' && course === 'Tickets')).toMatchObject({ uses: [] });
  await estate.tell({ do: 'fares', name: 'Tidewire', up: true });
  await leave('wan1 true', 'wan2 true');
  // What is said survives a restart of the controller, and what is told of it comes again.
  await estate.stopController();
  await estate.startController();
  await estate.signIn();
  await leave('wan1 true', 'wan2 true');
});

test('what is published is reached from outside by whom it is for, counted, and by nobody once it is taken back', async () => {
  const knock = async (from: string, port = 8443, target = '203.0.113.11'): Promise<Json> =>
    (await fetch(`${estate.controlUrl}/knock/${from}/${target}/tcp/${port}`)).json() as never;
  const [agent, stranger] = ['203.0.113.70', '198.51.100.66'];
  expect(await knock(agent)).toMatchObject({
    ok: true,
    why: '203.0.113.11 leads to 10.10.30.12. 10.10.30.12 answers.',
  });
  expect(await knock(agent, 443)).toMatchObject({ ok: false });
  expect(await knock(stranger)).toMatchObject({ ok: false });
  const { site } = await estate.siteDraft(siteId);
  const [published] = site.publications;
  const set = (from: Json, to: Json): Json => ({
    ...{ type: 'publication.set', siteId, publicationId: published.id, from, to },
  });
  await estate.edit([set({ from: published.from }, { from: [{ kind: 'internet' }] })]);
  await estate.rollOut();
  await estate.until('strangers are let in', async () => (await knock(stranger))['ok']);
  const hits = await estate.until('counted', async () => {
    const all: Json[] = (await estate.call('GET', `/api/sites/${siteId}/rule-hits`)) as never;
    return all.find(({ ruleId, packets }) => ruleId === `published ${published.id}` && packets > 1);
  });
  expect(hits['lastAt']).not.toBeNull();
  // Somebody at another site comes as the uplink of that site, or as what is said there.
  const other = await estate.site('Dunmere Depot');
  const { roster } = await estate.siteDraft(other.id);
  const named = (name: string): string => roster.find((each: Json) => each.name === name).id;
  const visit = async (): Promise<boolean> => {
    const { id } = await estate.draft();
    const { live } = await estate.call('POST', `/api/drafts/${id}/sites/${other.id}/seat-tries`, {
      ...{ deviceId: named('dd-ap-01'), target: '203.0.113.11' },
      probe: { ssid: 'Skerrow Crew', does: 'connect', protocol: 'tcp', number: 8443 },
    });
    return live.ok;
  };
  expect(await visit()).toBe(true);
  const translation: Json = {
    ...{ id: randomUUID(), deviceId: named('dd-gw-01'), name: 'Pool', turn: 1, port: 'wan1', from: [{ kind: 'any' }] },
    ...{ to: [{ kind: 'internet' }], as: 'pool', pool: '198.51.100.90' },
  };
  await estate.edit([set({ from: [{ kind: 'internet' }] }, { from: [{ kind: 'addresses', text: '198.51.100.90' }] })]);
  await estate.rollOut();
  await estate.until('the uplink of the other site is let in no more', async () => !(await visit()));
  await estate.edit([{ type: 'translation.add', siteId: other.id, translation }]);
  await estate.rollOut();
  await estate.until('its pool is let in', visit);
  await estate.edit([set({ off: null }, { off: true })]);
  await estate.rollOut();
  await estate.until('nobody is let in', async () => {
    const { ok, why } = await knock('198.51.100.90');
    return !ok && why.includes('publishes nothing at tcp 8443');
  });
});

test('a provider delegates a prefix, what is inside is numbered of it by a mend, and leaves by IPv6 by that uplink alone', async () => {
  const { roster, site } = await estate.siteDraft(siteId);
  const said = site.uplinks[deviceId].wan1;
  const crew = site.segments.find(({ name }: Json) => name === 'Crew');
  const local = { prefix: 'fd00:10:10::/64', gateway: 'fd00:10:10::1', mode: 'slaac' };
  await estate.edit([
    { type: 'uplink.set', siteId, deviceId, port: 'wan1', from: said, to: { ...said, six: 'prefix' } },
    { type: 'segment.set', siteId, segmentId: crew.id, from: { v6: crew.v6 ?? null }, to: { v6: local } },
  ]);
  await estate.rollOut();
  const six = await estate.until('a prefix was given', async () => (await paths()).gateways[0]!.uplinks[0]!.six);
  expect(six).toMatchObject({ prefix: '2001:db8:1100::/56', gateway: 'fe80::1' });
  const visit = async (): Promise<Json> => {
    const { live } = await estate.call('POST', `/api/drafts/${(await estate.draft()).id}/sites/${siteId}/seat-tries`, {
      ...{ deviceId: roster.find(({ name }: Json) => name === 'aq-ap-01').id, target: '2001:db8:ffff::80' },
      probe: { ssid: 'Skerrow Crew', does: 'ping' },
    });
    return live;
  };
  expect((await visit())['text']).toContain('knows no way back');
  const found = await estate.until('it is found', async () => {
    const { consequences } = await estate.siteDraft(siteId);
    return consequences.findings.find(({ code }: Json) => code === 'uplink.six-outside');
  });
  expect(found).toMatchObject({ severity: 'info', message: 'Crew has no IPv6 to the internet' });
  await estate.edit(found.mend.operations);
  await estate.rollOut();
  const answered = await estate.until('it is answered', async () => {
    const live = await visit();
    return live['ok'] && live['text'];
  });
  expect(answered).toMatch(/^From 2001:db8:1100:10:\S+: 2001:db8:ffff::80 answers\.$/);
  const file = `/api/drafts/${(await estate.draft()).id}/sites/${siteId}/gateways/${deviceId}/uplinks/iproute2`;
  const script = await (await fetch(`${estate.address}${file}`, { headers: { cookie: estate.cookie } })).text();
  expect(script).toContain('ip -6 rule add from 2001:db8:1100::/56');
  // No other provider carries it.
  await estate.tell({ do: 'fares', name: 'Tidewire', up: false });
  await uses('wan2');
  expect((await visit())['ok']).toBe(false);
  await estate.tell({ do: 'fares', name: 'Tidewire', up: true });
});
