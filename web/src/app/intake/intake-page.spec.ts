import { TestBed } from '@angular/core/testing';
import type { DeviceView } from '@iron-lattice/core/intake';
import { BARE_DEVICE, SiteFixture, byText, type } from '../testing/site-fixture';
import { IntakePage } from './intake-page';

const caller = (serial: string): DeviceView => ({
  ...BARE_DEVICE,
  id: serial,
  siteId: null,
  state: 'calling',
  kind: 'ap',
  name: null,
  model: 'AP-6',
  title: 'Access point AP-6',
  serial,
  mac: '02:00:00:00:00:99',
  revision: null,
});

describe('IntakePage', () => {
  beforeEach(() => {
    localStorage.clear();
    // Without a layout nothing has a height, and a table that draws what is in sight would draw nothing.
    vi.spyOn(HTMLElement.prototype, 'clientHeight', 'get').mockReturnValue(600);
  });
  afterEach(() => vi.restoreAllMocks());

  const setUp = async (role: 'administrator' | 'observer' = 'administrator', more: Partial<SiteFixture> = {}) => {
    const site = Object.assign(new SiteFixture(), more);
    site.calling = [caller('C-0001'), caller('C-0002')];
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(role);
    const fixture = TestBed.createComponent(IntakePage);
    fixture.componentRef.setInput('siteId', site.sample.site.id);
    const settle = async (): Promise<void> => {
      for (let i = 0; i < 3; i++) {
        TestBed.tick();
        await site.answer();
        await new Promise((resolve) => setTimeout(resolve, 20)); // the table draws with the next frame
        TestBed.tick();
      }
    };
    await settle();
    const page = fixture.nativeElement as HTMLElement;
    const click = async (element: HTMLElement): Promise<void> => {
      element.click();
      await settle();
    };
    return { site, page, click, settle };
  };
  const rows = (page: HTMLElement) => [...page.querySelectorAll<HTMLElement>('.line[role=row]:not(.head):not(.group)')];
  const texts = (page: HTMLElement, column: number) =>
    rows(page).map((row) => row.querySelectorAll('[role=gridcell]')[column]!.textContent.trim());

  it('shows what is ours, what calls, and filters by state and by words', async () => {
    const { page, click, settle } = await setUp();
    expect(rows(page)).toHaveLength(6);
    await click(byText(page, '.choices button', 'Calling 2'));
    expect(texts(page, 4)).toEqual(['C-0001', 'C-0002']);
    await click(byText(page, '.choices button', 'All 6'));
    type(page.querySelector<HTMLInputElement>('input[type=search]')!, 'gateway');
    await settle();
    expect(texts(page, 2)).toEqual(['x-gw-01']);
  });

  it('gathers chosen callers into one claim', async () => {
    const { page, click } = await setUp();
    await click(byText(page, 'button', 'Choose all 2 calling'));
    expect(page.querySelector<HTMLInputElement>('#claim-serials')!.value).toBe('C-0001, C-0002');
    expect(byText(page, 'button', 'Claim 2 devices')).toBeTruthy();
    await click(page.querySelector<HTMLElement>('[aria-label="Choose C-0001"]')!);
    expect(byText(page, 'button', 'Claim 1 device')).toBeTruthy();
  });

  it('opens a device’s sheet, and walks on with the arrow keys', async () => {
    const { page, click, settle } = await setUp();
    await click(rows(page).find((row) => row.textContent.includes('x-gw-01'))!);
    expect(page.querySelector('il-sheet h2')!.textContent).toBe('x-gw-01');
    page.querySelector('.table')!.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', bubbles: true }));
    await settle();
    expect(page.querySelector('il-sheet h2')!.textContent).toBe('x-sw-01');
    expect(rows(page).filter((row) => row.classList.contains('at'))).toHaveLength(1);
  });

  it('sorts by a head, groups by a column, and remembers both', async () => {
    const { page, click } = await setUp();
    await click(byText(page, '.head button', 'Name'));
    expect(texts(page, 2).slice(0, 4)).toEqual(['x-ap-01', 'x-ap-02', 'x-gw-01', 'x-sw-01']);
    await click(byText(page, '.head button', /^Name/));
    expect(texts(page, 2).slice(0, 4)).toEqual(['x-sw-01', 'x-gw-01', 'x-ap-02', 'x-ap-01']);
    await click(byText(page, 'button', 'Group'));
    await click(byText(document.body, '[mat-menu-item]', 'By state'));
    expect([...page.querySelectorAll('.group')].map((group) => group.textContent.trim())).toEqual([
      'calling 2',
      'in step 4',
    ]);
    expect(JSON.parse(localStorage.getItem('lattice.table.site-devices')!)).toMatchObject({
      sorting: { key: 'name', down: true },
      group: 'state',
    });
  });

  it('lists hitches with their reason and what to do, and tries again', async () => {
    const hitch = {
      id: 'h',
      code: 'model' as const,
      serial: 'X-1',
      deviceId: null,
      siteId: null,
      who: 'X-1',
      reason: 'X-1 called. There is no hardware sheet for model X.',
      next: 'Supply a hardware sheet of this model; it is taken in as generic.',
      retry: 'Look again',
      times: 3,
      firstAt: '2026-11-20T08:00:00Z',
      lastAt: '2026-11-20T08:10:00Z',
    };
    const { site, page, click } = await setUp('administrator', { hitches: [hitch] });
    site.answers.set('/api/hitches/h/retry', () => ({}));
    await click(byText(page, '.choices button', 'Hitches 1'));
    expect(page.querySelector('il-hitch-list')!.textContent).toContain(hitch.reason);
    await click(byText(page, 'il-hitch-list button', 'Look again'));
    expect(site.asked).toMatchObject([{ url: '/api/hitches/h/retry' }]);
  });

  it('lets an observer look, and choose nothing', async () => {
    const { page } = await setUp('observer');
    expect(page.textContent).not.toContain('Find devices');
    expect(page.querySelector('mat-checkbox')).toBeNull();
    expect(rows(page)).toHaveLength(6);
  });
});
