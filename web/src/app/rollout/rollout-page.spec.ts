import { TestBed } from '@angular/core/testing';
import type { SiteReviewView } from '@iron-lattice/core/assess';
import {
  AT_ONCE,
  whatStopDoes,
  type RolloutStepView,
  type RolloutView,
  type StepState,
  type WaveView,
} from '@iron-lattice/core/rollout';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { RolloutPage } from './rollout-page';
import { PROPOSED_PLAN } from './wave-form';

const view = (change: Partial<RolloutView>, ...waves: StepState[][]): RolloutView => {
  const steps = waves.flatMap((states, wave) =>
    states.map((state, i): RolloutStepView => {
      const name = `x-${wave === 0 ? 'sw' : 'ap'}-0${i + 1}`;
      const of = { deviceId: `d${wave}${i}`, siteId: `s${wave}`, siteName: `Site ${wave}`, wave };
      return { ...of, name, state, reason: null, added: 1, removed: 0 };
    }),
  );
  const listed = waves.map((states, i): WaveView => {
    const counts: Partial<Record<StepState, number>> = {};
    for (const state of states) counts[state] = (counts[state] ?? 0) + 1;
    const of = { name: i === 0 ? 'Canary: Site 0' : 'All', sites: 1, siteNames: [`Site ${i}`], silent: 0 };
    const state = states.every((each) => each === 'kept') ? 'through' : 'telling';
    return { ...of, devices: states.length, counts, clients: null, state };
  });
  const over = change.endedAt !== undefined;
  return {
    ...{
      id: 'r',
      draftId: 'draft',
      draftName: 'Draft 1',
      state: 'running',
      revision: null,
      reason: null,
      resumed: false,
    },
    ...{ startedBy: 'Ida Holm', startedAt: '2026-03-01T10:00:00Z', endedAt: null, plan: AT_ONCE, waves: listed },
    ...{ wave: 0, restUntil: null, asked: null, devices: steps.length, steps },
    would: over ? null : { stop: whatStopDoes(steps, 'stop'), back: whatStopDoes(steps, 'back') },
    ...change,
  };
};
const rollout = (change: Partial<RolloutView>, ...steps: StepState[]): RolloutView => view(change, steps);

