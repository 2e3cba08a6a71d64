import { filterRows, groupRows, sortRows, type TableColumn } from './data-rows';
import { rowsAsCsv, rowsAsXlsx } from './export-rows';

interface Row {
  readonly name: string;
  readonly speed: number;
  readonly site: string;
}
const ROWS: readonly Row[] = [
  { name: 'ap-10', speed: 10, site: 'Pier' },
  { name: 'ap-2', speed: 100, site: 'Quay' },
  { name: '', speed: 5, site: 'Pier' },
  { name: 'AP-1', speed: 1000, site: '' },
];
const NAME: TableColumn<Row> = { key: 'name', title: 'Name', text: (row) => row.name, width: 80 };
const SPEED: TableColumn<Row> = {
  key: 'speed',
  title: 'Speed',
  text: (row) => `${row.speed} Mb/s`,
  order: (row) => row.speed,
  width: 80,
};
const SITE: TableColumn<Row> = { key: 'site', title: 'Site', text: (row) => row.site, width: 80, groups: true };
const names = (rows: readonly Row[]): string[] => rows.map((row) => row.name);

describe('rows of a table', () => {
  const words = (row: Row): string => `${row.name} ${row.site}`.toLowerCase();

  it('are filtered by every word that is typed, in any case and order', () => {
    expect(names(filterRows(ROWS, 'PIER ap', words))).toEqual(['ap-10']);
    expect(names(filterRows(ROWS, 'ap', words))).toEqual(['ap-10', 'ap-2', 'AP-1']);
    expect(filterRows(ROWS, '  ', words)).toBe(ROWS);
    expect(filterRows(ROWS, 'nowhere', words)).toEqual([]);
  });

  it('are sorted as people count, empty ones last either way', () => {
    expect(names(sortRows(ROWS, NAME, false))).toEqual(['AP-1', 'ap-2', 'ap-10', '']);
    expect(names(sortRows(ROWS, NAME, true))).toEqual(['ap-10', 'ap-2', 'AP-1', '']);
    expect(sortRows(ROWS, SPEED, false).map((row) => row.speed)).toEqual([5, 10, 100, 1000]);
    expect(sortRows(ROWS, SPEED, true).map((row) => row.speed)).toEqual([1000, 100, 10, 5]);
  });

  it('are grouped in the order of the groups, and counted on through them', () => {
    const items = groupRows(ROWS, SITE).map((item) =>
      item.kind === 'group' ? `${item.title} ${item.count}` : item.at,
    );
    expect(items).toEqual(['– 1', 0, 'Pier 2', 1, 2, 'Quay 1', 3]);
    expect(groupRows(ROWS, undefined).map((item) => item.kind)).toEqual(['row', 'row', 'row', 'row']);
  });

  it('are exported as text that no spreadsheet runs as a formula', async () => {
    const evil: Row = { name: '=HYPERLINK("x")', speed: 1, site: 'a,"b"' };
    const text = await (await rowsAsCsv([evil], [NAME, SITE])).text();
    expect(text).toBe('Name,Site\r\n"\'=HYPERLINK(""x"")","a,""b"""\r\n');
  });

  it('are exported as a workbook', async () => {
    const bytes = new Uint8Array(await (await rowsAsXlsx(ROWS, [NAME, SPEED])).arrayBuffer());
    expect([...bytes.slice(0, 4)]).toEqual([0x50, 0x4b, 3, 4]);
  });
});
