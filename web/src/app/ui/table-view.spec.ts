import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { TableColumn } from './data-rows';
import { TableView } from './table-view';

interface Box {
  readonly name: string;
  readonly site: string;
  readonly ports: number;
}
const column = (key: keyof Box, more: Partial<TableColumn<Box>> = {}): TableColumn<Box> => ({
  key,
  title: key,
  width: 80,
  text: (row) => String(row[key]),
  ...more,
});
const rows: readonly Box[] = [
  { name: 'sw-02', site: 'Quay', ports: 24 },
  { name: 'sw-10', site: 'Pier', ports: 8 },
  { name: 'sw-01', site: 'Quay', ports: 8 },
];

describe('TableView', () => {
  const open = (): TableView<Box> =>
    TestBed.runInInjectionContext(
      () =>
        new TableView({
          rows: signal(rows),
          columns: signal([
            column('name'),
            column('site', { groups: true }),
            column('ports', { hidden: true, order: (row) => row.ports }),
          ]),
          remember: signal('boxes'),
          groupFirst: signal(''),
        }),
    );
  const names = (view: TableView<Box>) => view.listed().map((row) => row.name);
  beforeEach(() => localStorage.clear());

  it('filters by every text of a row, also of columns that are not shown', () => {
    const view = open();
    view.filter.set('24');
    expect(names(view)).toEqual(['sw-02']);
    expect(view.counted()).toBe('1 of 3');
    view.filter.set('QUAY');
    expect(names(view)).toEqual(['sw-02', 'sw-01']);
  });

  it('sorts up, down and not at all by one head', () => {
    const view = open();
    const [name] = view.shownColumns();
    view.sortBy('name');
    expect([names(view), view.sortedBy(name!)]).toEqual([['sw-01', 'sw-02', 'sw-10'], 'ascending']);
    view.sortBy('name');
    expect([names(view), view.sortedBy(name!)]).toEqual([['sw-10', 'sw-02', 'sw-01'], 'descending']);
    view.sortBy('name');
    expect([names(view), view.sortedBy(name!)]).toEqual([['sw-02', 'sw-10', 'sw-01'], 'none']);
  });

  it('remembers what was chosen, and is not put off by what it cannot read', () => {
    const view = open();
    view.toggleColumn('ports');
    view.sortBy('ports');
    view.group.set('site');
    TestBed.tick();
    const again = open();
    expect(again.shownColumns().map(({ key }) => key)).toEqual(['name', 'site', 'ports']);
    expect(again.items().map((item) => (item.kind === 'group' ? item.title : item.row.name))).toEqual([
      'Pier',
      'sw-10',
      'Quay',
      'sw-01',
      'sw-02',
    ]);
    localStorage.setItem('lattice.table.boxes', 'nonsense');
    expect(open().shownColumns()).toHaveLength(2);
  });
});
