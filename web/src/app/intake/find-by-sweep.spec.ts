import { TestBed } from '@angular/core/testing';
import type { SweepView } from '@iron-lattice/core/intake';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { FindBySweep } from './find-by-sweep';

const find = (
  serial: string,
  known: SweepView['found'][number]['known'],
  address: string,
): SweepView['found'][number] => ({
  serial,
  known,
  address,
  model: 'AP-6',
  mac: '02:00:00:00:00:01',
  firmware: '1.0.0',
});
const SWEEP: SweepView = {
  id: 'w',
  prefix: '10.1.1.0/24',
  by: 'x-gw-01',
  state: 'running',
  done: 128,
  of: 256,
  reason: null,
  found: [],
  ms: 400,
};

describe('FindBySweep', () => {
  const setUp = async (last: SweepView[] = []) => {
    const site = new SiteFixture();
    let now = SWEEP;
    site.answers.set(`/api/sweeps?siteId=${site.sample.site.id}`, () => last);
    site.answers.set('/api/sweeps/w/invitations', () => ({}));
    site.answers.set('/api/sweeps/w/stop', () => (now = { ...now, state: 'stopped' }));
    site.answers.set('/api/sweeps/w', () => now);
    site.answers.set('/api/sweeps', () => now);
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(FindBySweep);
    fixture.componentRef.setInput('siteId', site.sample.site.id);
    const page = fixture.nativeElement as HTMLElement;
    const settle = async (): Promise<void> => {
      for (let i = 0; i < 3; i++) {
        TestBed.tick();
        await site.answer();
      }
    };
    await settle();
    const press = async (text: string): Promise<void> => {
      byText(page, 'button', text).click();
      await settle();
    };
    const becomes = async (change: Partial<SweepView>): Promise<void> => {
      now = { ...now, ...change };
      site.happen({ type: 'sweep', sweepId: 'w' });
      await new Promise((resolve) => setTimeout(resolve, 260));
      await settle();
    };
    return { site, page, press, becomes, settle };
  };

  it('proposes where the site’s devices live, swept by its gateway', async () => {
    const { site, page, press } = await setUp();
    expect(page.querySelector<HTMLInputElement>('#sweep-prefix')!.value).toBe('10.1.1.0/24');
    await press('Sweep');
    const gateway = site.sample.roster.find((device) => device.model === 'GW-4')!;
    expect(site.asked.find((each) => each.url === '/api/sweeps')!.body).toEqual({
      prefix: '10.1.1.0/24',
      deviceId: gateway.id,
      siteId: site.sample.site.id,
    });
  });

  it('shows how far it is, what it found, and has those that wait call', async () => {
    const { site, page, press, becomes } = await setUp();
    await press('Sweep');
    expect(page.querySelector('progress')!.value).toBe(128);
    const found = [
      find('W-1', 'new', '10.1.1.40'),
      find('W-2', 'expected', '10.1.1.41'),
      find('OURS', 'ours', '10.1.1.20'),
    ];
    await becomes({ state: 'done', done: 256, found });
    expect([...page.querySelectorAll('tbody tr')].map((row) => row.querySelectorAll('td')[5]!.textContent)).toEqual([
      'waits',
      'expected',
      'ours already',
    ]);
    await press('Have all 2 call');
    const invited = site.asked.filter((each) => each.url.endsWith('/invitations')).map((each) => each.body);
    expect(invited).toEqual([{ address: '10.1.1.40' }, { address: '10.1.1.41' }]);
  });

  it('is stopped at a press, and shows the last one again', async () => {
    const { page, press } = await setUp([SWEEP]);
    expect(page.textContent).toContain('128 of 256 addresses');
    await press('Stop');
    expect(page.textContent).toContain('stopped');
    expect(byText(page, 'button', 'Sweep')).toBeTruthy();
  });

  it('says at its field why a prefix is not swept', async () => {
    const { site, page, press, settle } = await setUp();
    const message = 'A sweep is for your own networks.';
    site.answers.set('/api/sweeps', () => ({
      type: 'about:lattice/sweep.refused',
      title: message,
      flaws: [{ code: 'x', message, field: 'prefix' }],
    }));
    type(page.querySelector<HTMLInputElement>('#sweep-prefix')!, '8.8.8.0/24');
    await settle();
    await press('Sweep');
    expect(page.querySelector('#sweep-prefix')!.closest('il-cell')!.querySelector('.flaw')!.textContent).toBe(message);
  });
});
