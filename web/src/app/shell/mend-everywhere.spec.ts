import { TestBed } from '@angular/core/testing';
import type { MendsAsked, SiteMends } from '@iron-lattice/core/assess';
import type { Operation } from '@iron-lattice/core/intent';
import { SiteFixture, byText } from '../testing/site-fixture';
import { MendEverywhere } from './mend-everywhere';

const mend = (siteId: string, name: string, operation: Operation): SiteMends => ({
  siteId,
  name,
  left: 1,
  steps: [
    {
      finding: {
        key: `finding of ${name}`,
        code: 'x',
        severity: 'error',
        message: `${name} lacks it`,
        reason: '',
        place: { siteId, kind: 'segment', id: 's' },
        mend: { label: 'add it', operations: [operation] },
      },
      operations: [operation],
    },
  ],
});

describe('MendEverywhere', () => {
  const setUp = async (sites: number, problem?: object) => {
    const site = new SiteFixture();
    const ids = Array.from({ length: sites }, (_, i) => `site-${i}`);
    const shared: Operation = { type: 'controller.set', from: [], to: ['10.0.0.1'] };
    const own = (siteId: string): Operation => ({ type: 'segment.remove', siteId, segmentId: 's' });
    site.answers.set(
      '/mends',
      (body) => problem ?? (body as MendsAsked).siteIds.map((id) => mend(id, id, id === 'site-0' ? shared : own(id))),
    );
    TestBed.configureTestingModule({ providers: site.providers });
    const store = await site.openEstate();
    const sent: Operation[] = [];
    vi.spyOn(store, 'tryEdit').mockImplementation((operations) => {
      sent.push(...operations);
      return Promise.resolve(true);
    });
    const fixture = TestBed.createComponent(MendEverywhere);
    fixture.componentRef.setInput('siteIds', ids);
    TestBed.tick();
    await site.answer();
    await fixture.whenStable();
    return { site, sent, shared, own, fixture, page: fixture.nativeElement as HTMLElement };
  };

  it('looks at some sites after the other, and tells later ones what earlier ones change of what all share', async () => {
    const { site, page, shared } = await setUp(12);
    expect(site.asked.map(({ body }) => (body as MendsAsked).siteIds.length)).toEqual([10, 2]);
    expect(site.asked.map(({ body }) => (body as MendsAsked).given)).toEqual([[], [shared]]);
    expect(page.textContent).toContain('12 findings at 12 sites');
    expect(page.textContent).toContain('12 would be left for a person');
  });

  it('puts what is chosen into the draft at once, and counts it before', async () => {
    const { page, fixture, sent, shared, own } = await setUp(3);
    byText(page, 'mat-checkbox label', /^site-1 lacks it/).click();
    await fixture.whenStable();
    byText(page, 'button', 'Put 2 edits into the draft').click();
    await fixture.whenStable();
    expect(sent).toEqual([shared, own('site-2')]);
  });

  it('says why it could not look, and puts nothing into the draft', async () => {
    const { page } = await setUp(3, { title: 'This draft is being rolled out.', type: 'about:lattice/draft.not-open' });
    expect(page.textContent).toContain('This draft is being rolled out.');
    expect(byText<HTMLButtonElement>(page, 'button', 'Put 0 edits into the draft').disabled).toBe(true);
  });
});
