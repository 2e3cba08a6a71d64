import { TestBed } from '@angular/core/testing';
import type { ReleaseView, UpdateBatchView, UpdateView } from '@iron-lattice/core/firmware';
import { SiteFixture, byText } from '../testing/site-fixture';
import { FirmwarePage } from './firmware-page';

const release = (version: string, more: Partial<ReleaseView> = {}): ReleaseView => ({
  model: 'AP-6E',
  version,
  releasedOn: '2026-09-01',
  notes: `Notes of ${version}.`,
  minimumPrevious: null,
  unsupported: false,
  holdsLine: true,
  size: 96_000,
  sha256: 'a'.repeat(64),
  running: 0,
  ...more,
});
const update = (name: string, more: Partial<UpdateView>): UpdateView => ({
  id: name,
  batchId: 'b',
  deviceId: `id of ${name}`,
  name,
  siteId: 's',
  from: '1.0.0',
  release: '2.0.0',
  state: 'waiting',
  percent: 0,
  canary: false,
  reason: null,
  notBefore: '2026-01-01T00:00:00Z',
  endedAt: null,
  ...more,
});

describe('FirmwarePage', () => {
  const setUp = async (updates: UpdateView[], role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    const batch: UpdateBatchView = { id: 'b', mode: 'staged', by: 'Ida Holm', at: '2026-11-20T08:00:00Z', updates };
    site.answers.set('/api/firmware', () => [
      release('1.0.0', { running: 2 }),
      release('2.0.0', { minimumPrevious: '1.0.0' }),
      release('0.5.0', { unsupported: true }),
    ]);
    site.answers.set('/api/firmware/updates', () => [batch]);
    site.answers.set('/go-on', () => batch);
    site.answers.set('/cancel', () => batch);
    site.answers.set('/plan', (body) =>
      (body as { deviceIds: string[] }).deviceIds.map((deviceId, i) => ({
        deviceId,
        name: `x-ap-0${i + 1}`,
        model: 'AP-6E',
        running: '1.0.0',
        state: 'older',
        steps: ['2.0.0'],
        canary: i === 0,
        notBefore: '2026-11-29T02:30:00Z',
        refusal: null,
      })),
    );
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(role);
    const fixture = TestBed.createComponent(FirmwarePage);
    TestBed.tick();
    await site.answer();
    const page = fixture.nativeElement as HTMLElement;
    const press = async (text: string): Promise<void> => {
      byText(page, 'button', text).click();
      TestBed.tick();
      await site.answer();
    };
    return { site, page, press };
  };

  it('lists releases newest first, with what each is and how many run it', async () => {
    const { page } = await setUp([]);
    const rows = [...page.querySelectorAll('tbody tr')].map((row) =>
      [...row.querySelectorAll('td')].map((cell) => cell.textContent.trim()),
    );
    expect(rows.map(([, version, , is, running]) => [version, is, running])).toEqual([
      ['2.0.0', 'current', '–'],
      ['1.0.0', 'older', '2'],
      ['0.5.0', 'unsupported', '–'],
    ]);
    expect(page.textContent).toContain('2 devices could be newer');
  });

  it('shows how each device gets on, holds the rest back behind one that failed, and goes on when told', async () => {
    const failed = update('x-ap-01', {
      state: 'failed',
      canary: true,
      reason: 'It went back.',
      endedAt: '2026-11-20T08:01:00Z',
    });
    const { site, page, press } = await setUp([
      failed,
      update('x-ap-02', { state: 'held', reason: 'x-ap-01 went first and failed.' }),
    ]);
    const lines = [...page.querySelectorAll('li')].map((line) => line.textContent.replace(/\s+/g, ' ').trim());
    expect(lines[0]).toContain('failed, first');
    expect(lines[0]).toContain('It went back.');
    expect(lines[1]).toContain('held back');
    await press('Go on with the rest');
    expect(site.asked.some((each) => each.url === '/api/firmware/updates/b/go-on')).toBe(true);
    await press('Try the failed again');
    expect(site.asked.findLast((each) => each.url === '/api/firmware/updates' && each.body !== null)?.body).toEqual({
      deviceIds: ['id of x-ap-01'],
      mode: 'now',
    });
  });

  it('says before an update what it would do, and asks for it as chosen', async () => {
    const { site, page, press } = await setUp([]);
    await press('2.0.0');
    expect(page.textContent).toContain('2 × AP-6E 1.0.0 → 2.0.0.');
    await press('One first, then the rest');
    expect(page.textContent).toContain('x-ap-01 first.');
    await press('Update 2');
    expect(
      site.asked.findLast((each) => each.url === '/api/firmware/updates' && each.body !== null)?.body,
    ).toMatchObject({
      mode: 'staged',
    });
  });

  it('lets an observer look only', async () => {
    const { page, press } = await setUp([update('x-ap-01', {})], 'observer');
    await press('2.0.0');
    expect(page.querySelector('il-update-form')).toBeNull();
    expect(page.textContent).not.toContain('Call off');
    expect(page.textContent).not.toContain('Add a release');
  });
});
