// A software switch that decides which ports a frame reaches: Open vSwitch in user space, with ports that are no real
// interfaces, in a folder of its own. Needs Debian's openvswitch-switch; no kernel support, no network.
import { spawn, spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { createConnection } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

/** A VLAN that no site of the lab uses: ports that carry nothing carry this one, since an empty list means all. */
const PARKED = 4094;

/**
 * Starts the switch with bridges, ports and cables.
 * @param plant `bridges`: name → ports with `name`, `untagged` (VLAN or null), `tagged` (VLANs), `isolated`; `cables`:
 *   pairs of `bridge.port`. Cables must form a tree.
 * @returns `frame(port, tag)`: where a broadcast frame comes out, `bridge.port` or `bridge.port@VLAN`, sorted; `stop()`.
 */
export async function startSwitchLab({ bridges, cables }) {
  const folder = mkdtempSync(join(tmpdir(), 'switch-lab-'));
  const env = { ...process.env, OVS_RUNDIR: folder, OVS_DBDIR: folder, OVS_LOGDIR: folder, OVS_SYSCONFDIR: folder };
  const children = [];
  const stop = async () => {
    for (const child of children.reverse())
      if (child.exitCode === null)
        await new Promise((resolve) => {
          child.once('close', resolve);
          child.kill('SIGTERM');
        });
    rmSync(folder, { recursive: true, force: true });
  };
  const daemon = (command, ...args) =>
    children.push(spawn(command, args, { env, stdio: ['ignore', 'ignore', 'ignore'] }));
  const run = (command, ...args) => {
    const result = spawnSync(command, args, { env, encoding: 'utf8' });
    if (result.status !== 0) throw new Error(`${command}: ${result.stderr || result.error}`);
  };
  try {
    const [database, sock, control] = ['conf.db', 'db.sock', 'vs.ctl'].map((name) => join(folder, name));
    run('ovsdb-tool', 'create', database, '/usr/share/openvswitch/vswitch.ovsschema');
    daemon('ovsdb-server', `--remote=punix:${sock}`, '--no-chdir', `--unixctl=${join(folder, 'db.ctl')}`, database);
    await answers(sock);
    run('ovs-vsctl', `--db=unix:${sock}`, '--no-wait', 'init');
    daemon('ovs-vswitchd', `unix:${sock}`, '--enable-dummy', '--disable-system', '--no-chdir', `--unixctl=${control}`);
    await answers(control);

    const peer = new Map(cables.flatMap(([a, b]) => [[a, b], [b, a]])); // prettier-ignore
    const short = new Map(); // interface names have 15 characters at most
    for (const [bridge, ports] of Object.entries(bridges))
      for (const port of ports) short.set(`${bridge}.${port.name}`, `i${short.size}`);
    const ofport = new Map();
    const args = [];
    for (const [n, [bridge, ports]] of Object.entries(bridges).entries()) {
      args.push(
        '--',
        'add-br',
        `br${n}`,
        '--',
        'set',
        'bridge',
        `br${n}`,
        'datapath_type=dummy',
        'fail-mode=standalone',
      );
      for (const [i, port] of ports.entries()) {
        const full = `${bridge}.${port.name}`;
        ofport.set(full, { bridge: `br${n}`, number: i + 1 });
        args.push('--', 'add-port', `br${n}`, short.get(full), ...vlanArgs(port));
        if (port.isolated) args.push('protected=true');
        const type = peer.has(full) ? ['type=patch', `options:peer=${short.get(peer.get(full))}`] : ['type=dummy'];
        args.push('--', 'set', 'interface', short.get(full), `ofport_request=${i + 1}`, ...type);
      }
    }
    run('ovs-vsctl', `--db=unix:${sock}`, '--timeout=60', ...args.slice(1));
    const ask = await connect(control);
    const full = new Map([...short].map(([name, id]) => [id, name]));
    const byDatapath = new Map();
    for (const line of (await ask('dpif/show')).split('\n')) {
      const match = /^\s+(\S+) (\d+)\/(\d+):/.exec(line);
      if (match && full.has(match[1])) byDatapath.set(match[3], full.get(match[1]));
    }
    const frame = async (port, tag) => {
      const { bridge, number } = ofport.get(port);
      const vlan = tag === null ? '' : `,dl_vlan=${tag},dl_vlan_pcp=0`;
      const flow = `in_port=${number},dl_src=02:00:00:00:00:01,dl_dst=ff:ff:ff:ff:ff:ff${vlan}`;
      const actions = /Datapath actions: (.*)/.exec(await ask('ofproto/trace', bridge, flow))?.[1] ?? '';
      const out = [];
      let worn = tag;
      for (const [, pushed, popped, sent] of actions.matchAll(/push_vlan\(vid=(\d+)[^)]*\)|(pop_vlan)|(\d+)(?=,|$)/g)) {
        if (pushed) worn = Number(pushed);
        else if (popped) worn = null;
        else if (byDatapath.has(sent)) out.push(`${byDatapath.get(sent)}${worn === null ? '' : `@${worn}`}`);
      }
      return out.sort();
    };
    return { frame, stop };
  } catch (error) {
    await stop();
    throw error;
  }
}

function vlanArgs({ untagged, tagged }) {
  if (untagged === null) return ['vlan_mode=trunk', `trunks=${tagged.length > 0 ? tagged.join(',') : PARKED}`];
  // The switch carries a native VLAN only when it is among the trunks too.
  return ['vlan_mode=native-untagged', `tag=${untagged}`, `trunks=${[...tagged, untagged].join(',')}`];
}

/** Waits until somebody answers at a socket: its file is there a moment before anybody listens. */
async function answers(path) {
  const answered = () =>
    new Promise((resolve) => {
      const socket = createConnection(path);
      socket
        .once('error', () => resolve(false))
        .once('connect', () => {
          socket.destroy();
          resolve(true);
        });
    });
  for (const until = Date.now() + 60_000; Date.now() < until;) {
    if (await answered()) return;
    await new Promise((resolve) => setTimeout(resolve, 20));
  }
  throw new Error(`nobody answers at ${path}`);
}

/** A connection to the switch's control socket; answers come in the order of the questions. */
async function connect(path) {
  const socket = createConnection(path);
  await new Promise((resolve, reject) => socket.once('connect', resolve).once('error', reject));
  socket.unref();
  const waiting = [];
  let text = '';
  socket.on('data', (chunk) => {
    text += chunk;
    for (let end = objectEnd(text); end > 0; end = objectEnd(text)) {
      const answer = JSON.parse(text.slice(0, end));
      text = text.slice(end).trimStart();
      const { resolve, reject } = waiting.shift();
      if (answer.error) reject(new Error(String(answer.error)));
      else resolve(answer.result);
    }
  });
  let id = 0;
  return (method, ...params) =>
    new Promise((resolve, reject) => {
      waiting.push({ resolve, reject });
      socket.write(JSON.stringify({ method, params, id: id++ }));
    });
}

/** Where the first JSON object of a text ends, or 0 while it is not whole. */
function objectEnd(text) {
  let [depth, quoted] = [0, false];
  for (let i = 0; i < text.length; i++) {
    const char = text[i];
    if (quoted) {
      if (char === '\\') i++;
      else if (char === '"') quoted = false;
    } else if (char === '"') quoted = true;
    else if (char === '{') depth++;
    else if (char === '}' && --depth === 0) return i + 1;
  }
  return 0;
}
