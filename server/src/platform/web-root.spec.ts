import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { connect, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Koa from 'koa';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { serveWeb } from './web-root';

let server: Server;
const folder = mkdtempSync(join(tmpdir(), 'lattice-web-'));
beforeAll(async () => {
  const root = join(folder, 'browser');
  mkdirSync(join(root, 'media'), { recursive: true });
  writeFileSync(join(root, 'index.html'), '<p>page');
  writeFileSync(join(root, 'media', 'mark-ABCDEFGH.svg'), '<svg/>');
  writeFileSync(join(folder, 'secret.key'), 'not theirs');
  const app = new Koa();
  app.silent = true;
  app.use(serveWeb(root));
  const handle = app.callback();
  server = createServer((request, response) => void handle(request, response)).listen(0, '127.0.0.1');
  await new Promise((resolve) => server.once('listening', resolve));
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true });
});

/** Asks for a path as it stands: no client tidies it up. */
function raw(path: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const socket = connect((server.address() as AddressInfo).port, '127.0.0.1', () =>
      socket.write(`GET ${path} HTTP/1.1\r\nHost: x\r\nConnection: close\r\n\r\n`),
    );
    let heard = '';
    socket.on('data', (data) => (heard += data.toString()));
    socket.on('close', () => resolve(heard));
    socket.on('error', reject);
  });
}
const outcome = async (path: string): Promise<string> => {
  const heard = await raw(path);
  return `${heard.slice(9, 12)} ${heard.split('\r\n\r\n')[1]!}`;
};

test('files that were built are served, for good where their name says what they hold; every other place is the page', async () => {
  expect(await raw('/media/mark-ABCDEFGH.svg')).toContain('max-age=31536000, immutable');
  expect(await raw('/sites/7/rules')).toContain('<p>page');
});

test('of any other file it is told the same, whether it exists or not', async () => {
  const wanted = '404 No such file.';
  for (const path of [
    '/nothing.js',
    '/../secret.key',
    '/media/../../secret.key',
    '/%2e%2e/secret.key',
    '/../no.key',
    '/a%00.js',
  ])
    expect([path, await outcome(path)]).toEqual([path, wanted]);
});
