import { TestBed } from '@angular/core/testing';
import type { SiteReviewView } from '@iron-lattice/core/assess';
import type { RolloutView, StepState } from '@iron-lattice/core/rollout';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { RolloutPage } from './rollout-page';

const rollout = (change: Partial<RolloutView>, ...steps: StepState[]): RolloutView => ({
  id: 'r',
  draftName: 'Draft 1',
  state: 'running',
  revision: null,
  reason: null,
  resumed: false,
  startedBy: 'Ida Holm',
  startedAt: '2026-03-01T10:00:00Z',
  endedAt: null,
  steps: steps.map((state, i) => ({
    deviceId: `d${i}`,
    siteId: 's',
    name: `x-sw-0${i + 1}`,
    state,
    reason: null,
    added: 1,
    removed: 0,
  })),
  ...change,
});

describe('RolloutPage', () => {
  interface Options {
    readonly holes?: number;
    readonly edits?: number;
    readonly role?: 'administrator' | 'observer';
    /** What the draft means at other sites. */
    readonly others?: (site: SiteFixture) => readonly SiteReviewView[];
  }
  const setUp = async (options: Options = {}) => {
    const site = new SiteFixture({ segments: 3, aps: 2, holes: options.holes ?? 0 });
    site.edits = options.edits ?? 1;
    let rollouts: RolloutView[] = [];
    site.answers.set('/api/rollouts', (body) => (body === null ? rollouts : rollout({})));
    site.answers.set('/rollout-check', () => ({ devices: 4, silent: 0, errors: 0, broken: [], lockOuts: [] }));
    for (const each of options.others?.(site) ?? []) site.reviews.set(each.siteId, each);
    site.answers.set('/api/revisions', () => []);
    site.answers.set('/api/estate', () => ({ id: 'e', name: 'Estate', revision: 3, sites: [], calling: 0 }));
    site.answers.set('/cancel', () => ({}));
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(options.role);
    const fixture = TestBed.createComponent(RolloutPage);
    TestBed.tick();
    await site.reviewed();
    const page = fixture.nativeElement as HTMLElement;
    const show = async (next: RolloutView[]): Promise<void> => {
      rollouts = next;
      site.happen({ type: 'rollout', rolloutId: 'r' });
      await new Promise((resolve) => setTimeout(resolve, 80));
      await site.answer();
    };
    const press = async (text: string | RegExp): Promise<void> => {
      byText(page, 'button', text).click();
      await site.answer();
    };
    return { site, page, show, press };
  };

  it('shows every line each device would be told, and starts when asked', async () => {
    const { site, page, press } = await setUp();
    const names = [...page.querySelectorAll('summary .names')].map((name) => name.textContent);
    expect(names.sort()).toEqual(['x-ap-01', 'x-ap-02', 'x-gw-01', 'x-sw-01']);
    expect(page.querySelectorAll('il-difference-lines li').length).toBeGreaterThan(50);
    await press('Roll out to 4 devices');
    const posted = site.asked.filter(({ body }) => body !== null).map(({ url, body }) => [url, body]);
    expect(posted).toEqual([['/api/rollouts', { draftId: 'draft', despiteErrors: false, devices: 4 }]]);
  });

  it('wants errors to be accepted first, and again after every edit', async () => {
    const { site, page } = await setUp({ holes: 1 });
    const button = () => byText<HTMLButtonElement>(page, 'button', /^Roll out to/);
    expect(button().disabled).toBe(true);
    byText(page, 'mat-checkbox label', 'Roll out in spite of 1 error').click();
    await site.answer();
    expect(button().disabled).toBe(false);
    site.head++;
    site.happen({ type: 'draft', draftId: 'draft', head: site.head });
    await new Promise((resolve) => setTimeout(resolve, 80));
    await site.answer();
    expect(byText<HTMLButtonElement>(page, 'button', /^Look/).disabled).toBe(true); // not all was looked at yet
    await site.reviewed();
    expect(button().disabled).toBe(true);
  });

  it('counts the devices of every site it touches, once for all that hear the same, and those that are silent', async () => {
    const { page, press } = await setUp({
      others: (site) => [
        site.review('b', 'Brinmouth', 5, { silent: ['b0', 'b1'] }),
        site.review('c', 'Calder', 3, { counts: { error: 2, warning: 1, info: 0 } }),
      ],
    });
    expect(byText(page, 'button', /^Roll out/).textContent.trim()).toBe('Roll out to 12 devices');
    expect(page.textContent).toContain('2 devices of them silent');
    byText(page, 'mat-checkbox label', 'Roll out in spite of 2 errors');
    const [first] = page.querySelectorAll('il-draft-review summary');
    expect(first!.textContent).toMatch(/8 devices.*brinmouth-ap-0 \(silent\).*calder-ap-2/s);
    await press('Site');
    const sites = () => [...page.querySelectorAll('il-draft-review summary b')].map((name) => name.textContent);
    expect(sites()).toEqual(['Here', 'Brinmouth', 'Calder']);
    type(page.querySelector<HTMLInputElement>('#review-filter')!, 'calder-ap-1');
    TestBed.tick();
    expect(sites()).toEqual(['Calder']);
    expect(page.textContent).toContain('1 device at 1 site, in one way');
  });

  it('moves by itself while a rollout runs, and can cancel it', async () => {
    const { site, page, show, press } = await setUp();
    await show([rollout({}, 'kept', 'telling', 'waiting')]);
    expect(page.querySelector('progress')!.value).toBe(1);
    expect([...page.querySelectorAll('.state')].map((state) => state.textContent)).toEqual([
      'in step',
      'being told',
      'waits',
    ]);
    await press('Cancel and put back');
    expect(site.asked.some(({ url }) => url === '/api/rollouts/r/cancel')).toBe(true);
    await show([rollout({ state: 'done', revision: 4, endedAt: '2026-03-01T10:01:00Z' }, 'kept', 'kept', 'later')]);
    expect(page.querySelector('summary b')!.textContent).not.toBe('Draft 1');
    expect(page.textContent).toContain('Revision 4');
    expect(page.textContent).toContain('silent, gets it when it calls');
  });

  it('says why a rollout was put back, and that nothing is left of it', async () => {
    const { page, show } = await setUp();
    await show([
      rollout(
        { state: 'put-back', endedAt: '2026-03-01T10:01:00Z', reason: 'x-sw-01: flash is full.' },
        'failed',
        'not-told',
      ),
    ]);
    expect(page.querySelector('.reason')!.textContent).toContain(
      'x-sw-01: flash is full. Every device runs what it ran before; the draft is open again.',
    );
  });

  it('has nothing to send in a draft without edits, and nothing to press for an observer', async () => {
    const { page } = await setUp({ edits: 0 });
    expect(page.textContent).toContain('Nothing to send.');
    TestBed.resetTestingModule();
    const observer = await setUp({ role: 'observer' });
    expect(
      [...observer.page.querySelectorAll('button:not(.choices button)')].map((button) => button.textContent),
    ).toEqual([]);
  });
});
