// Who somebody is: the controller's RADIUS server beside FreeRADIUS, and thousands of users in the interface.
import { spawn } from 'node:child_process';
import { createHash, createHmac, randomBytes } from 'node:crypto';
import { createSocket } from 'node:dgram';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { makePrograms } from '../tools/programs.mjs';
import { ensurePackages, root } from '../tools/setup.mjs';
import { figure, percentile, until } from './figures.mjs';
import { inBrowser } from './in-browser.mjs';
import { writeLargeEstate } from './large-estate.mjs';

const [USERS, ASKED, FLYING, SECONDS] = [5000, 12_000, 64, 6];
const [SECRET, PASSWORD, MAC] = ['gulls over the quay and tern', 'lantern fish 4', '02-1A-00-00-00-07'];

/** An Access-Request with PAP (RFC 2865 §5.2, RFC 3579 §3.2). */
function request(id, name) {
  const authenticator = randomBytes(16);
  const plain = Buffer.alloc(16);
  plain.write(PASSWORD);
  const mask = createHash('md5').update(SECRET).update(authenticator).digest();
  const hidden = plain.map((octet, i) => octet ^ mask[i]);
  const attribute = (type, value) => Buffer.concat([Buffer.from([type, value.length + 2]), Buffer.from(value)]);
  const parts = [
    attribute(80, Buffer.alloc(16)),
    ...[attribute(1, name), attribute(2, hidden), attribute(32, 'x-ap-01'), attribute(30, `${MAC}:Crew`)],
    attribute(31, '02-1A-00-00-00-99'),
  ];
  const body = Buffer.concat(parts);
  const head = Buffer.concat([Buffer.from([1, id, (body.length + 20) >> 8, (body.length + 20) & 255]), authenticator]);
  const packet = Buffer.concat([head, body]);
  createHmac('md5', SECRET).update(packet).digest().copy(packet, 22);
  return packet;
}

/** Requests a second that a server lets in: so many on their way at any time, each answered before the next goes. */
async function rate(port, name) {
  const requests = Array.from({ length: ASKED }, (_, i) => request(i & 255, name(i)));
  const socket = createSocket('udp4');
  await new Promise((resolve) => socket.bind(0, '127.0.0.1', resolve));
  const counts = { sent: 0, yes: 0, no: 0 };
  const send = () => socket.send(requests[counts.sent++ % ASKED], port, '127.0.0.1');
  socket.on('message', (answer) => {
    counts[answer[0] === 2 ? 'yes' : 'no']++;
    if (counts.sent < ASKED) send();
  });
  const began = performance.now();
  for (let i = 0; i < FLYING; i++) send();
  await until(() => counts.yes + counts.no >= ASKED - FLYING);
  const seconds = (performance.now() - began) / 1000;
  socket.close();
  if (counts.no > 0) throw new Error(`${counts.no} were turned down`);
  return counts.yes / seconds;
}

/** The thread of the controller that answers, with users as it would be told them. */
async function answering(users) {
  await makePrograms();
  const worker = new Worker(join(root, 'server/dist/thread-worker.mjs'), {
    workerData: {
      file: new URL('../server/dist/heavy/answering.mjs', import.meta.url).href,
      given: { host: '127.0.0.1', port: 0 },
    },
  });
  const ways = [{ secret: SECRET, classes: [{ name: 'Crew', groups: ['Deck'] }], trial: false }];
  const opened = new Promise((resolve) =>
    worker.on('message', (message) => {
      if (message.type === 'open') resolve(message.port);
      if (message.type === 'who')
        worker.postMessage({
          type: 'asking',
          mac: message.mac,
          asking: { deviceId: 'd', timeZone: 'Europe/Dublin', ways },
        });
    }),
  );
  worker.postMessage({ type: 'users', users, gone: [], all: true });
  return { worker, port: await opened };
}

