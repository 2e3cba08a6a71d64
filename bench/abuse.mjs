// Many readers of the heaviest screens beside the same bytes from memory, and what hostile ones do to everybody else.
import { createHash } from 'node:crypto';
import { createServer } from 'node:http';
import { Worker, isMainThread, workerData, parentPort } from 'node:worker_threads';
import WebSocket from 'ws';
import { startController, startFleet, stopChild } from '../tools/stack.mjs';
import { figure, pause, percentile, until } from './figures.mjs';
import { writeLargeEstate } from './large-estate.mjs';
import { signIn } from './lines.mjs';

const READERS = 20;
const READ_MS = 10_000;
const [SITES, EACH] = [18, 40];

if (!isMainThread && workerData?.bytes) {
  // The same bytes from memory: what any server on this machine could do at best.
  const server = createServer((request, response) => {
    const body = workerData.bytes[decodeURIComponent(request.url.slice(1))];
    response.writeHead(200, { 'content-type': 'application/json', 'content-length': body.length });
    response.end(body);
  });
  server.listen(0, '127.0.0.1', () => parentPort.postMessage(server.address().port));
}

/** So many readers ask for one path after the other; with what they know, as browsers do. */
async function read(base, paths, headers, tagged) {
  const times = [];
  const end = performance.now() + READ_MS;
  const tags = new Map();
  await Promise.all(
    Array.from({ length: READERS }, async (_, i) => {
      for (let at = i; performance.now() < end; at++) {
        const path = paths[at % paths.length];
        const began = performance.now();
        const known = tagged ? tags.get(`${i} ${path}`) : undefined;
        const response = await fetch(`${base}${path}`, {
          headers: { ...headers, ...(known ? { 'if-none-match': known } : {}) },
        });
        await response.arrayBuffer();
        times.push(performance.now() - began);
        const tag = response.headers.get('etag');
        if (tag) tags.set(`${i} ${path}`, tag);
      }
    }),
  );
  return { perSecond: (times.length / READ_MS) * 1000, p95: percentile(times, 0.95) };
}

export async function benchAbuse({ databaseUrl, folder }) {
  const { estate, world } = writeLargeEstate(folder, { sites: SITES, devicesPerSite: EACH, segments: 20 });
  const env = {
    DATABASE_URL: databaseUrl,
    LATTICE_PORT: '0',
    LATTICE_SECRET_KEY: `${folder}/secret.key`,
    LATTICE_SEED: estate,
    LATTICE_SWEEP_PORT: '0',
  };
  const { child, url } = await startController(env);
  const fleet = startFleet({ world, controllerUrl: url, state: null, control: 0 });
  try {
    const cookie = await signIn(url);
    const get = async (path) => (await fetch(`${url}${path}`, { headers: { cookie } })).json();
    await until(async () => (await get('/api/estate')).sites.every(({ devices }) => devices['in step'] === EACH));
    const { id } = (await get('/api/estate')).sites[0];
    const draft = (await get('/api/drafts/current')).id;
    const paths = [
      '/api/devices',
      '/api/estate',
      `/api/sites/${id}/devices`,
      `/api/drafts/${draft}/sites/${id}`,
      `/api/drafts/${draft}/address-plan`,
    ];
    const bytes = {};
    for (const path of paths)
      bytes[path] = Buffer.from(await (await fetch(`${url}${path}`, { headers: { cookie } })).arrayBuffer());
    const size = Object.values(bytes).reduce((sum, each) => sum + each.length, 0);
    const worker = new Worker(new URL(import.meta.url), { workerData: { bytes } });
    const port = await new Promise((resolve) => worker.once('message', resolve));
    const bare = await read(
      `http://127.0.0.1:${port}`,
      paths.map((path) => `/${encodeURIComponent(path)}`),
      {},
      false,
    );
    await worker.terminate();
    for (const path of paths) {
      const times = [];
      for (let i = 0; i < 15; i++) {
        const began = performance.now();
        await (await fetch(`${url}${path}`, { headers: { cookie } })).arrayBuffer();
        times.push(performance.now() - began);
      }
      figure(`${path.replace(/[0-9a-f-]{36}/g, '…')}: one reader, p50`, `${percentile(times, 0.5).toFixed(0)} ms`, '-');
    }
    const [whole, tagged] = [await read(url, paths, { cookie }, false), await read(url, paths, { cookie }, true)];
    const words = ({ perSecond, p95 }) => `${perSecond.toFixed(0)}/s ${p95.toFixed(0)} ms`;
    console.log(
      `${SITES * EACH} devices, ${READERS} readers, ${paths.length} screens of ${(size / 1000).toFixed(0)} KB in all`,
    );
    figure('readers of the heaviest screens: answers, p95', words(whole), 'p95 250 ms');
    figure('the same, knowing what they saw (ETag)', words(tagged), 'p95 250 ms');
    figure('the same bytes from memory', words(bare), '-');
    await hostile(url, cookie, draft);
  } finally {
    await stopChild(fleet);
    await stopChild(child);
  }
}

/** How long others wait while something hostile goes on. */
async function beside(url, work) {
  const times = [];
  let going = true;
  const looking = (async () => {
    while (going) {
      const began = performance.now();
      await (await fetch(`${url}/healthz`)).arrayBuffer();
      times.push(performance.now() - began);
      await pause(5);
    }
  })();
  const began = performance.now();
  await work();
  const ms = performance.now() - began;
  going = false;
  await looking;
  return { ms, worst: Math.max(...times) };
}

async function hostile(url, cookie, draft) {
  const headers = { cookie, 'content-type': 'application/json' };
  const post = (path, body) =>
    fetch(`${url}${path}`, { method: 'POST', headers, body }).then((each) => each.arrayBuffer());
  const senseless = JSON.stringify({ head: 0, operations: Array(75_000).fill({ a: 1 }) });
  const bombs = await beside(url, async () => {
    for (let i = 0; i < 10; i++) await post(`/api/drafts/${draft}/operations`, senseless);
  });
  figure(
    'a megabyte of senseless edits, refused / others wait',
    `${(bombs.ms / 10).toFixed(0)} / ${bombs.worst.toFixed(0)} ms`,
    '-',
  );
  const key = createHash('sha512').digest('base64').slice(0, 60);
  const hello = (i) =>
    JSON.stringify({
      type: 'hello',
      version: 9,
      serial: `FLOOD-${i}`,
      model: 'X',
      mac: '02:00:00:00:00:01',
      firmware: '1',
      key,
      runs: null,
    });
  const flood = await beside(url, async () => {
    for (let i = 0; i < 1000; i += 50)
      await Promise.all(
        Array.from({ length: 50 }, (_, k) => {
          const socket = new WebSocket(`${url.replace('http', 'ws')}/line`);
          socket.on('open', () => socket.send(hello(i + k)));
          return new Promise((resolve) => socket.on('close', resolve).on('error', resolve));
        }),
      );
  });
  const { hitches } = await (await fetch(`${url}/api/hitches`, { headers: { cookie } })).json();
  figure(
    '1,000 invented hellos, all answered / others wait',
    `${flood.ms.toFixed(0)} / ${flood.worst.toFixed(0)} ms`,
    '-',
  );
  figure('lines they leave in the list of hitches', hitches.length, '21');
}
