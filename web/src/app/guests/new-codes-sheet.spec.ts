import { TestBed } from '@angular/core/testing';
import { NEW_PORTAL } from '@iron-lattice/core/intent';
import { SiteFixture } from '../testing/site-fixture';
import { GuestsStore } from './guests-store';
import { NewCodesSheet } from './new-codes-sheet';

describe('new visit codes', () => {
  it('are asked for as they were typed, and shown once they are made', async () => {
    const site = new SiteFixture({ segments: 2, aps: 1 });
    const portal = {
      ...NEW_PORTAL,
      id: '00000000-0000-4000-8000-00000000000a',
      name: 'Visitors',
      ways: ['code' as const],
    };
    const asked: unknown[] = [];
    const store = {
      portal: () => portal,
      make: (codes: unknown) => {
        asked.push(codes);
        return Promise.resolve([{ id: 'c', name: 'Cabin 12', code: 'ABCD2345' }]);
      },
    };
    TestBed.configureTestingModule({ providers: [...site.providers, { provide: GuestsStore, useValue: store }] });
    await site.open();
    const fixture = TestBed.createComponent(NewCodesSheet);
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const type = async (id: string, value: string): Promise<void> => {
      const field = page.querySelector<HTMLInputElement>(`#${id}`)!;
      field.value = value;
      field.dispatchEvent(new Event('input'));
      await fixture.whenStable();
    };
    const make = (): HTMLButtonElement =>
      [...page.querySelectorAll('button')].find(({ textContent }) => textContent.includes('Make'))!;
    await type('codes-count', '20000');
    expect(page.textContent).toContain('From 1 to 10,000.');
    expect(make().disabled).toBe(true);
    await type('codes-count', '3');
    await type('codes-name', 'Cabin 12');
    await type('codes-lasts', '2 d');
    await type('codes-use-by', '2026-02-30');
    expect(page.textContent).toContain('Write a day like 2026-12-31.');
    await type('codes-use-by', '');
    expect(make().textContent.trim()).toBe('Make 3 codes');
    page.querySelector<HTMLFormElement>('form')!.dispatchEvent(new Event('submit'));
    await fixture.whenStable();
    expect(asked).toEqual([
      expect.objectContaining({
        portalId: portal.id,
        count: 3,
        name: 'Cabin 12',
        runs: 'used',
        minutes: 2880,
        most: 1,
        useBy: null,
      }),
    ]);
    expect(page.textContent).toContain('ABCD-2345');
  });
});
