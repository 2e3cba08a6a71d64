import { signal } from '@angular/core';
import { OpenedRow } from './opened-row';

describe('OpenedRow', () => {
  const setUp = () => {
    const rows = signal([{ id: 'a' }, { id: 'b' }, { id: 'c' }]);
    const [show, add] = [signal<string | undefined>(undefined), signal<string | undefined>(undefined)];
    const opened = new OpenedRow({ rows, show, add });
    const list = document.createElement('table');
    list.innerHTML = rows()
      .map(({ id }) => `<tr data-row="${id}"><td><button>${id}</button></td></tr>`)
      .join('');
    document.body.replaceChildren(list);
    list.addEventListener('keydown', (event) => opened.onKey(event));
    const press = (key: string): void =>
      void list.querySelector('button')!.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true }));
    return { rows, show, add, opened, press };
  };

  it('opens what is pressed, what the address asks for, and a new one', () => {
    const { opened, show, add, rows } = setUp();
    expect([opened.id(), opened.row(), opened.isNew()]).toEqual([null, undefined, false]);
    opened.open('b');
    expect(opened.row()).toEqual({ id: 'b' });
    show.set('c');
    expect(opened.row()).toEqual({ id: 'c' });
    rows.set([{ id: 'a' }]); // it is gone
    expect(opened.row()).toBeUndefined();
    add.set('');
    expect([opened.isNew(), opened.row()]).toEqual([true, undefined]);
    opened.close();
    expect(opened.id()).toBeNull();
  });

  it('walks from row to row by arrow keys, taking the focus along, and stops at the ends', () => {
    const { opened, press } = setUp();
    press('ArrowDown');
    expect(opened.id()).toBeNull(); // nothing is open
    opened.open('b');
    press('ArrowDown');
    expect([opened.id(), document.activeElement?.textContent]).toEqual(['c', 'c']);
    press('ArrowDown');
    expect(opened.id()).toBe('c');
    press('ArrowUp');
    press('ArrowUp');
    press('ArrowUp');
    expect([opened.id(), document.activeElement?.textContent]).toEqual(['a', 'a']);
  });
});
