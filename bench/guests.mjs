// Guests: hundreds a second through the press-to-accept portal, thousands of visit codes, a hundred thousand visits, and a page on a phone.
import { generateKeyPairSync, randomBytes, randomUUID, sign } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { Agent, request } from 'node:http';
import pg from 'pg';
import { startController, stopChild } from '../tools/stack.mjs';
import { figure, pause, percentile } from './figures.mjs';
import { openBrowser } from './in-browser.mjs';
import { writeLargeEstate } from './large-estate.mjs';
import { signIn } from './lines.mjs';

const [A_SECOND, SECONDS, CODES, VISITS] = [200, 10, 10_000, 100_000];
/** A phone on 4G: octets a millisecond down and up, and milliseconds there and back. */
const PHONE = { down: 1125, up: 190, latency: 85 };

const key = generateKeyPairSync('ed25519');
const mac = (n) =>
  `0e:be:${[n >> 24, n >> 16, n >> 8, n].map((part) => (part & 255).toString(16).padStart(2, '0')).join(':')}`;

/** Word of the AP about a guest. */
function wordOf({ serial, portal }, n) {
  const claim = { serial, portal, mac: mac(n), at: 'SSID 1', said: Date.now(), nonce: randomBytes(16).toString('hex') };
  const payload = Buffer.from(JSON.stringify(claim)).toString('base64url');
  return `${payload}.${sign(null, Buffer.from(`iron-lattice guest 1\n${payload}`), key.privateKey).toString('base64url')}`;
}

/** A browser of a guest. */
function browserOf(origin, agent) {
  let cookie = '';
  return (method, path, form) =>
    new Promise((resolve, reject) => {
      const headers = { cookie, ...(form ? { 'content-type': 'application/x-www-form-urlencoded' } : {}) };
      const sent = request(`${origin}${path}`, { method, headers, agent }, (response) => {
        const [set] = response.headers['set-cookie'] ?? [];
        if (set) cookie = set.split(';')[0];
        let text = '';
        response.setEncoding('utf8');
        response.on('data', (chunk) => (text += chunk));
        response.on('end', () => resolve({ status: response.statusCode, text }));
      });
      sent.on('error', reject);
      sent.end(form);
    });
}

