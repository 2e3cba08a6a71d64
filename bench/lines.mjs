// 1,000 devices of one process call one controller and come into step; memory of an idle line beside a bare server's.
import { fork } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import WebSocket from 'ws';
import { root } from '../tools/setup.mjs';
import { startController, startFleet, stopChild } from '../tools/stack.mjs';
import { figure, pause, residentKb, until } from './figures.mjs';
import { writeLargeEstate } from './large-estate.mjs';

const LINES = 1000;
const IDLE_MS = 8000;
const HOOK = `--import ${new URL('./gc-on-signal.mjs', import.meta.url).href}`;

/** Settings that let a process be asked what it keeps. */
const asked = (file) => ({ NODE_OPTIONS: HOOK, BENCH_MEMORY_FILE: file });

/** Memory that an idle process keeps on its heap and beside it, in kilobytes, after it collected its garbage. */
async function keptKb(pid, file) {
  for (let i = 0; i < 2; i++) {
    process.kill(pid, 'SIGUSR2');
    await pause(1500);
  }
  return Number(readFileSync(file, 'utf8')) / 1024;
}

async function bareLineKb(file) {
  const child = fork(join(root, 'bench/bare-ws.mjs'), {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    env: { ...process.env, ...asked(file) },
  });
  const { port } = await new Promise((resolve) => child.once('message', resolve));
  const connect = () =>
    new Promise((resolve, reject) => {
      const socket = new WebSocket(`ws://127.0.0.1:${port}`, { perMessageDeflate: false });
      socket.once('open', () => resolve(socket));
      socket.once('error', reject);
    });
  (await connect()).terminate(); // whatever the first line alone costs
  const before = await keptKb(child.pid, file);
  const resident = residentKb(child.pid);
  const sockets = [];
  for (let i = 0; i < LINES; i += 100) sockets.push(...(await Promise.all(Array.from({ length: 100 }, connect))));
  await pause(IDLE_MS);
  const residentEach = (residentKb(child.pid) - resident) / LINES;
  const each = ((await keptKb(child.pid, file)) - before) / LINES;
  for (const socket of sockets) socket.terminate();
  child.disconnect();
  return { each, residentEach };
}

export async function benchLines({ databaseUrl, folder }) {
  const { estate, world } = writeLargeEstate(folder, { sites: 25, devicesPerSite: 40, segments: 20 });
  const file = join(folder, 'memory');
  const env = {
    DATABASE_URL: databaseUrl,
    LATTICE_PORT: '0',
    LATTICE_SECRET_KEY: join(folder, 'secret.key'),
    LATTICE_SEED: estate,
    LATTICE_REPORT_SECONDS: '300',
    ...asked(file),
  };
  // Seeding is not what is measured; a controller that starts again finds everything there.
  await stopChild((await startController(env)).child);
  const { child, url } = await startController(env);
  const cookie = await signIn(url);
  const before = await keptKb(child.pid, file);
  const resident = residentKb(child.pid);
  const began = performance.now();
  const fleet = startFleet({ world, controllerUrl: url, state: null, control: 0 });
  let connected = 0;
  await until(async () => {
    const response = await fetch(`${url}/api/estate`, { headers: { cookie } });
    const { sites } = await response.json();
    if (connected === 0 && sites.every((site) => site.devices.silent === 0)) connected = performance.now() - began;
    return sites.every((site) => site.devices['in step'] === 40);
  });
  const inStep = performance.now() - began;
  await pause(IDLE_MS);
  const uncollected = (residentKb(child.pid) - resident) / LINES;
  const ours = ((await keptKb(child.pid, file)) - before) / LINES;
  await stopChild(fleet);
  await stopChild(child);
  const { each: bare, residentEach } = await bareLineKb(join(folder, 'bare-memory'));
  figure('1,000 devices of one process connected', `${(connected / 1000).toFixed(1)} s`, '–');
  figure('1,000 devices, factory state to in step', `${(inStep / 1000).toFixed(1)} s`, '60 s or less');
  figure('resident memory the 1,000 lines added, each, with garbage', `${uncollected.toFixed(0)} KB`, '–');
  figure('the same of the bare WebSocket server', `${residentEach.toFixed(0)} KB`, '–');
  figure('memory of an idle line, controller', `${ours.toFixed(0)} KB`, '–');
  figure('memory of an idle line, bare WebSocket server', `${bare.toFixed(0)} KB`, 'the baseline');
  figure('memory of an idle line over the bare one', `${(ours - bare).toFixed(0)} KB`, '50 KB or less');
}

export async function signIn(url) {
  const body = JSON.stringify({ email: 'bench@skerrow.example', password: 'bench-password' });
  const response = await fetch(`${url}/api/session`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body,
  });
  return response.headers.get('set-cookie').split(';')[0];
}
