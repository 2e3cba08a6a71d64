import { TestBed } from '@angular/core/testing';
import { HttpTestingController } from '@angular/common/http/testing';
import { sampleId, sampleSegment } from '@iron-lattice/core/testing';
import { SiteFixture } from '../testing/site-fixture';
import { Problem } from '../session/problem';
import { SiteStore } from './site-store';

describe('SiteStore', () => {
  it('goes on with the draft people work in, over all sites too, when the one somebody chose is over', async () => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    const store = await site.open();
    const chosen = { ...site.siteDraft.draft, id: 'chosen', edits: 3 };
    let state = 'open';
    site.answers.set('/api/drafts/chosen', () => ({ ...chosen, state }));
    store.siteId.set(null);
    void store.takeUp('chosen');
    await site.answer();
    expect(store.draft()?.id).toBe('chosen');
    state = 'rolled-out';
    site.happen({ type: 'draft', draftId: 'chosen', head: -1 });
    await new Promise((resolve) => setTimeout(resolve, 80));
    await site.answer();
    expect(store.draft()?.id).toBe('draft');
  });

  it('shows nothing of a site that people have left while an edit there was on its way', async () => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    const store = await site.open();
    const { id, name } = site.sample.site.segments[1]!;
    const siteId = site.sample.site.id;
    const done = store.edit([{ type: 'segment.set', siteId, segmentId: id, from: { name }, to: { name: 'Deck' } }]);
    store.siteId.set(null);
    TestBed.tick();
    await site.answer();
    await done;
    await site.answer();
    expect([store.data(), store.consequences(), store.draft()?.edits]).toEqual([null, null, 1]);
  });

  const setUp = async () => {
    const fixture = new SiteFixture();
    TestBed.configureTestingModule({ providers: fixture.providers });
    return { fixture, store: await fixture.open(), http: TestBed.inject(HttpTestingController) };
  };
  const untag = () => ({
    type: 'port.untag' as const,
    siteId: sampleId(9, 0),
    deviceId: sampleId(3, 0),
    port: '1',
    segmentId: sampleSegment(1).id,
  });

  it('makes an edit that was made before the page had heard of the draft', async () => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    const store = TestBed.inject(SiteStore);
    store.siteId.set(site.sample.site.id);
    TestBed.tick();
    expect(store.draft()).toBeNull();
    const done = store.edit([untag()]);
    await site.answer();
    await done;
    expect(site.sent).toEqual([untag()]);
  });

  it('looks at the site again by itself where the controller had no time for it', async () => {
    const site = new SiteFixture();
    TestBed.configureTestingModule({ providers: site.providers });
    const store = TestBed.inject(SiteStore);
    const busy = { type: 'about:lattice/controller.busy', title: 'The controller is busy at the moment.' };
    site.answers.set(`/sites/${site.sample.site.id}`, () => busy);
    vi.useFakeTimers();
    store.siteId.set(site.sample.site.id);
    TestBed.tick();
    const answered = site.answer();
    await vi.advanceTimersByTimeAsync(100);
    await answered;
    expect(store.site()).toBeNull();
    site.answers.clear();
    await vi.advanceTimersByTimeAsync(2000);
    const again = site.answer();
    await vi.advanceTimersByTimeAsync(100);
    await again;
    vi.useRealTimers();
    expect(store.site()?.name).toBe('Sample');
  });

  it('has the site with its consequences, and its devices', async () => {
    const { store } = await setUp();
    expect(store.site()?.name).toBe('Sample');
    expect(store.devices()).toHaveLength(4);
    expect(store.consequences()?.findings).toEqual([]);
    expect([...store.marks().values()].map((mark) => mark.letter)).toEqual(['M', 'S', 'E']);
  });

  it('takes the consequences of an edit from its answer, without asking again', async () => {
    const { fixture, store, http } = await setUp();
    const edited = store.edit([untag()]);
    fixture.happen({ type: 'draft', draftId: 'draft', head: 1 }); // the event of this very edit
    await fixture.answer();
    await edited;
    expect(store.consequences()?.findings.map((finding) => finding.code)).toEqual(['lattice.not-carried']);
    expect(store.lastEditMs()).toBeGreaterThanOrEqual(0);
    await new Promise((resolve) => setTimeout(resolve, 80));
    http.expectNone(() => true);
  });

  it('looks again when somebody else edited', async () => {
    const { fixture, store, http } = await setUp();
    fixture.head = 5;
    fixture.happen({ type: 'draft', draftId: 'draft', head: 5 });
    await new Promise((resolve) => setTimeout(resolve, 80));
    expect(http.match((request) => request.url.includes('/sites/'))).toHaveLength(1);
    expect(store.draft()?.head).toBe(0);
  });

  it('keeps the answer of an edit over one that was asked for before it, and asks once more', async () => {
    const { fixture, store, http } = await setUp();
    const url = '/api/drafts/current/sites/' + fixture.sample.site.id;
    void store.reload();
    const early = fixture.waiting(url);
    const before = fixture.siteDraft;
    const edited = store.edit([untag()]);
    await fixture.answer();
    await edited;
    expect(store.draft()?.head).toBe(1);
    early.flush(before);
    await new Promise((resolve) => setTimeout(resolve));
    expect(store.draft()?.head).toBe(1);
    fixture.waiting(url).flush(fixture.siteDraft);
    await new Promise((resolve) => setTimeout(resolve));
    expect(store.draft()?.head).toBe(1);
    http.expectNone(() => true);
  });

  it('shows the newer of two answers, whichever came first', async () => {
    const { fixture, store } = await setUp();
    const asked = () => TestBed.inject(HttpTestingController).match((request) => request.url.includes('/sites/'));
    void store.reload();
    const [first] = asked();
    const before = fixture.siteDraft;
    fixture.head = 4;
    void store.reload();
    const [second] = asked();
    second!.flush(fixture.siteDraft);
    await new Promise((resolve) => setTimeout(resolve));
    first!.flush(before);
    await new Promise((resolve) => setTimeout(resolve));
    expect(store.draft()?.head).toBe(4);
  });

  it('looks again when somebody else edited while an edit was under way', async () => {
    const { fixture, store, http } = await setUp();
    const edited = store.edit([untag()]);
    fixture.happen({ type: 'draft', draftId: 'draft', head: 9 }); // another edit, on top of this one
    await new Promise((resolve) => setTimeout(resolve, 80));
    const [edit] = http.match((request) => request.method === 'POST');
    edit!.flush({ ...fixture.siteDraft, draft: { ...fixture.siteDraft.draft, head: 1 } });
    await edited;
    expect(http.match((request) => request.url.includes('/sites/'))).toHaveLength(1);
  });

  it('looks once more after edits that were under way at the same time: the answer of the first may come last', async () => {
    const { fixture, store, http } = await setUp();
    const both = Promise.all([store.edit([untag()]), store.edit([untag()])]);
    const [first, second] = http.match((request) => request.method === 'POST');
    const at = (head: number) => ({ ...fixture.siteDraft, draft: { ...fixture.siteDraft.draft, head, edits: 2 } });
    // Events may be heard in any order too.
    fixture.happen({ type: 'draft', draftId: 'draft', head: 2 });
    fixture.happen({ type: 'draft', draftId: 'draft', head: 1 });
    second!.flush(at(2));
    first!.flush(at(1));
    await both;
    const [again] = http.match((request) => request.url.includes('/sites/'));
    again!.flush(at(2));
    await new Promise((resolve) => setTimeout(resolve));
    expect(store.draft()?.head).toBe(2);
  });

  it('hands a refusal to whoever asked, and leaves the site as it was', async () => {
    const { fixture, store } = await setUp();
    const refused = store.edit([{ ...untag(), segmentId: sampleSegment(0).id }]).then(
      () => null,
      (error: unknown) => error,
    );
    await fixture.answer();
    expect(await refused).toBeInstanceOf(Problem);
    expect(store.draft()?.edits).toBe(0);
    const tried = store.tryEdit([{ ...untag(), port: '99' }]);
    await fixture.answer();
    expect(await tried).toBe(false);
  });

  it('follows devices of this site and callers, not those of other sites', async () => {
    const { fixture, http } = await setUp();
    fixture.happen({ type: 'device', siteIds: ['elsewhere'], deviceIds: ['x'] });
    await new Promise((resolve) => setTimeout(resolve, 300));
    http.expectNone('/api/calling');
    fixture.happen({ type: 'device', siteIds: [null], deviceIds: ['x'] });
    await new Promise((resolve) => setTimeout(resolve, 300));
    expect(http.match('/api/calling')).toHaveLength(1);
  });
});
