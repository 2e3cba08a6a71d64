import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import { SiteFixture, byText } from '../testing/site-fixture';
import { Dock } from './dock';

describe('Dock', () => {
  const setUp = async (holes: number, role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture({ segments: 3, aps: 2, holes });
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(role);
    const fixture = TestBed.createComponent(Dock);
    await fixture.whenStable();
    return { site, fixture, page: fixture.nativeElement as HTMLElement };
  };

  it('says that nothing is wrong when nothing is', async () => {
    const { page } = await setUp(0);
    expect(page.querySelector('section')!.textContent).toContain('Nothing is inconsistent here.');
    expect(page.querySelectorAll('article')).toHaveLength(0);
  });

  it('lists what each device would be told, from the gateway outwards', async () => {
    const { page } = await setUp(0);
    const names = [...page.querySelectorAll('li')].map((item) => item.textContent.trim().split(' ')[0]);
    expect(names).toEqual(['x-gw-01', 'x-sw-01', 'x-ap-01', 'x-ap-02']);
  });

  it('says when the devices of the site were told something older than what is live elsewhere', async () => {
    const { site, page } = await setUp(0);
    expect(page.textContent).not.toContain('This site is behind');
    site.told = { revision: 6, behind: true, by: null };
    site.happen({ type: 'draft', draftId: 'draft', head: -1 });
    await new Promise((resolve) => setTimeout(resolve, 80));
    await site.answer();
    TestBed.tick();
    expect(page.textContent).toMatch(/This site is behind: its devices were told revision 6\./);
  });

  it('leaves to another rollout what that one has yet to tell here', async () => {
    const { site, page } = await setUp(0);
    const devices = (): string => page.querySelectorAll('dd')[2]!.textContent;
    expect(devices()).toMatch(/^4/);
    site.told = { revision: 6, behind: true, by: 'Winter names' };
    site.happen({ type: 'draft', draftId: 'draft', head: -1 });
    await new Promise((resolve) => setTimeout(resolve, 80));
    await site.answer();
    TestBed.tick();
    expect(page.textContent).toContain('“Winter names” is being rolled out at this site');
    expect(devices()).toMatch(/^0/);
    expect(page.textContent).toContain('No device here would hear anything new.');
  });

  it('offers to drop an edit that no longer fits, or to make it again on what is there now', async () => {
    const { site, page } = await setUp(0);
    const operation = { type: 'controller.set' as const, from: [], to: ['10.0.0.1'] };
    const flaws = [{ code: 'controller.changed', message: 'Somebody changed it meanwhile.' }];
    const misfit = { number: 3, operation, words: 'where this controller answers changed', flaws };
    site.misfits = [
      { ...misfit, again: true },
      { ...misfit, number: 4, again: false },
    ];
    site.answers.set('/misfits/3/again', () => ({}));
    site.happen({ type: 'draft', draftId: 'draft', head: -1 });
    await new Promise((resolve) => setTimeout(resolve, 80));
    await site.answer();
    TestBed.tick();
    const offered = [...page.querySelectorAll('article')].map((each) =>
      [...each.querySelectorAll('button')].map((button) => button.textContent.trim()),
    );
    expect(offered).toEqual([['Mine all the same', 'Drop it'], ['Drop it']]);
    byText(page, 'button', 'Mine all the same').click();
    await site.answer();
    expect(site.asked.some(({ url }) => url === '/api/drafts/draft/misfits/3/again')).toBe(true);
  });

  it('mends with one press, by exactly the computed edit', async () => {
    const { site, fixture, page } = await setUp(1);
    const [finding] = site.siteDraft.consequences.findings;
    expect(page.querySelector('article b')!.textContent).toBe(finding!.message);
    byText(page, 'button', `Mend: ${finding!.mend!.label}`).click();
    await site.answer();
    await fixture.whenStable();
    expect(site.sent).toEqual(finding!.mend!.operations);
    expect(page.querySelectorAll('article')).toHaveLength(0);
  });

  it('says what the draft means at other sites, each with what is to be done there, and counts all devices', async () => {
    const { site, fixture, page } = await setUp(0);
    const finding = {
      key: 'k',
      code: 'lattice.gap',
      severity: 'error' as const,
      message: 'Crew stops at port 7',
      reason: 'It is not carried.',
      place: { siteId: 'b', kind: 'segment' as const, id: 's' },
      mend: { label: 'tag 10', operations: [] },
    };
    const counts = { error: 1, warning: 0, info: 0 };
    site.reviews.set('b', site.review('b', 'Brinmouth', 5, { counts, findings: [finding] }));
    site.reviews.set('c', site.review('c', 'Calder', 3));
    site.edits = 1;
    site.head = 1;
    site.happen({ type: 'draft', draftId: 'draft', head: 1 });
    await site.reviewed();
    await fixture.whenStable();
    expect(page.querySelector('il-elsewhere')!.textContent).toMatch(/2 other sites.*1 finding · 8 devices\s+change/s);
    expect([...page.querySelectorAll('dl dd')].at(-1)!.textContent).toBe('12');
    const sites = [...page.querySelectorAll('il-elsewhere summary .name')].map((name) => name.textContent);
    expect(sites).toEqual(['Brinmouth', 'Calder']); // the worst first
    byText(page, 'il-elsewhere button', 'Show').click();
    await new Promise((resolve) => setTimeout(resolve));
    expect(TestBed.inject(Router).url).toMatch(/^\/sites\/b\/lattice/);
    byText(page, 'il-elsewhere button', 'Mend: tag 10');
  });

  it('goes to the place of a finding', async () => {
    const { page } = await setUp(1);
    byText(page, 'button', 'Show').click();
    await new Promise((resolve) => setTimeout(resolve));
    expect(TestBed.inject(Router).url).toMatch(/^\/sites\/[^/]+\/lattice\?show=port:/);
  });

  it('offers no mend to who may not change anything', async () => {
    const { page } = await setUp(1, 'observer');
    expect(page.querySelectorAll('article')).toHaveLength(1);
    expect(page.querySelector('.mend')).toBeNull();
  });
});
