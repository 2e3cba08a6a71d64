import { TestBed } from '@angular/core/testing';
import { sampleId } from '@iron-lattice/core/testing';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { SharedSsidsPage } from './shared-ssids-page';

const QUAY = sampleId(9, 1);

describe('SharedSsidsPage', () => {
  beforeEach(() => {
    localStorage.clear();
    // Without a layout nothing has a height, and a table that draws what is in sight would draw nothing.
    vi.spyOn(HTMLElement.prototype, 'clientHeight', 'get').mockReturnValue(600);
  });
  afterEach(() => vi.restoreAllMocks());

  const setUp = async (role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    const { id, name } = site.sample.site;
    site.answers.set('/api/estate', () => ({
      sites: [
        { id, name },
        { id: QUAY, name: 'Quay' },
      ],
    }));
    TestBed.configureTestingModule({ providers: site.providers });
    await site.openEstate(role);
    const fixture = TestBed.createComponent(SharedSsidsPage);
    const settle = async (): Promise<void> => {
      for (let i = 0; i < 3; i++) {
        TestBed.tick();
        await site.answer();
        await new Promise((resolve) => setTimeout(resolve, 60)); // what happens is followed after a while
        TestBed.tick();
      }
      await fixture.whenStable();
    };
    await settle();
    const page = fixture.nativeElement as HTMLElement;
    const click = async (element: HTMLElement): Promise<void> => {
      element.click();
      await settle();
    };
    const choose = async (field: string, option: RegExp): Promise<void> => {
      await click(page.querySelector<HTMLElement>(`mat-select#${field}`)!);
      await click(byText(document.body, 'mat-option', option));
    };
    return { site, settle, page, click, choose };
  };

  it('lists every SSID, and says where the segment is missing that its clients join', async () => {
    const { site, settle, page } = await setUp();
    const [first, ...others] = site.sample.intent.estate.ssids;
    expect(page.textContent).toContain(`${others.length + 1} SSIDs, at all sites`);
    expect(page.textContent).not.toContain('its segment at');
    site.change({ type: 'ssid.set', ssidId: first!.id, from: { segment: first!.segment }, to: { segment: 'Nowhere' } });
    await settle();
    expect(page.textContent).toContain('its segment at 1 site');
  });

  it('adds one for the whole estate, with a segment that sites have by name', async () => {
    const { site, page, click, choose, settle } = await setUp();
    await click(byText(page, 'button', 'Add SSID'));
    const field = (name: string) => page.querySelector<HTMLInputElement>(`#ssid-${name}`)!;
    type(field('name'), 'Everywhere');
    type(field('passphrase'), 'gull-on-the-mast');
    type(field('purpose'), 'For all who come');
    await choose('ssid-segment', /^Segment 1 · VLAN 10 at 1 site$/);
    await click(byText(page, 'button[type=submit]', 'Add SSID'));
    expect(site.sent).toMatchObject([
      {
        type: 'ssid.add',
        ssid: {
          name: 'Everywhere',
          segment: 'Segment 1',
          reach: { kind: 'estate' },
          purpose: 'For all who come',
        },
      },
    ]);
    await settle();
    // It stays open, with what it is at each site.
    expect(page.querySelector('il-sheet h2')!.textContent).toBe('Everywhere');
    expect(page.querySelector('il-at-sites')!.textContent).toContain('10.1.10.0/24');
  });

  it('lets some sites be chosen by name, and none is no choice', async () => {
    const { site, page, click, choose } = await setUp();
    const [first] = site.sample.intent.estate.ssids;
    await click(byText(page, '.line [role=gridcell]', first!.name));
    await choose('ssid-reach', /^some sites$/);
    const put = byText<HTMLButtonElement>(page, 'button[type=submit]', 'Put into the draft');
    if (first!.reach.kind === 'estate') {
      expect(page.textContent).toContain('Choose at least one site.');
      expect(put.disabled).toBe(true);
    }
    const sites = page.querySelector<HTMLInputElement>('#ssid-reach-sites')!;
    for (const name of ['Quay', 'Pier']) {
      type(sites, name);
      sites.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', bubbles: true }));
      await click(page);
    }
    await click(byText(page, 'button[type=submit]', 'Put into the draft'));
    expect(site.sent).toMatchObject([{ type: 'ssid.set', to: { reach: { kind: 'sites' } } }]);
    const [sent] = site.sent as unknown as [{ to: { reach: { siteIds: string[] } } }];
    expect(sent.to.reach.siteIds).toContain(QUAY);
    // Of a name that no site has, none is made.
    expect(sent.to.reach.siteIds.every((id) => [QUAY, site.sample.site.id].includes(id))).toBe(true);
  });

  it('shows all of it to an observer, and lets nothing be changed', async () => {
    const { site, page, click } = await setUp('observer');
    await click(byText(page, '.line [role=gridcell]', site.sample.intent.estate.ssids[0]!.name));
    expect(page.querySelector('il-at-sites')).not.toBeNull();
    expect(page.querySelector('button[type=submit]')).toBeNull();
    expect([...page.querySelectorAll('button')].some((each) => each.textContent.trim() === 'Add SSID')).toBe(false);
  });
});
