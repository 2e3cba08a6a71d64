import { TestBed } from '@angular/core/testing';
import type { TableColumn } from './data-rows';
import { DataTable } from './data-table';

const COLUMNS: readonly TableColumn<string>[] = [{ key: 'name', title: 'Name', text: (row) => row, width: 100 }];

describe('DataTable', () => {
  it('cannot have all chosen while nothing is shown, and its box says what is chosen whatever a press made of it', () => {
    localStorage.clear();
    const fixture = TestBed.createComponent<DataTable<string>>(DataTable);
    const set = (rows: readonly string[]): void => {
      fixture.componentRef.setInput('rows', rows);
      TestBed.tick();
    };
    for (const [name, value] of Object.entries({
      ...{ label: 'Berths', remember: 'berths', columns: COLUMNS, pickable: true },
      ...{ key: (row: string) => row, name: (row: string) => row },
    }))
      fixture.componentRef.setInput(name, value);
    set([]);
    const box = (fixture.nativeElement as HTMLElement).querySelector<HTMLInputElement>('.head input[type=checkbox]')!;
    expect(box.disabled).toBe(true);
    set(['north', 'south']);
    expect(box.disabled).toBe(false);
    box.click();
    TestBed.tick();
    expect([box.checked, fixture.componentInstance.picked().size]).toEqual([true, 2]);
    box.click();
    TestBed.tick();
    expect([box.checked, fixture.componentInstance.picked().size]).toEqual([false, 0]);
  });
});
