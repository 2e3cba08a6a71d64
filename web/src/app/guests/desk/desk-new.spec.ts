import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import type { DeskCodes } from '@iron-lattice/core/guests';
import { byText, type } from '../../testing/site-fixture';
import { DeskNew } from './desk-new';
import { DeskStore } from './desk-store';

describe('DeskNew', () => {
  it('keeps what was typed for whoever comes next while a code is made', async () => {
    const made: DeskCodes[] = [];
    let answer: () => void = () => {};
    const portal = { id: 'p', name: 'Quay', kinds: [], visit: null };
    const store = {
      site: signal({ id: 's', portals: [portal] }),
      portal: signal(portal),
      make: (asked: DeskCodes) => {
        made.push(asked);
        return new Promise<void>((resolve) => (answer = resolve));
      },
    };
    TestBed.configureTestingModule({ providers: [{ provide: DeskStore, useValue: store }] });
    const fixture = TestBed.createComponent(DeskNew);
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const name = page.querySelector<HTMLInputElement>('#desk-name')!;
    const make = async () => {
      byText(page, 'button[type=submit]', 'Make code').click();
      await fixture.whenStable();
    };
    const answered = async () => {
      answer();
      await new Promise((resolve) => setTimeout(resolve));
      await fixture.whenStable();
    };
    type(name, 'Cabin 12');
    await make();
    type(name, 'Coach party');
    await answered();
    expect(name.value).toBe('Coach party');
    await make();
    await answered();
    expect(made.map((each) => each.name)).toEqual(['Cabin 12', 'Coach party']);
    // Nothing was typed meanwhile: the field is empty for the next.
    expect(name.value).toBe('');
  });
});