describe('RolloutPage', () => {
  interface Options {
    readonly holes?: number;
    readonly edits?: number;
    readonly behind?: number;
    readonly role?: 'administrator' | 'observer';
    /** What the draft means at other sites. */
    readonly others?: (site: SiteFixture) => readonly SiteReviewView[];
  }
  const setUp = async (options: Options = {}) => {
    const site = new SiteFixture({ segments: 3, aps: 2, holes: options.holes ?? 0 });
    site.edits = options.edits ?? 1;
    site.behind = options.behind ?? 0;
    let rollouts: RolloutView[] = [];
    site.answers.set('/api/rollouts', (body) => (body === null ? rollouts : rollout({})));
    site.answers.set('/rollout-check', () => ({
      devices: 4,
      silent: 0,
      errors: 0,
      broken: [],
      lockOuts: [],
      drifted: [],
      held: [],
    }));
    for (const each of options.others?.(site) ?? []) site.reviews.set(each.siteId, each);
    site.answers.set('/api/revisions', () => []);
    site.answers.set('/api/estate', () => ({ id: 'e', name: 'Estate', revision: 3, sites: [], calling: 0 }));
    for (const what of ['/cancel', '/pause', '/stop', '/go-on']) site.answers.set(what, () => ({}));
    site.answers.set('/api/rollouts/r', () => rollouts[0] ?? rollout({}));
    site.answers.set('/waves', () => [
      { name: 'Canary: Brinmouth', devices: 5, silent: 0, sites: 1, siteNames: ['Brinmouth'] },
      { name: 'The rest', devices: 4, silent: 0, sites: 1, siteNames: ['Here'] },
    ]);
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

  it('says at its head that the last attempt was put back, and why, until another one goes', async () => {
    const { page, show } = await setUp();
    const over = {
      state: 'put-back',
      reason: 'x-ap-01 went back by itself.',
      endedAt: '2026-03-01T10:02:00Z',
    } as const;
    const told = () =>
      page.querySelector('section.next [role=alert]')?.textContent?.replace(/\s+/g, ' ').trim() ?? null;
    await show([rollout({ ...over, draftId: 'another' }, 'put-back')]);
    expect(told()).toBeNull();
    await show([rollout(over, 'put-back')]);
    expect(told()).toMatch(
      /^Tried 1 Mar, .* and put back\. x-ap-01 went back by itself\. Nothing of it is live; all of it/,
    );
    await show([rollout({ state: 'done', revision: 4, endedAt: over.endedAt }, 'kept'), rollout(over, 'put-back')]);
    expect(told()).toBeNull();
  });

  it('shows every line each device would be told, and starts when asked', async () => {
    const { site, page, press } = await setUp();
    const names = [...page.querySelectorAll('summary .names')].map((name) => name.textContent);
    expect(names.sort()).toEqual(['x-ap-01', 'x-ap-02', 'x-gw-01', 'x-sw-01']);
    expect(page.querySelectorAll('il-difference-lines li').length).toBeGreaterThan(50);
    await press('Roll out to 4 devices');
    const posted = site.asked.filter(({ body }) => body !== null).map(({ url, body }) => [url, body]);
    expect(posted).toEqual([['/api/rollouts', { draftId: 'draft', head: 0, despiteErrors: false, devices: 4 }]]);
  });

  it('of many sites says how far it is with looking at them once more, and can be left', async () => {
    const { site, page } = await setUp();
    byText(page, 'button', 'Roll out to 4 devices').click();
    await Promise.resolve();
    const asked = site.waiting('/api/rollouts');
    site.happen({ type: 'planning', draftId: 'another', done: 1, of: 2 });
    TestBed.tick();
    expect(page.textContent).not.toContain('once more');
    site.happen({ type: 'planning', draftId: 'draft', done: 350, of: 1000 });
    TestBed.tick();
    expect(page.textContent).toMatch(/Looking at every site once more\s*350\/1,000/);
    byText(page, 'button', 'Leave it').click();
    expect(asked.cancelled).toBe(true);
    await site.answer();
    expect(page.textContent).not.toContain('once more');
    expect(byText<HTMLButtonElement>(page, 'button', 'Roll out to 4 devices').disabled).toBe(false);
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
    await press('Device');
    expect([...page.querySelectorAll('il-draft-review summary b')]).toHaveLength(12);
    expect(page.querySelector('il-draft-review summary .caution')!.textContent).toBe('silent, told when it calls');
    await press('Site');
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
    await press('Go back…');
    expect(page.querySelector('[role=alertdialog] p')!.textContent).toBe(
      '2 devices at 1 site go back to what they ran before, 1 device at 1 site are told nothing. The draft is open again.',
    );
    expect(site.asked.some(({ url }) => url === '/api/rollouts/r/cancel')).toBe(false);
    await press('Go back, put back 2 devices');
    expect(site.asked.some(({ url }) => url === '/api/rollouts/r/cancel')).toBe(true);
    await show([rollout({ state: 'done', revision: 4, endedAt: '2026-03-01T10:01:00Z' }, 'kept', 'kept', 'later')]);
    expect(page.querySelector('summary b')!.textContent).not.toBe('Draft 1');
    expect(page.textContent).toContain('Revision 4');
    expect(page.textContent).toContain('silent, gets it when it calls');
  });

  it('shows all that are under way, and waits with what they are telling', async () => {
    const { site, page, show } = await setUp();
    const button = () => byText<HTMLButtonElement>(page, 'button', 'Roll out to 4 devices');
    await show([rollout({}, 'kept', 'waiting'), { ...rollout({}, 'telling'), id: 's', draftName: 'Winter names' }]);
    expect(page.querySelectorAll('il-rollout-progress details[open]')).toHaveLength(2);
    expect(button().disabled).toBe(false); // it touches none of their sites
    const held = ['Brinmouth', 'Calder'].map((siteName) => ({ siteName, draftName: 'Winter names' }));
    const none = { devices: 4, silent: 0, errors: 0, broken: [], lockOuts: [], drifted: [] };
    site.answers.set('/rollout-check', () => ({ ...none, held }));
    await show([rollout({}, 'kept', 'waiting')]);
    expect(page.querySelector('il-draft-against')!.textContent).toContain('“Winter names” at Brinmouth, Calder.');
    expect(button().disabled).toBe(true);
    site.answers.set('/rollout-check', () => ({ ...none, held: [] }));
    await show([]);
    expect(button().disabled).toBe(false);
  });

  it('goes in waves when that is chosen, says how many and which, and asks for exactly these', async () => {
    const { site, page, press } = await setUp({ others: (site) => [site.review('b', 'Brinmouth', 5)] });
    await press('In waves');
    await site.answer();
    expect([...page.querySelectorAll('il-wave-list li .name')].map((name) => name.textContent)).toEqual([
      'Canary: Brinmouth',
      'The rest',
    ]);
    type(page.querySelector<HTMLInputElement>('#wave-shares')!, '50, 10');
    await site.answer();
    expect(page.textContent).toContain('Give growing percentages below 100');
    expect(byText<HTMLButtonElement>(page, 'button', /^Roll out to 9 devices/).disabled).toBe(true);
    type(page.querySelector<HTMLInputElement>('#wave-shares')!, '20');
    await site.answer();
    await press('Roll out to 9 devices in 2 waves');
    const [, body] = site.asked
      .filter(({ body }) => body !== null)
      .map(({ url, body }) => [url, body] as const)
      .at(-1)!;
    expect(body).toMatchObject({ devices: 9, waves: { ...PROPOSED_PLAN, shares: [20] } });
  });

  it('shows each wave, and says what stopping here would do before it is done', async () => {
    const { site, page, show, press } = await setUp();
    const reason = 'x-ap-01: It refused its document.';
    const between = { revision: 4, wave: 1, state: 'paused', reason } as const;
    await show([view(between, ['kept', 'kept'], ['failed', 'waiting'])]);
    expect([...page.querySelectorAll('il-wave-list .state')].map((state) => state.textContent?.trim())).toEqual([
      'through',
      '1 device failed',
    ]);
    await press('Go on, try 1 device again');
    await press('Stop here…');
    expect(page.querySelector('[role=alertdialog] p')!.textContent).toBe(
      '2 devices at 1 site stay as they were told, 2 devices at 1 site are told nothing. Sites that are not told are behind; the next rollout tells them.',
    );
    await press('Leave it');
    expect(page.querySelector('[role=alertdialog]')).toBeNull();
    await press('Stop here…');
    await press(/^Stop here$/);
    const asked = site.asked.map(({ url }) => url).filter((url) => url.startsWith('/api/rollouts/r/'));
    expect(asked).toEqual(['/api/rollouts/r/go-on', '/api/rollouts/r/stop']);
  });

  it('tells sites that are behind with a draft that has no edits', async () => {
    const { page } = await setUp({ edits: 0, behind: 1 });
    expect(page.textContent).toContain('1 site behind, told too');
    expect(byText<HTMLButtonElement>(page, 'button', 'Roll out to 4 devices').disabled).toBe(false);
  });

  it('says what the draft is called and for, as seen when typing began', async () => {
    const { site, page, press } = await setUp();
    site.answers.set('/api/drafts/draft', () => ({}));
    expect(page.textContent).toContain('Ida Holm, 1 Mar');
    const name = page.querySelector<HTMLInputElement>('#draft-name')!;
    const before = name.value;
    type(name, 'Summer timetable');
    type(page.querySelector<HTMLInputElement>('#draft-description')!, 'Request 4711');
    TestBed.tick();
    await press('Save');
    expect(site.asked.find(({ url }) => url === '/api/drafts/draft')!.body).toEqual({
      from: { name: before, description: '' },
      to: { name: 'Summer timetable', description: 'Request 4711' },
    });
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

  it('has nothing to send in a draft without edits, and nothing to change for an observer, who may look at other drafts', async () => {
    const { page } = await setUp({ edits: 0 });
    expect(page.textContent).toContain('Nothing to send.');
    TestBed.resetTestingModule();
    const observer = await setUp({ role: 'observer' });
    expect(
      [...observer.page.querySelectorAll('button:not(.choices button)')].map((button) => button.textContent.trim()),
    ).toEqual(['Other drafts']);
  });
});
