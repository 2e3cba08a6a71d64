import { randomFrom } from '../base';
import { expect, test } from 'vitest';
import { formatPrefix, parseIp } from '../address';
import { KeptTable, linesTo } from './gateway-table';
import type { TableLine, TableSource } from './table-line';
import { lookUp } from './route-table';

const gatewayTable = (of: TableSource): TableLine[] => new KeptTable().of(of);

const source: TableSource = {
  links: [
    { name: 'Crew', address: '10.20.1.1/24' },
    { name: 'Tickets', address: '10.20.2.1/24' },
    { name: 'Tickets', address: 'fd00:20:2::1/64' },
  ],
  said: [
    { name: 'Works', prefix: '172.20.0.0/16', to: '10.20.2.9' },
    { name: 'Works by cable', prefix: '172.20.0.0/16', by: 'wan2', metric: 20 },
    { name: 'Rest of ours', prefix: '10.0.0.0/8' },
    { name: 'Never', prefix: '10.20.1.0/24', to: '10.20.2.9' },
    { name: 'Unread', prefix: 'nothing', to: '10.20.2.9' },
  ],
  uplinks: [
    { port: 'wan1', turn: 0, six: true },
    { port: 'wan2', turn: 1 },
  ],
};
const said = (table: ReturnType<typeof gatewayTable>) =>
  table.map(({ prefix, name, counts }) => `${formatPrefix(prefix)} ${name}${counts ? '' : ' –'}`);

test('a gateway’s table has its links, what is said, and its uplinks, each with what it beats or is beaten by', () => {
  const table = gatewayTable(source);
  expect(said(table)).toEqual([
    '0.0.0.0/0 wan1',
    '0.0.0.0/0 wan2 –',
    '10.0.0.0/8 Rest of ours',
    '10.20.1.0/24 Crew',
    '10.20.1.0/24 Never –',
    '10.20.2.0/24 Tickets',
    '172.20.0.0/16 Works',
    '172.20.0.0/16 Works by cable –',
    '::/0 wan1',
    'fd00:20:2::/64 Tickets',
  ]);
  const line = (name: string) => table.find((each) => each.name === name)!;
  expect(line('Crew').beats).toEqual(['Never, 10.20.1.0/24', 'Rest of ours, 10.0.0.0/8']);
  expect(line('Never').beaten).toBe('Crew, 10.20.1.0/24 comes first');
  expect(line('Works').beats).toEqual(['Works by cable, 172.20.0.0/16', 'wan1, 0.0.0.0/0']);
  expect(line('wan2').beaten).toBe('wan1, 0.0.0.0/0 comes first');
});

test('an uplink that is not good takes its lines with it, and what stands behind them counts', () => {
  const table = gatewayTable({
    ...source,
    said: [
      { name: 'Cable', prefix: '172.20.0.0/16', by: 'wan1' },
      { name: 'Closed', prefix: '172.20.0.0/16', metric: 9 },
    ],
    isGood: (port) => port !== 'wan1',
  });
  const of = (text: string) => linesTo(table, parseIp(text)!).map(({ name }) => name);
  expect(of('172.20.3.4')).toEqual(['Closed']);
  expect(of('198.51.100.7')).toEqual(['wan2']);
  expect(table.find(({ name }) => name === 'Cable')!.beaten).toBe('wan1 is not good');
  expect(of('2001:db8::7')).toEqual([]);
});

test('tunnels come after what is said and before uplinks, and are gone by while they are up', () => {
  const overlay = [
    { name: 'sites by North', prefix: '10.0.0.0/8', peer: 'North', metric: 0 },
    { name: 'sites by South', prefix: '10.0.0.0/8', peer: 'South', metric: 1 },
    { name: 'no site', prefix: '10.0.0.0/8', peer: null, metric: 9999 },
  ];
  const said4 = source.said.filter(({ name }) => name !== 'Rest of ours');
  const by = (...down: string[]) =>
    linesTo(
      gatewayTable({ ...source, said: said4, overlay, isUp: (peer) => !down.includes(peer) }),
      parseIp('10.99.0.1')!,
    ).map(({ nextHop }) => nextHop);
  expect(by()).toEqual(['North']);
  expect(by('North')).toEqual(['South']);
  expect(by('North', 'South')).toEqual(['discard']);
  const [rest] = linesTo(gatewayTable({ ...source, overlay }), parseIp('10.99.0.1')!);
  expect(rest!.beats).toEqual([
    ...['sites by North, 10.0.0.0/8', 'sites by South, 10.0.0.0/8', 'no site, 10.0.0.0/8', 'wan1, 0.0.0.0/0'],
  ]);
  const down = gatewayTable({ ...source, overlay, isUp: () => false }).find(({ peer }) => peer === 'North')!;
  expect(down.beaten).toBe('the tunnel to North is down');
});

