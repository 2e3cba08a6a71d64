import type { GridColumn, GridRow } from '@iron-lattice/core/lattice';
import { crossingAt, foldable, foldedAtFirst, inSight, layOut, layOutIn, strandPath } from './weave-layout';
import { weaveSvg } from './weave-svg';

const port = (device: string, name: number): GridColumn => ({
  key: `port:${device}:${name}`,
  group: device,
  label: `port ${name}`,
  deviceId: device,
  port: String(name),
});
const columns: GridColumn[] = [
  { key: 'ssid:1', group: 'On the air', label: 'Deck' },
  ...[1, 2, 3].map((n) => port('sw-01', n)),
  ...[1, 2].map((n) => port('sw-02', n)),
  port('sw-03', 1),
  { key: 'device:g', group: 'Gateway', label: 'gw-01', deviceId: 'g' },
];
const row = (cells: GridRow['cells'], name = 'Deck'): GridRow => ({
  segment: { id: name, name, vlan: 40, subnet: '10.0.40.0/24', gateway: '', addresses: null },
  cells,
  missing: Object.keys(cells).filter((key) => cells[key] === 'missing'),
});

describe('the layout of the weave', () => {
  it('folds a switch of several ports into one column, and says how many', () => {
    expect(foldable(columns)).toEqual(['sw-01', 'sw-02']);
    const { columns: drawn, groups } = layOut(columns, new Set(['sw-01']));
    expect(drawn.map(({ label }) => label)).toEqual(['Deck', '3 ports', 'port 1', 'port 2', 'port 1', 'gw-01']);
    expect(groups.map(({ fold }) => fold)).toEqual(['none', 'folded', 'open', 'none', 'none']);
    expect(drawn.every((column, i) => i === 0 || column.x - drawn[i - 1]!.x >= 30)).toBe(true);
  });

  it('shows the worst of a folded switch, so that a gap is never folded away', () => {
    const fold = layOut(columns, new Set(['sw-01'])).columns[1]!;
    const key = (n: number) => `port:sw-01:${n}`;
    expect(crossingAt(row({ [key(1)]: 'tagged', [key(2)]: 'missing' }), fold)).toBe('missing');
    expect(crossingAt(row({ [key(1)]: 'tagged', [key(2)]: 'untagged' }), fold)).toBe('tagged');
    expect(crossingAt(row({ [key(1)]: 'untagged' }), fold)).toBe('untagged');
    expect(crossingAt(row({}), fold)).toBeUndefined();
  });

  it('folds at first what is whole, once there are many columns', () => {
    const rows = [row({ 'port:sw-02:1': 'missing' })];
    expect([...foldedAtFirst(columns, rows, 4)]).toEqual(['sw-01']);
    expect(foldedAtFirst(columns, rows).size).toBe(0);
  });

  it('moves together where that makes it fit, and stays as it is where nothing would', () => {
    const usual = layOut(columns, new Set());
    expect(layOutIn(0, columns, new Set())).toEqual(usual);
    expect(layOutIn(usual.width - 10, columns, new Set()).width).toBeLessThanOrEqual(usual.width - 10);
    expect(layOutIn(100, columns, new Set()).step).toBe(30);
  });

  it('finds what is in sight, as looking at each would', () => {
    const xs = Array.from({ length: 200 }, (_, i) => ({ x: i * 30 }));
    expect(inSight(xs, 900, 1500)).toEqual([28, 53]);
    expect(inSight(xs, -50, 10)).toEqual([0, 3]);
    expect(inSight(xs, 9000, 9900)).toEqual([198, 200]);
  });

  it('breaks the strand beside a gap, and draws what is whole in one stretch', () => {
    const { columns: drawn } = layOut(columns, new Set());
    const pathOf = (cells: GridRow['cells']) =>
      strandPath(
        drawn,
        drawn.map((column) => crossingAt(row(cells), column)),
      );
    const x = (key: string) => drawn.find((column) => column.key === key)!.x;
    const [air, gateway] = [x('ssid:1'), x('device:g')];
    const port = (n: number) => `port:sw-01:${n}`;
    expect(pathOf({ 'ssid:1': 'broadcast', 'port:sw-02:1': 'missing', 'device:g': 'routed' })).toEqual({
      whole: '',
      broken: `M${air} 0H${gateway}`,
    });
    expect(
      pathOf({
        'ssid:1': 'broadcast',
        [port(1)]: 'tagged',
        [port(2)]: 'tagged',
        [port(3)]: 'missing',
        'device:g': 'routed',
      }),
    ).toEqual({ whole: `M${air} 0H${x(port(2))}`, broken: `M${x(port(2))} 0H${gateway}` });
    expect(pathOf({ 'device:g': 'routed' })).toEqual({ whole: '', broken: '' });
  });

  it('is drawn whole for paper, with names that cannot become markup', () => {
    const svg = weaveSvg(
      'A & B',
      columns,
      [row({ 'ssid:1': 'broadcast' }, '<b>Deck</b>')],
      new Map(),
      ['#123456'],
      new Set(),
    );
    const drawing = new DOMParser().parseFromString(svg, 'image/svg+xml');
    expect(drawing.querySelector('parsererror')).toBeNull();
    expect([...drawing.querySelectorAll('text')].map((text) => text.textContent)).toContain('<b>Deck</b>');
    expect(drawing.querySelectorAll('b')).toHaveLength(0);
  });
});
