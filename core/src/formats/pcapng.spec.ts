import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { writePcapng } from '.';

/** ARP who-has 10.12.1.1 tell 10.12.1.9 (RFC 826), padded to the shortest frame. */
const ARP = Uint8Array.from(
  Buffer.from(
    'ffffffffffff025a10000183080600010800060400010 25a100001830a0c01090000000000000a0c0101'.replace(' ', ''),
    'hex',
  ),
);

const read = (file: Uint8Array): string => {
  const folder = mkdtempSync(join(tmpdir(), 'lattice-pcap-'));
  try {
    writeFileSync(join(folder, 'a.pcapng'), file);
    return execFileSync('tcpdump', ['-tt', '-e', '-n', '-r', join(folder, 'a.pcapng')], {
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'ignore'],
      env: { ...process.env, PATH: `${process.env['PATH']}:/usr/sbin` },
    });
  } finally {
    rmSync(folder, { recursive: true });
  }
};

test('a capture is read by tcpdump as it was written: order, time, contents, and what was cut', () => {
  const at = 1_795_420_800_123_456;
  const text = read(
    writePcapng('lan', [
      { at, bytes: ARP, length: ARP.length },
      { at: at + 1_500_000, bytes: ARP.slice(0, 41), length: 60 },
    ]),
  );
  const lines = text.trim().split('\n');
  expect(lines[0]).toMatch(
    /^1795420800\.123456 02:5a:10:00:01:83 > ff:ff:ff:ff:ff:ff, .*length 42: Request who-has 10\.12\.1\.1 tell 10\.12\.1\.9/,
  );
  expect(lines[1]).toMatch(/^1795420801\.623456 .*length 60: .*\[\|arp\]|truncated/);
  expect(lines).toHaveLength(2);
});

test('a capture in which nothing passed is a file all the same', () => {
  expect(read(writePcapng('all ports', []))).toBe('');
});
