import { TestBed } from '@angular/core/testing';
import type { DeviceRow } from '@iron-lattice/core/intake';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { ManySheet } from './many-sheet';

describe('ManySheet', () => {
  const setUp = async (change: (rows: DeviceRow[]) => DeviceRow[] = (rows) => rows) => {
    const site = new SiteFixture();
    site.answers.set('/api/devices', () => ({ done: 3, failed: [] }));
    site.answers.set('/api/device-restarts', () => ({
      done: 2,
      failed: [{ name: 'x-ap-01', reason: 'x-ap-01 is silent.' }],
    }));
    site.answers.set('/api/expected/removals', () => ({}));
    site.answers.set('/plan', () => []);
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(ManySheet);
    fixture.componentRef.setInput('devices', change(site.devices.slice(0, 3)));
    const page = fixture.nativeElement as HTMLElement;
    const settle = async (): Promise<void> => {
      TestBed.tick();
      await site.answer();
    };
    await settle();
    const press = async (text: string): Promise<void> => {
      byText(page, 'button', text).click();
      await settle();
    };
    return { site, page, press, settle };
  };

  it('says which devices it is about', async () => {
    const { page } = await setUp();
    expect(page.querySelector('h2')!.textContent).toBe('3 devices');
    expect(page.textContent).toContain('x-gw-01, x-sw-01, x-ap-01');
  });

  it('adds tags to all and takes them off', async () => {
    const { site, page, press, settle } = await setUp();
    type(page.querySelector<HTMLInputElement>('#many-tags')!, 'Deck, spare');
    await settle();
    await press('Add');
    await press('Take off');
    const deviceIds = site.devices.slice(0, 3).map((device) => device.id);
    expect(site.asked.filter((each) => each.url === '/api/devices').map((each) => each.body)).toEqual([
      { deviceIds, addTags: ['deck', 'spare'] },
      { deviceIds, removeTags: ['deck', 'spare'] },
    ]);
  });

  it('says of what was asked what was done, and of the rest why not', async () => {
    const { page, press } = await setUp();
    await press('Restart 3');
    expect(page.textContent).toContain('2 done, 1 not:');
    expect(page.textContent).toContain('x-ap-01 is silent.');
  });

  it('takes expected ones off the list, and restarts only what is ours', async () => {
    const { site, page, press } = await setUp((rows) =>
      rows.map((row, i) => (i === 0 ? { ...row, state: 'expected' } : row)),
    );
    expect(byText(page, 'button', 'Restart 2')).toBeTruthy();
    await press('Take 1 off the list');
    expect(site.asked.find((each) => each.url === '/api/expected/removals')!.body).toEqual({
      deviceIds: [site.devices[0]!.id],
    });
  });
});