test('what an address goes by is what a look-up in the same routes finds', () => {
  const shared = { ...source, uplinks: source.uplinks.map((each) => ({ ...each, turn: 0 })) };
  for (const each of [source, shared])
    for (const text of [
      '10.20.1.7',
      '10.20.9.1',
      '172.20.4.4',
      '172.21.0.1',
      '203.0.113.9',
      'fd00:20:2::9',
      'fd00:9::1',
    ]) {
      const table = gatewayTable(each);
      const found = linesTo(table, parseIp(text)!);
      const { nextHops, prefix } = lookUp(table, parseIp(text)!);
      expect([...new Set(found.map(({ nextHop }) => nextHop))].sort()).toEqual(nextHops);
      expect(found[0] ? formatPrefix(found[0].prefix) : null).toBe(prefix && formatPrefix(prefix));
    }
  expect(gatewayTable(shared).find(({ name }) => name === 'Works')!.beats).toEqual([
    'Works by cable, 172.20.0.0/16',
    'wan1 and wan2, 0.0.0.0/0',
  ]);
  expect(linesTo(gatewayTable(shared), parseIp('203.0.113.9')!).map(({ name }) => name)).toEqual(['wan1', 'wan2']);
});

test('a route whose tracked address does not answer is no line that counts, and the next one stands in', () => {
  const table = gatewayTable({ ...source, isHeard: (name) => name !== 'Works' });
  const works = table.filter(({ prefix }) => formatPrefix(prefix) === '172.20.0.0/16');
  expect(works.map(({ name, counts, beaten }) => [name, counts, beaten])).toEqual([
    ['Works by cable', true, undefined],
    ['Works', false, 'what it tracks does not answer'],
  ]);
  expect(linesTo(table, parseIp('172.20.1.1')!)[0]!.by).toBe('wan2');
});

test('a table that is made again and again is the same as one that is made anew, and what was given out before stays', () => {
  const random = randomFrom(19);
  type Line = NonNullable<TableSource['overlay']>[number];
  const peers = ['North', 'South', 'West'];
  const line = (): Line => {
    const peer = random(5) === 0 ? null : peers[random(3)]!;
    const prefix =
      random(8) === 0 ? `fd00:${random(3)}::/32` : `10.${random(3)}.${random(3)}.0/${[16, 23, 24][random(3)]!}`;
    return { prefix, name: `site ${random(4)}`, peer, metric: random(3) };
  };
  const plain = (table: readonly TableLine[]) =>
    table.map(({ prefix, kind, name, nextHop, metric, up, counts, beats, beaten }) => ({
      ...{ prefix, kind, name, nextHop, metric, up: up !== false, counts, beats, beaten },
    }));
  const shown = (table: readonly TableLine[]) => table.map(({ name, counts, beaten }) => [name, counts, beaten]);
  for (let round = 0; round < 20; round++) {
    const kept = new KeptTable();
    let overlay: Line[] = Array.from({ length: 30 }, line);
    let before: { readonly table: readonly TableLine[]; readonly shown: unknown } | null = null;
    for (let step = 0; step < 15; step++) {
      // Most stay, in another order; some go, and some come.
      overlay = overlay.filter(() => random(10) > 0);
      overlay.push(...Array.from({ length: random(4) }, line));
      if (random(3) === 0) overlay.reverse();
      // The same is said by other objects, as it is in what was sent over a line.
      if (random(3) === 0) overlay = overlay.map((each) => ({ ...each }));
      const down = new Set(peers.filter(() => random(4) === 0));
      const source: TableSource = {
        links: random(2) ? [{ name: 'Crew', address: '10.1.1.1/24' }] : [],
        said: random(2) ? [{ name: 'works', prefix: '10.2.0.0/16', to: '10.1.1.9' }] : [],
        uplinks: [{ port: 'wan1', turn: 0, six: true }],
        ...{ overlay, isUp: (peer) => !down.has(peer) },
      };
      const table = kept.of(source);
      expect(plain(table)).toEqual(plain(gatewayTable(source)));
      if (before) expect(shown(before.table)).toEqual(before.shown);
      before = { table, shown: shown(table) };
    }
  }
});
