// A balancer in front of several controllers on one machine: HAProxy, as docs/scaling.md has it.
import { spawn } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:net';
import { join } from 'node:path';
import { HAPROXY } from './setup.mjs';

/** How long it may take until it passes requests on, in milliseconds. */
const WITHIN_MS = 15_000;

/** Free ports of this machine, so many. */
export async function freePorts(count) {
  const servers = await Promise.all(
    Array.from({ length: count }, async () => {
      const server = createServer();
      await new Promise((resolve, reject) => server.once('error', reject).listen(0, '127.0.0.1', resolve));
      return server;
    }),
  );
  const ports = servers.map((server) => server.address().port);
  await Promise.all(servers.map((server) => new Promise((resolve) => server.close(resolve))));
  return ports;
}

/** What the balancer is told. A request that could not be begun at one controller is begun at another. */
const configOf = (port, servers) => `
defaults
  mode http
  timeout connect 2s
  timeout client 120s
  timeout server 120s
  timeout tunnel 1h
  timeout check 10s
  retries 3
  option redispatch 1
  option http-server-close
  option abortonclose
frontend lattice
  bind 127.0.0.1:${port}
  default_backend controllers
backend controllers
  balance leastconn
  option forwardfor
  option httpchk
  http-check send meth GET uri /healthz ver HTTP/1.1 hdr Host 127.0.0.1
  http-check expect status 200
  default-server inter 1s fall 3 rise 1
${servers.map((each, i) => `  server controller${i + 1} 127.0.0.1:${each} check`).join('\n')}
`;

/** Starts it and waits until it answers. @param folder where what it is told is kept. */
export async function startBalancer({ port, servers, folder }) {
  mkdirSync(folder, { recursive: true });
  const file = join(folder, 'balancer.cfg');
  writeFileSync(file, configOf(port, servers).trimStart());
  const child = spawn(HAPROXY, ['-db', '-q', '-f', file], { stdio: ['ignore', 'ignore', 'ignore'], detached: true });
  const url = `http://127.0.0.1:${port}`;
  for (const deadline = Date.now() + WITHIN_MS; ;) {
    const answer = await fetch(`${url}/healthz`).catch(() => null);
    if (answer?.status === 200) return { child, url };
    if (child.exitCode !== null || Date.now() > deadline) {
      child.kill('SIGKILL');
      throw new Error(`the balancer does not answer at ${url}`);
    }
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}
