import { HttpTestingController } from '@angular/common/http/testing';
import { TestBed } from '@angular/core/testing';
import type { EditRequest } from '@iron-lattice/core/assess';
import type { Hours } from '@iron-lattice/core/intent';
import { readTimes } from '@iron-lattice/core/rules';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { HoursSheet } from './hours-sheet';

describe('HoursSheet', () => {
  const office: Hours = { id: crypto.randomUUID(), name: 'Office', times: readTimes('Mon-Fri 08:00-18:00')! };
  const setUp = async (hours: Hours | null, role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(role);
    const fixture = TestBed.createComponent(HoursSheet);
    fixture.componentRef.setInput('hours', hours);
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const field = (name: string) => page.querySelector<HTMLInputElement>(`#hours-${name}`)!;
    const at = (half: number) => page.querySelector<HTMLElement>(`[data-at="${half}"]`)!;
    const key = async (half: number, pressed: string, shiftKey = false): Promise<void> => {
      at(half).dispatchEvent(new KeyboardEvent('keydown', { key: pressed, shiftKey, bubbles: true, cancelable: true }));
      await fixture.whenStable();
    };
    const submit = async (): Promise<EditRequest> => {
      await fixture.whenStable();
      byText(page, 'button[type=submit]', /Add hours|Put into the draft/).click();
      await new Promise((resolve) => setTimeout(resolve));
      const request = TestBed.inject(HttpTestingController).expectOne((each) => each.url.endsWith('/operations'));
      return request.request.body as EditRequest;
    };
    return { fixture, page, field, at, key, submit };
  };

  it('shows a week as it is typed, and types it as it is painted by keyboard', async () => {
    const { fixture, page, field, at, key } = await setUp(office);
    const on = () => page.querySelectorAll('[aria-selected=true]').length;
    expect(on()).toBe(5 * 20);
    type(field('times'), 'Sat 10:00-12:00');
    await fixture.whenStable();
    expect(on()).toBe(4);
    expect(at(5 * 48 + 20).getAttribute('aria-label')).toBe('Sat 10:00 to 10:30');
    expect(at(16).tabIndex).toBe(0); // keys begin at Monday, 08:00
    await key(16, ' ');
    await key(16, 'ArrowRight', true);
    await key(17, 'ArrowDown', true);
    expect(field('times').value).toBe('Mon 08:00-09:00; Tue 08:30-09:00; Sat 10:00-12:00');
    await key(65, ' ');
    expect(field('times').value).toBe('Mon 08:00-09:00; Sat 10:00-12:00');
  });

  it('is painted by dragging over a block, and sends what differs', async () => {
    const { fixture, at, submit } = await setUp(office);
    // Nothing is laid out here: what lies below the pointer is said.
    Object.assign(document, { elementFromPoint: () => at(6 * 48 + 23) });
    at(5 * 48 + 20).dispatchEvent(new PointerEvent('pointerdown', { button: 0, bubbles: true }));
    at(6 * 48 + 23).dispatchEvent(new PointerEvent('pointermove', { bubbles: true }));
    at(6 * 48 + 23).dispatchEvent(new PointerEvent('pointerup', { bubbles: true }));
    await fixture.whenStable();
    const { operations } = await submit();
    expect(operations).toEqual([
      {
        type: 'hours.set',
        hoursId: office.id,
        from: { times: office.times },
        to: { times: readTimes('Mon-Fri 08:00-18:00; Sat,Sun 10:00-12:00') },
      },
    ]);
  });

  it('takes no words that are no times, and days however they are parted', async () => {
    const { fixture, page, field, submit } = await setUp(null);
    type(field('name'), 'Shop');
    type(field('times'), 'all day');
    await fixture.whenStable();
    expect(page.textContent).toContain('Write times such as Mon-Fri 08:00-18:00.');
    expect(byText<HTMLButtonElement>(page, 'button[type=submit]', 'Add hours').disabled).toBe(true);
    type(field('times'), 'Sat 10:00-12:00');
    type(field('closed'), '2026-12-26, 2026-12-25');
    const { operations } = await submit();
    expect(operations).toMatchObject([
      { type: 'hours.add', hours: { name: 'Shop', closed: ['2026-12-25', '2026-12-26'] } },
    ]);
  });

  it('is only read by an observer', async () => {
    const { page, field, at, key } = await setUp(office, 'observer');
    await key(16, ' ');
    expect(field('times').value).toBe('Mon-Fri 08:00-18:00');
    at(0).dispatchEvent(new PointerEvent('pointerdown', { button: 0, bubbles: true }));
    at(0).dispatchEvent(new PointerEvent('pointerup', { bubbles: true }));
    expect(field('times').value).toBe('Mon-Fri 08:00-18:00');
    expect(page.querySelector('button[type=submit]')).toBeNull();
  });
});
