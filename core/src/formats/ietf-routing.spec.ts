import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { writeIetfRouting, type IetfRoute } from './ietf-routing';

const folder = mkdtempSync(join(tmpdir(), 'routing-'));
afterAll(() => rmSync(folder, { recursive: true }));
/** The modules of the day of RFC 8349, as Debian keeps them. */
const MODULES = '/usr/share/yuma/nmda-modules/ietf';
const WANTED = ['ietf-routing', 'ietf-ipv4-unicast-routing', 'ietf-ipv6-unicast-routing', 'iana-if-type'];

/** Asks yanglint. @returns `valid`, or what it says. */
function judged(text: string): string {
  const file = join(folder, 'routes.json');
  writeFileSync(file, text);
  const found = spawnSync('find', ['/usr/share/yuma', '-name', '*.yang'], { encoding: 'utf8' }).stdout.split('\n');
  const files = WANTED.map((name) => {
    const all = found.filter((path) => new RegExp(`/${name}(@[0-9-]+)?\\.yang$`).test(path)).sort();
    return all.find((path) => path.startsWith(MODULES)) ?? all.at(-1)!;
  });
  const searches = [MODULES, '/usr/share/yuma/modules/ietf'].flatMap((path) => ['-p', path]);
  const result = spawnSync('yanglint', ['-t', 'config', ...searches, ...files, file], { encoding: 'utf8' });
  if (result.error) throw result.error;
  return result.status === 0 ? 'valid' : `${result.stdout}${result.stderr}`;
}

const interfaces = [
  { name: 'wan2', description: 'Hillcrest' },
  { name: 'wan1', description: 'Tidewire' },
];
const routes: IetfRoute[] = [
  { name: 'Works', prefix: '172.20.0.0/16', to: '10.20.5.9' },
  { name: 'Works by cable', prefix: '172.20.0.0/16', by: 'wan1', metric: 20 },
  { name: 'Closed', prefix: '203.0.113.0/24' },
  { name: 'Left', prefix: '172.22.0.0/16', to: '10.20.5.9' },
  { name: 'Right', prefix: '172.22.0.0/16', to: '10.20.5.10' },
  { name: 'Six', prefix: 'fd00:60::/32', by: 'wan2' },
];

test('yanglint finds routes valid by ietf-routing of RFC 8349, and would tell', () => {
  const text = writeIetfRouting(interfaces, routes);
  expect(judged(text)).toBe('valid');
  expect(judged(writeIetfRouting(interfaces, []))).toBe('valid');
  expect(judged(text.replace('172.20.0.0/16', '172.20.0.0/33'))).not.toBe('valid');
  expect(judged(writeIetfRouting([], routes))).not.toBe('valid'); // an interface that is nowhere
});

test('of several to one prefix those with the lowest metric are written, together', () => {
  const written = JSON.parse(writeIetfRouting(interfaces, routes));
  const [protocol] = written['ietf-routing:routing']['control-plane-protocols']['control-plane-protocol'];
  const { route } = protocol['static-routes']['ietf-ipv4-unicast-routing:ipv4'];
  expect(route.map((each: Record<string, unknown>) => [each['destination-prefix'], each['next-hop']])).toEqual([
    ['172.20.0.0/16', { 'next-hop-address': '10.20.5.9' }],
    [
      '172.22.0.0/16',
      {
        'next-hop-list': {
          'next-hop': [
            { index: '1', 'next-hop-address': '10.20.5.9' },
            { index: '2', 'next-hop-address': '10.20.5.10' },
          ],
        },
      },
    ],
    ['203.0.113.0/24', { 'special-next-hop': 'blackhole' }],
  ]);
});