export async function benchGuests({ databaseUrl, folder }) {
  const { estate } = writeLargeEstate(folder, { sites: 1, devicesPerSite: 10, segments: 4 });
  const { child, url, portalUrl } = await startController({
    DATABASE_URL: databaseUrl,
    LATTICE_PORT: '0',
    LATTICE_SECRET_KEY: `${folder}/secret.key`,
    LATTICE_SEED: estate,
  });
  const client = new pg.Client({ connectionString: databaseUrl });
  await client.connect();
  try {
    const headers = { cookie: await signIn(url), 'content-type': 'application/json' };
    const call = async (method, path, body) => {
      const sent = body === undefined ? {} : { body: JSON.stringify(body) };
      const response = await fetch(url + path, { method, headers, ...sent });
      const text = await response.text();
      if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${text.slice(0, 300)}`);
      return text === '' ? null : JSON.parse(text);
    };
    const portal = randomUUID();
    await makeLive(call, portal);
    const spki = key.publicKey.export({ format: 'der', type: 'spki' }).toString('base64');
    const { rows } = await client.query(
      `UPDATE device SET public_key = $1 WHERE id = (SELECT id FROM device WHERE model = 'AP-6E' LIMIT 1) RETURNING serial, site_id`,
      [spki],
    );
    const ap = { serial: rows[0].serial, portal };
    await pressing(portalUrl, ap, child.pid);
    await codes(call, portal);
    await visits(client, url, headers, { portal, siteId: rows[0].site_id });
    await onPhone(portalUrl, ap);
  } finally {
    await client.end();
    await stopChild(child);
  }
}

/** Has a portal hold the guests of an SSID, live. */
async function makeLive(call, portal) {
  const { id: draftId, head } = await call('GET', '/api/drafts/current');
  const [site] = (await call('GET', '/api/estate')).sites;
  const { ssids } = (await call('GET', `/api/drafts/current/sites/${site.id}`)).estate;
  const fields = {
    ...{ name: 'Passengers', ways: ['accept', 'code'], visit: 480, garden: [], languages: ['en', 'de'], words: {} },
    ...{ ground: '#f4f1ea', accent: '#8c2f1b' },
  };
  const operations = [
    { type: 'portal.add', portal: { id: portal, ...fields } },
    { type: 'ssid.set', ssidId: ssids[0].id, from: { portal: null }, to: { portal } },
  ];
  await call('POST', `/api/drafts/${draftId}/operations`, { head, operations });
  // Its devices are away; who is sent to the portal meanwhile is one that was told already.
  await call('POST', '/api/rollouts', { draftId, despiteErrors: true });
}

/** Seconds that a process took of the processor until now (proc(5): utime and stime, in ticks of a hundredth). */
function cpuSeconds(pid) {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
  return (Number(fields[11]) + Number(fields[12])) / 100;
}

/** So many guests a second, whatever becomes of those before: the way from being sent there to being let in. */
async function pressing(origin, ap, pid) {
  const agent = new Agent({ keepAlive: true, maxSockets: 256 });
  const [wholes, presses] = [[], []];
  let failed = 0;
  let why;
  const guest = async (n) => {
    const ask = browserOf(origin, agent);
    const began = performance.now();
    await ask('GET', `/?who=${wordOf(ap, n)}`);
    const { text } = await ask('GET', '/');
    const proof = /name="proof" value="([^"]+)"/.exec(text)?.[1] ?? '';
    const pressed = performance.now();
    const { status } = await ask('POST', '/accept', `proof=${encodeURIComponent(proof)}`);
    const last = await ask('GET', '/');
    presses.push(performance.now() - pressed);
    wholes.push(performance.now() - began);
    if (status === 303 && last.text.includes('<h1>One moment')) return;
    failed++;
    why ??= `${status}, ${/<h1>([^<]*)/.exec(last.text)?.[1]}`;
  };
  for (let i = 0; i < 50; i++) await guest(1_000_000 + i); // warm
  wholes.length = presses.length = 0;
  const began = performance.now();
  const used = cpuSeconds(pid);
  const under = [];
  for (let i = 0; i < A_SECOND * SECONDS; i++) {
    const wait = (i * 1000) / A_SECOND - (performance.now() - began);
    if (wait > 1) await pause(wait);
    under.push(guest(i));
  }
  await Promise.all(under);
  const seconds = (performance.now() - began) / 1000;
  const cores = cpuSeconds(pid) - used;
  agent.destroy();
  if (failed > 0) throw new Error(`${failed} guests were not let in: ${why}`);
  figure(
    `guests let in, asked for ${A_SECOND} a second`,
    `${(under.length / seconds).toFixed(0)} a second`,
    `${A_SECOND} a second`,
  );
  figure(
    'the same by the controller’s own time on a core, while browsers and database share both',
    `${(under.length / cores).toFixed(0)} a second`,
    `${A_SECOND} a second`,
  );
  figure('press to “being let in”, p95', `${percentile(presses, 0.95).toFixed(0)} ms`, '200 ms or less');
  figure('sent there to “being let in”, four requests, p95', `${percentile(wholes, 0.95).toFixed(0)} ms`, '–');
}

async function codes(call, portalId) {
  const began = performance.now();
  const asked = {
    portalId,
    count: CODES,
    name: 'Crossing',
    runs: 'used',
    minutes: 1440,
    useBy: null,
    most: 1,
    siteIds: null,
  };
  const { codes: made } = await call('POST', '/api/codes', asked);
  const saved = performance.now() - began;
  await call('POST', '/api/codes/reveal', { ids: made.map(({ id }) => id) });
  const all = performance.now() - began;
  figure(`${CODES} visit codes made and saved`, `${saved.toFixed(0)} ms`, '–');
  figure('the same, and read again to be exported', `${all.toFixed(0)} ms`, '3,000 ms or less');
}

async function visits(client, url, headers, { portal, siteId }) {
  await client.query(
    `INSERT INTO visit (id, portal_id, site_id, place, mac, way, language, begun, until, ended_at)
     SELECT gen_random_uuid(), $1, $2, 'SSID 1', '0e:00:' || regexp_replace(lpad(to_hex(n), 8, '0'), '(..)(..)(..)(..)', '\\1:\\2:\\3:\\4'), 'accept', 'en', now() - n * interval '20 seconds',
       now(), now() FROM generate_series(1, $3) n`,
    [portal, siteId, VISITS],
  );
  await client.query('ANALYZE visit');
  for (const [what, query] of [
    [`the latest of ${VISITS} visits read`, ''],
    [`found among ${VISITS} visits by part of a device’s address`, '&find=0:00:1f'],
  ]) {
    const times = [];
    for (let i = 0; i < 5; i++) {
      const began = performance.now();
      await (await fetch(`${url}/api/visits?siteId=${siteId}${query}`, { headers })).text();
      times.push(performance.now() - began);
    }
    figure(`${what}, median of 5`, `${percentile(times, 0.5).toFixed(0)} ms`, '200 ms or less');
  }
}

async function onPhone(origin, ap) {
  const browser = await openBrowser();
  try {
    const times = [];
    let octets = 0;
    for (let i = 0; i < 5; i++) {
      const context = await browser.newContext({ viewport: { width: 390, height: 844 }, isMobile: true });
      const page = await context.newPage();
      const session = await context.newCDPSession(page);
      await session.send('Network.enable');
      await session.send('Network.emulateNetworkConditions', {
        ...{ offline: false, latency: PHONE.latency },
        ...{ downloadThroughput: PHONE.down * 1000, uploadThroughput: PHONE.up * 1000 },
      });
      const began = performance.now();
      const answer = await page.goto(`${origin}/?who=${wordOf(ap, 2_000_000 + i)}`, { waitUntil: 'commit' });
      await page.getByRole('button', { name: 'Go online' }).waitFor();
      times.push(performance.now() - began);
      octets = (await answer.body()).length;
      await context.close();
    }
    figure('portal page, octets', `${(octets / 1000).toFixed(1)} KB`, '60 KB or less');
    figure(
      'on a phone’s 4G: sent there to something to press',
      `${percentile(times, 0.5).toFixed(0)} ms`,
      '500 ms or less',
    );
  } finally {
    await browser.close();
  }
}