/** FreeRADIUS with the same user, logging nothing. */
async function freeradius(folder, names) {
  mkdirSync(folder, { recursive: true });
  const port = 20_000 + Math.floor(Math.random() * 10_000);
  writeFileSync(
    join(folder, 'users'),
    names.map((name) => `${name} Cleartext-Password := "${PASSWORD}"\n\tFilter-Id = "Crew"\n`).join(''),
  );
  writeFileSync(
    join(folder, 'radiusd.conf'),
    `prefix = ${folder}
logdir = ${folder}
run_dir = ${folder}
pidfile = ${folder}/pid
max_requests = 100000
security {
  allow_core_dumps = no
}
log {
  destination = stdout
}
client all {
  ipaddr = 127.0.0.0/8
  secret = "${SECRET}"
}
thread pool {
  start_servers = 1
  max_servers = 1
  min_spare_servers = 1
  max_spare_servers = 1
}
modules {
  pap {
  }
  files {
    filename = ${folder}/users
  }
}
server default {
  listen {
    type = auth
    ipaddr = 127.0.0.1
    port = ${port}
  }
  authorize {
    files
    pap
  }
  authenticate {
    Auth-Type PAP {
      pap
    }
  }
}
`,
  );
  const child = spawn('freeradius', ['-f', '-l', 'stdout', '-d', folder, '-n', 'radiusd']);
  await new Promise((resolve, reject) => {
    let said = '';
    child.stdout.on('data', (chunk) => (said += chunk).includes('Ready to process') && resolve());
    child.once('exit', () => reject(new Error(said)));
  });
  return { child, port };
}

/** Processor time of this process’s threads but the first, in milliseconds (Linux counts in hundredths of a second). */
const threads = () =>
  new Map(
    readdirSync('/proc/self/task')
      .filter((id) => Number(id) !== process.pid)
      .map((id) => {
        const fields = readFileSync(`/proc/self/task/${id}/stat`, 'utf8').split(') ')[1].split(' ');
        return [id, 10 * (Number(fields[11]) + Number(fields[12]))];
      }),
  );
const busiestSince = (before) => Math.max(...[...threads()].map(([id, ms]) => ms - (before.get(id) ?? 0)));

/** Conversations of EAP-TTLS, each by a client that begins anew: a second, and milliseconds of processor time of the thread for each. */
async function tunnelled(port, folder, certificate) {
  const path = join(folder, 'ttls.conf');
  writeFileSync(join(folder, 'ca.pem'), certificate);
  const lines = ['key_mgmt=WPA-EAP', 'eap=TTLS', 'phase2="auth=PAP"', 'identity="crew.1"', `password="${PASSWORD}"`];
  writeFileSync(path, `network={\n ${[...lines, `ca_cert="${join(folder, 'ca.pem')}"`].join('\n ')}\n}\n`);
  const until = performance.now() + SECONDS * 1000;
  let done = 0;
  const before = threads();
  const one = async () => {
    while (performance.now() < until) {
      const args = [
        '-c',
        path,
        '-a',
        '127.0.0.1',
        '-p',
        String(port),
        '-s',
        SECRET,
        '-r',
        '0',
        '-t',
        '5',
        `-N30:s:${MAC}:Crew`,
      ];
      const child = spawn('eapol_test', args, { stdio: 'ignore' });
      if ((await new Promise((resolve) => child.once('close', resolve))) !== 0)
        throw new Error('eapol_test was not let in');
      done++;
    }
  };
  await Promise.all([one(), one(), one()]);
  return { whole: done / SECONDS, work: busiestSince(before) / done };
}

export async function benchEntry({ databaseUrl, folder }) {
  ensurePackages('freeradius', 'freeradius-utils', 'eapoltest');
  mkdirSync(folder, { recursive: true });
  const { hash } = await import('@node-rs/argon2');
  const kept = await hash(PASSWORD, { memoryCost: 19_456, timeCost: 2, parallelism: 1 });
  const user = (i) => ({
    ...{
      id: `u${i}`,
      key: `crew.${i}`,
      hash: kept,
      groups: ['Deck'],
      until: null,
      most: null,
      off: false,
      macs: [],
      certificates: [],
    },
  });
  const { worker, port } = await answering(Array.from({ length: USERS }, (_, i) => user(i)));
  const own = (i) => `crew.${i % 20}`;
  await rate(port, own); // each password is worked out once
  const ours = await rate(port, own);
  const { child, port: theirs } = await freeradius(
    join(folder, 'freeradius'),
    Array.from({ length: 20 }, (_, i) => own(i)),
  );
  const baseline = await rate(theirs, own).finally(() => child.kill());
  figure('requests with a password (PAP) a second, one core', ours.toFixed(0), '2,000 or more');
  figure('the same by FreeRADIUS, one thread', baseline.toFixed(0), 'the baseline');
  figure('ours of that', `${((100 * ours) / baseline).toFixed(0)} %`, '–');
  (await import('tsx/esm/api')).register();
  const { issue, makeAuthority } = await import('../server/src/entry/certificates/authority.ts');
  const authority = await makeAuthority('Bench authority');
  const { cert, key } = await issue(authority, { kind: 'server', name: 'bench.radius.internal' });
  worker.postMessage({ type: 'certificate', cert, key, authority: authority.cert });
  const { whole, work } = await tunnelled(port, folder, authority.cert);
  figure('EAP-TTLS conversations a second, eapol_test beside it', whole.toFixed(0), '–');
  figure('processor time of the thread for each', `${work.toFixed(1)} ms`, '–');
  figure('which makes on one core, a second', (1000 / work).toFixed(0), '60 or more');
  await worker.terminate();
  await everywhere();
  await manyUsers({ databaseUrl, folder });
}

