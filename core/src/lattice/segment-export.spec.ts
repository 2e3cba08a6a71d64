import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { normaliseSegment } from '../intent';
import { richSegments } from '../testing';
import { segmentsAsIetf, segmentsAsKea } from './segment-export';

const folder = mkdtempSync(join(tmpdir(), 'segments-'));
afterAll(() => rmSync(folder, { recursive: true }));
const seeds = [1, 2, 3, 4, 5];
const segments = (seed: number) => richSegments(seed, 12).map(normaliseSegment);

/** Asks a program that reads the format for a living. */
function judge(name: string, text: string, command: string, ...args: string[]): string {
  const file = join(folder, name);
  writeFileSync(file, text);
  const result = spawnSync(command, [...args, file], {
    encoding: 'utf8',
    env: { ...process.env, KEA_LOCKFILE_DIR: 'none' },
  });
  if (result.error) throw result.error;
  return result.status === 0 ? 'valid' : `${result.stdout}${result.stderr}`;
}

/** Debian's modules, wherever the package keeps them. */
const YANG = ['ietf-interfaces', 'ietf-ip', 'iana-if-type'];
const modules = spawnSync('find', ['/usr/share/yuma/modules', '-name', '*.yang'], { encoding: 'utf8' }).stdout.split(
  '\n',
);
const moduleFiles = YANG.map((name) =>
  modules.filter((path) => new RegExp(`/${name}(@[0-9-]+)?\\.yang$`).test(path)).at(-1)!,
);
const searches = [...new Set(modules.filter(Boolean).map((path) => path.replace(/\/[^/]*$/, '')))].flatMap((path) => [
  '-p',
  path,
]);
const yanglint = (name: string, text: string): string =>
  judge(name, text, 'yanglint', '-t', 'config', ...searches, ...moduleFiles);

test.each(seeds)('yanglint finds a site’s segments valid by ietf-interfaces and ietf-ip (seed %i)', (seed) => {
  const text = segmentsAsIetf(segments(seed));
  expect(JSON.parse(text)['ietf-interfaces:interfaces'].interface).toHaveLength(12);
  expect(yanglint(`ietf-${seed}.json`, text)).toBe('valid');
});

test('yanglint would tell', () => {
  const text = segmentsAsIetf(segments(1)).replace('"prefix-length": 24', '"prefix-length": 33');
  expect(yanglint('bad.json', text)).not.toBe('valid');
});

test.each(seeds)('Kea takes a site’s services (seed %i)', (seed) => {
  const text = segmentsAsKea(segments(seed));
  expect(JSON.parse(text).Dhcp4.subnet4.length).toBeGreaterThan(3);
  expect(judge(`kea-${seed}.json`, text, 'kea-dhcp4', '-t')).toBe('valid');
});

test('Kea would tell', () => {
  const text = segmentsAsKea(segments(1)).replace('"csv-format": false', '"csv-format": "maybe"');
  expect(judge('bad-kea.json', text, 'kea-dhcp4', '-t')).not.toBe('valid');
});

test('exclusions are cut out of the pools, and what an outside server gives is left out', () => {
  const [plain] = richSegments(1, 1);
  const addresses = {
    first: '10.1.1.20',
    last: '10.1.1.90',
    leaseSeconds: 3600,
    exclude: [{ first: '10.1.1.40', last: '10.1.1.50' }],
  };
  const kea = (change: object) =>
    JSON.parse(segmentsAsKea([{ ...plain!, addresses: { ...addresses, ...change } }])).Dhcp4.subnet4;
  expect(kea({})[0]).toMatchObject({
    pools: [{ pool: '10.1.1.20 - 10.1.1.39' }, { pool: '10.1.1.51 - 10.1.1.90' }],
    'renew-timer': 1800,
    'rebind-timer': 3150,
  });
  expect(kea({ from: { kind: 'relay', server: '192.0.2.67' } })).toEqual([]);
});
