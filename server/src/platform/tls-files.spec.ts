import { copyFileSync } from 'node:fs';
import { createServer } from 'node:https';
import type { AddressInfo } from 'node:net';
import { connect } from 'node:tls';
import { afterEach, expect, test, vi } from 'vitest';
import { TestTls } from '../testing/test-tls';
import { readTls, renew } from './tls-files';

afterEach(() => vi.useRealTimers());

/** The serial number of the certificate that is shown at a port. */
const shown = (port: number): Promise<string> =>
  new Promise((resolve, reject) => {
    const socket = connect({ port, host: '127.0.0.1', rejectUnauthorized: false }, () => {
      resolve(socket.getPeerCertificate().serialNumber);
      socket.destroy();
    });
    socket.on('error', reject);
  });

test('a certificate that is renewed is shown without an interruption, once its key is there too', async () => {
  const [old, next] = [await TestTls.make(), await TestTls.make()];
  const server = createServer(readTls(old.files));
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const { port } = server.address() as AddressInfo;
  vi.useFakeTimers({ toFake: ['setInterval', 'clearInterval'] });
  const stop = renew(server, old.files);
  const before = await shown(port);
  copyFileSync(next.files.cert, old.files.cert);
  vi.advanceTimersByTime(60_000);
  expect(await shown(port)).toBe(before); // the key of the other
  copyFileSync(next.files.key, old.files.key);
  vi.advanceTimersByTime(60_000);
  const after = await shown(port);
  expect(after).not.toBe(before);
  stop();
  server.close();
  old.end();
  next.end();
});

test('what is no certificate and its key keeps the controller from starting, in words', async () => {
  const [one, other] = [await TestTls.make(), await TestTls.make()];
  expect(() => readTls({ cert: one.files.cert, key: other.files.key })).toThrow('are no certificate and its key');
  expect(() => readTls({ ...one.files, cert: '/nowhere.pem' })).toThrow('/nowhere.pem');
  one.end();
  other.end();
});