/** What one person would get at a thousand sites. */
async function everywhere() {
  const { userAtSites } = await import('@iron-lattice/core/entry');
  const { sampleSite } = await import('@iron-lattice/core/testing');
  const { intent, site } = sampleSite({ segments: 20, aps: 4 });
  const accessClass = {
    id: 'c',
    name: 'Crew',
    segment: 'Segment 2',
    members: [],
    groups: ['Deck'],
    reach: { kind: 'estate' },
  };
  const sites = new Map(
    Array.from({ length: 1000 }, (_, i) => {
      const id = `site-${i}`;
      return [id, { ...site, id, name: `Site ${i}`, segments: [...site.segments] }];
    }),
  );
  const began = performance.now();
  const rows = userAtSites({ estate: { ...intent.estate, classes: [accessClass] }, sites }, ['Deck']);
  const ms = performance.now() - began;
  if (rows.filter(({ segment }) => segment).length !== 1000) throw new Error('not everywhere');
  figure('what one person would get at 1,000 sites, none looked at before', `${ms.toFixed(0)} ms`, '300 ms or less');
}

/** Thousands of users: made, read, shown and filtered. */
async function manyUsers({ databaseUrl, folder }) {
  const { estate } = writeLargeEstate(folder, { sites: 1, devicesPerSite: 4, segments: 4 });
  await inBrowser({ databaseUrl, folder, estate }, async ({ url, cookie, open }) => {
    const users = Array.from({ length: USERS }, (_, i) => ({
      ...{ name: `crew.${i + 1}`, password: '', groups: ['Deck'], until: null, most: 2, off: false, note: '' },
    }));
    const headers = { cookie, 'content-type': 'application/octet-stream' };
    let began = performance.now();
    const made = await fetch(`${url}/api/users`, { method: 'POST', headers, body: JSON.stringify(users) });
    if (!made.ok) throw new Error(await made.text());
    figure(`${USERS} users made, their passwords drawn`, `${((performance.now() - began) / 1000).toFixed(1)} s`, '–');
    const read = [];
    for (let i = 0; i < 5; i++) {
      began = performance.now();
      await (await fetch(`${url}/api/users`, { headers })).text();
      read.push(performance.now() - began);
    }
    figure('the same read, median of 5', `${percentile(read, 0.5).toFixed(0)} ms`, '–');
    const page = await open();
    await page.goto(`${url}/entry?as=users`);
    await page.getByText('5,000 rows').waitFor();
    const filtered = [];
    for (let i = 0; i < 7; i++) {
      filtered.push(
        await page.evaluate(
          async (text) => {
            const field = document.querySelector('input[type=search]');
            const at = performance.now();
            field.value = text;
            field.dispatchEvent(new globalThis.Event('input', { bubbles: true }));
            while (!document.querySelector('il-data-table [role=status]').textContent.includes('1 of'))
              await new Promise((resolve) => requestAnimationFrame(resolve));
            return performance.now() - at;
          },
          `crew.${4000 + i}`,
        ),
      );
      await page.locator('input[type=search]').fill('');
      await page.getByText('5,000 rows').waitFor();
    }
    figure('the same filtered, median of 7', `${percentile(filtered, 0.5).toFixed(0)} ms`, '100 ms or less');
    await page.context().close();
  });
}
