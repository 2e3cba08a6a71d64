import { TestBed } from '@angular/core/testing';
import { SiteFixture } from '../testing/site-fixture';
import { DraftReviews } from './draft-reviews';

describe('DraftReviews', () => {
  const setUp = async (others: number) => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    for (let i = 0; i < others; i++) site.reviews.set(`s${i}`, site.review(`s${i}`, `Site ${i}`, 2));
    const store = await site.open();
    const reviews = TestBed.inject(DraftReviews);
    TestBed.tick();
    return { site, store, reviews };
  };
  const move = async (site: SiteFixture, edits: number): Promise<void> => {
    site.edits = edits;
    site.head++;
    site.happen({ type: 'draft', draftId: 'draft', head: site.head });
    await new Promise((resolve) => setTimeout(resolve, 80));
    await site.answer();
  };

  it('touches nothing while nothing was edited', async () => {
    const { site, reviews } = await setUp(3);
    await site.reviewed();
    expect([reviews.touched(), reviews.whole(), reviews.devices()]).toEqual([[], true, 0]);
  });

  it('looks at every site it touches, many at a time, the one in front first', async () => {
    const { site, reviews } = await setUp(45);
    await move(site, 1);
    await site.reviewed();
    expect([reviews.others(), reviews.elsewhere().length, reviews.reviews().length]).toEqual([45, 45, 46]);
    expect(reviews.devices()).toBe(4 + 90);
    expect(reviews.reviews()[0]!.siteId).toBe(site.sample.site.id);
  });

  it('is never whole while a site is missing, nor after an edit before all were looked at again', async () => {
    const { site, reviews } = await setUp(2);
    const { siteId, ...review } = site.reviews.get('s1')!;
    site.reviews.set('s1', { ...review, siteId: 'gone' }); // the answer leaves it out
    await move(site, 1);
    while (reviews.reviews().length < 2) await site.answer();
    await site.answer();
    expect([reviews.touched()?.length, reviews.reviews().length, reviews.whole()]).toEqual([3, 2, false]);
    site.reviews.set('s1', { ...review, siteId });
    await move(site, 2);
    expect([reviews.whole(), reviews.devices()]).toEqual([false, 0]);
    await site.reviewed();
    expect(reviews.devices()).toBe(8);
  });

  it('shows one that only watches where a guarantee of it breaks, and is not whole before all of these were looked at', async () => {
    const { site, reviews } = await setUp(2);
    const broken = [{ id: 'g', shared: false, words: 'Crew always reaches Tills at Here', state: 'broken' as const }];
    site.reviews.set('s0', { ...site.review('s0', 'Calm', 0), broken: [] });
    site.reviews.set('s1', { ...site.review('s1', 'Cut', 0), broken });
    const sites = site.touched.map((each, i) => (i > 0 ? { ...each, watches: true as const } : each));
    site.answers.set('/touched', () => ({ head: 1, baseRevision: 0, sites }));
    await move(site, 1);
    while (reviews.touched() === null) await site.answer((url) => url.endsWith('/touched'));
    expect([reviews.whole(), reviews.others(), reviews.progressElsewhere()]).toEqual([false, 0, { done: 0, of: 2 }]);
    await site.reviewed();
    expect(reviews.elsewhere().map(({ name }) => name)).toEqual(['Cut']);
    expect([reviews.others(), reviews.progress(), reviews.progressElsewhere()]).toEqual([
      1,
      { done: 3, of: 3 },
      { done: 2, of: 2 },
    ]);
  });

  it('says why it could not look, and looks again when asked', async () => {
    const { site, reviews } = await setUp(1);
    site.answers.set('/reviews', () => ({ type: 'about:lattice/controller.busy', title: 'Too much to do.' }));
    await move(site, 1);
    while (!reviews.problem()) await site.answer();
    expect([reviews.problem()!.message, reviews.whole()]).toEqual(['Too much to do.', false]);
    site.answers.delete('/reviews');
    void reviews.ask();
    await site.reviewed();
    expect([reviews.problem(), reviews.devices()]).toEqual([null, 6]);
  });
});
