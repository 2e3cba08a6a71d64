// Intake at 10,000 devices: lines with reports beside a bare server with the same traffic; a list of 10,000 serial
// numbers; the devices table.
import { fork, spawn } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from '../tools/setup.mjs';
import { startController, startFleet, stopChild } from '../tools/stack.mjs';
import { figure, pause, residentKb, until } from './figures.mjs';
import { writeLargeEstate } from './large-estate.mjs';
import { signIn } from './lines.mjs';
import { measureTable } from './table.mjs';

const DEVICES = 10_000;
const FLEETS = 5; // whole sites each
const REPORT_SECONDS = 30;
const MEASURED_MS = 60_000;
/** Ticks a second of the kernel's clock in /proc (sysconf(_SC_CLK_TCK), 100 on Linux). */
const TICKS = 100;

/** Processor time a process and its threads have used, in seconds. */
function cpuSeconds(pid) {
  const fields = readFileSync(`/proc/${pid}/stat`, 'utf8').split(') ')[1].split(' ');
  return (Number(fields[11]) + Number(fields[12])) / TICKS;
}

/** How busy a process is over a while, in percent of one core, and its resident memory at the end. */
async function load(pid, ms) {
  const [before, began] = [cpuSeconds(pid), performance.now()];
  await pause(ms);
  const percent = ((cpuSeconds(pid) - before) / ((performance.now() - began) / 1000)) * 100;
  return { percent, megabytes: residentKb(pid) / 1024 };
}

export async function benchIntake({ databaseUrl, folder }) {
  const perFleet = DEVICES / FLEETS;
  const { estate, worlds } = writeFleets(folder, perFleet);
  const env = {
    DATABASE_URL: databaseUrl,
    LATTICE_PORT: '0',
    LATTICE_SECRET_KEY: join(folder, 'secret.key'),
    LATTICE_SEED: estate,
    LATTICE_REPORT_SECONDS: String(REPORT_SECONDS),
  };
  const { child, url } = await startController(env);
  const cookie = await signIn(url);
  const api = async (path, init = {}) => {
    const response = await fetch(`${url}${path}`, { ...init, headers: { cookie, ...init.headers } });
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
    return response.json();
  };
  const began = performance.now();
  const fleets = worlds.map((world) => startFleet({ world, controllerUrl: url, state: null, control: 0 }));
  await until(async () => {
    const { sites } = await api('/api/estate');
    return sites.reduce((sum, site) => sum + site.devices['in step'], 0) === DEVICES;
  }, 900_000);
  figure(
    `10,000 devices of ${FLEETS} processes, factory state to in step`,
    `${((performance.now() - began) / 1000).toFixed(0)} s`,
    '–',
  );
  await pause(REPORT_SECONDS * 1000); // whatever changed while they came into step has been said
  const ours = await load(child.pid, MEASURED_MS);

  await measureTable(url);
  await benchList(api, DEVICES);
  for (const fleet of fleets) await stopChild(fleet);
  await stopChild(child);

  const bare = await bareLoad();
  figure('10,000 lines with reports every 30 s: controller, processor', `${ours.percent.toFixed(0)} % of a core`, '–');
  figure('the same traffic at a bare WebSocket server', `${bare.percent.toFixed(0)} % of a core`, 'the baseline');
  figure('10,000 lines: controller, resident memory', `${ours.megabytes.toFixed(0)} MB`, '–');
  figure('the same at a bare WebSocket server', `${bare.megabytes.toFixed(0)} MB`, 'the baseline');
}

/** Estate with all devices, and a world for each fleet. */
function writeFleets(folder, perFleet) {
  const perSite = 40;
  const { estate, world } = writeLargeEstate(folder, {
    sites: DEVICES / perSite,
    devicesPerSite: perSite,
    segments: 4,
  });
  return { estate, worlds: splitWorld(world, perFleet) };
}

function splitWorld(file, perFleet) {
  const world = JSON.parse(readFileSync(file, 'utf8'));
  const files = [];
  for (let at = 0; at < world.devices.length; at += perFleet) {
    const devices = world.devices.slice(at, at + perFleet);
    const serials = new Set(devices.map((device) => device.serial));
    const part = {
      ...world,
      devices,
      cables: world.cables.filter(([end]) => serials.has(end.split(':')[0])),
      providers: world.providers.map((provider) => ({
        ...provider,
        gives: Object.fromEntries(
          Object.entries(provider.gives).filter(([socket]) => serials.has(socket.split(':')[0])),
        ),
      })),
    };
    const path = file.replace('.json', `-${files.length}.json`);
    writeFileSync(path, JSON.stringify(part));
    files.push(path);
  }
  return files;
}

export async function benchList(api, count) {
  const lines = ['serial,model,site,name,mac,tags'];
  for (let i = 0; i < count; i++)
    lines.push(
      `L-${String(i).padStart(6, '0')},AP-6E,Site ${(i % 250) + 1},,02:5b:${hex(i >> 16)}:${hex(i >> 8)}:${hex(i)}:01,pallet`,
    );
  const body = lines.join('\n');
  const headers = { 'content-type': 'application/octet-stream' };
  const began = performance.now();
  const preview = await api('/api/serial-lists', { method: 'POST', body, headers });
  const previewed = performance.now() - began;
  if (preview.good !== count) throw new Error(`${preview.bad} rows of the list are not good`);
  const start = performance.now();
  await api('/api/serial-lists/import', {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ token: preview.token, leaveOutBad: false }),
  });
  figure(
    'CSV of 10,000 serial numbers beside 10,000 devices: preview',
    `${(previewed / 1000).toFixed(2)} s`,
    '2 s or less',
  );
  figure('the same: import', `${((performance.now() - start) / 1000).toFixed(2)} s`, '10 s or less');
}

const hex = (value) => (value & 255).toString(16).padStart(2, '0');

/** A bare server that is sent as many reports, as long, by as many lines. */
async function bareLoad() {
  const server = fork(join(root, 'bench/bare-ws.mjs'), { stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
  const { port } = await new Promise((resolve) => server.once('message', resolve));
  const senders = Array.from({ length: FLEETS }, () =>
    spawn(
      process.execPath,
      [join(root, 'bench/bare-senders.mjs'), String(port), String(DEVICES / FLEETS), String(REPORT_SECONDS)],
      {
        stdio: ['ignore', 'pipe', 'inherit'],
      },
    ),
  );
  await Promise.all(senders.map((sender) => new Promise((resolve) => sender.stdout.once('data', resolve))));
  await pause(10_000);
  const bare = await load(server.pid, MEASURED_MS / 2);
  for (const sender of senders) sender.kill();
  server.disconnect();
  return bare;
}
