import { TestBed } from '@angular/core/testing';
import type { RevisionView } from '@iron-lattice/core/rollout';
import { SiteFixture, byText } from '../testing/site-fixture';
import { RevisionSheet } from './revision-sheet';

const revisions = [3, 2, 1].map((number): RevisionView => {
  return { number, name: `Draft ${number}`, by: 'Ida Holm', at: '2026-03-01T10:00:00Z', sites: 1 };
});

describe('RevisionSheet', () => {
  const setUp = async (role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    site.edits = 1;
    const lines = [{ op: 'change' as const, path: ['vlans', '30'], before: 'Deck', after: 'Berth' }];
    site.answers.set('/api/revision-comparison/sites/s', () => ({
      objects: [
        { noun: 'segment', name: 'Deck', what: 'changed', fields: [{ name: 'vlan', before: '30', after: '31' }] },
      ],
      changes: [1, 2].map((number) => ({ deviceId: `d${number}`, name: `x-sw-0${number}`, told: 't' })),
      differences: { t: { lines, added: 1, removed: 1 } },
    }));
    site.answers.set('/api/revision-comparison/sites/t', () => ({ objects: [], changes: [], differences: {} }));
    site.answers.set('/api/revision-comparison', () => ({
      ...{ from: 2, to: 3, shared: [{ noun: 'rule', name: 'deny any → private any', what: 'added', fields: [] }] },
      sites: [
        { siteId: 's', name: 'Pier', objects: 1 },
        { siteId: 't', name: 'Quay', objects: 0 },
      ],
    }));
    site.answers.set('/back', () => ({ id: 'draft', name: 'Draft 4', edits: 3 }));
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(role);
    const fixture = TestBed.createComponent(RevisionSheet);
    fixture.componentRef.setInput('number', 3);
    fixture.componentRef.setInput('revisions', revisions);
    TestBed.tick();
    await site.answer();
    const page = fixture.nativeElement as HTMLElement;
    const look = async (name: string): Promise<void> => {
      const details = [...page.querySelectorAll('details')].find((each) => each.textContent?.includes(name))!;
      details.open = true;
      details.dispatchEvent(new Event('toggle'));
      TestBed.tick();
      await site.answer();
    };
    const press = async (text: string): Promise<void> => {
      byText(page, 'button', text).click();
      await site.answer();
    };
    return { site, page, look, press };
  };

  it('says what differs from the revision before: what sites share, and at a site when it is looked into', async () => {
    const { page, look } = await setUp();
    expect(page.textContent).toContain('2 sites differ from revision 2 to revision 3');
    expect(page.querySelector('il-object-list')!.textContent).toMatch(/added\s*rule\s*deny any → private any/);
    expect(page.querySelector('il-revision-site')).toBeNull();
    await look('Pier');
    expect(page.querySelector('il-revision-site')!.textContent).toMatch(/segment\s*Deck\s*vlan 30\s*31/);
    expect(page.querySelector('il-revision-site')!.textContent).toMatch(/2 devices\s*x-sw-01, x-sw-02/);
  });

  it('takes a site or the whole estate back, as edits of the draft', async () => {
    const { site, look, press } = await setUp();
    await look('Pier');
    await press('Pier back to revision 2');
    await press('Whole estate back to revision 2');
    const asked = site.asked.filter(({ url }) => url.endsWith('/back')).map(({ body }) => body);
    expect(asked).toEqual([
      { revision: 2, siteId: 's' },
      { revision: 2, siteId: null },
    ]);
  });

  it('offers no way back where a site has nothing of its own that differs, nor to an observer', async () => {
    const { page, look } = await setUp();
    await look('Quay');
    expect(page.textContent).not.toContain('Quay back to');
    TestBed.resetTestingModule();
    const observer = await setUp('observer');
    await observer.look('Pier');
    expect(observer.page.textContent).not.toContain('back to revision 2');
  });
});
