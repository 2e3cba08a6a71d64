import { TestBed } from '@angular/core/testing';
import type { DeviceView } from '@iron-lattice/core/intake';
import { SiteFixture, byText } from '../testing/site-fixture';
import { IntakePage } from './intake-page';

const caller = (serial: string): DeviceView => ({
  id: serial,
  siteId: null,
  state: 'calling',
  kind: 'ap',
  name: null,
  model: 'AP-6',
  title: 'Access point AP-6',
  serial,
  mac: '02:00:00:00:00:99',
  firmware: '1.0.0',
  address: null,
  fingerprint: '',
  hangsOn: null,
  runs: null,
  wants: null,
  trouble: null,
  heardAt: null,
  uptime: null,
  clients: [],
});

describe('IntakePage', () => {
  const setUp = async (role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    site.calling = [caller('C-0001'), caller('C-0002')];
    TestBed.configureTestingModule({ providers: site.providers });
    const store = await site.open(role);
    const fixture = TestBed.createComponent(IntakePage);
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const click = async (element: HTMLElement): Promise<void> => {
      element.click();
      TestBed.tick();
      await site.answer();
      await fixture.whenStable();
    };
    return { site, store, fixture, page, click };
  };
  const rows = (page: HTMLElement) => [...page.querySelectorAll<HTMLElement>('tbody tr:not(.group)')];

  it('shows who calls above those that are ours, and filters by state', async () => {
    const { page, click } = await setUp();
    expect(rows(page)).toHaveLength(6);
    await click(byText(page, '.choices button', 'Calling 2'));
    expect(rows(page).map((row) => row.querySelector('td.mono')!.textContent)).toEqual(['C-0001', 'C-0002']);
    expect(page.querySelector('.choices [aria-pressed=true]')!.textContent).toContain('Calling');
  });

  it('gathers chosen callers into one claim', async () => {
    const { page, click } = await setUp();
    await click(byText(page, '.group button', 'Choose all 2'));
    expect(page.querySelector<HTMLInputElement>('#claim-serials')!.value).toBe('C-0001, C-0002');
    expect(byText(page, 'button', 'Claim 2 devices')).toBeTruthy();
    await click(rows(page)[0]!); // once more: not this one
    expect(byText(page, 'button', 'Claim 1 device')).toBeTruthy();
  });

  it('opens a device’s sheet, and walks on with the arrow keys', async () => {
    const { page, click, fixture } = await setUp();
    await click(byText(page, 'button.name', 'x-gw-01'));
    expect(page.querySelector('il-sheet h2')!.textContent).toBe('x-gw-01');
    page.querySelector('table')!.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowDown', bubbles: true }));
    await fixture.whenStable();
    expect(page.querySelector('il-sheet h2')!.textContent).toBe('x-sw-01');
    expect(rows(page).filter((row) => row.classList.contains('chosen'))).toHaveLength(1);
  });

  it('lets an observer look, and choose nothing', async () => {
    const { page, click } = await setUp('observer');
    expect(page.textContent).not.toContain('Claim by serial number');
    await click(rows(page)[0]!);
    expect(page.querySelector('il-claim-sheet')).toBeNull();
  });
});
