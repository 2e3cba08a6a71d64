import { TestBed } from '@angular/core/testing';
import type { WalkRequest } from '@iron-lattice/core/bench';
import { sampleId } from '@iron-lattice/core/testing';
import { SessionStore } from '../session/session-store';
import { SiteStore } from '../shell/site-store';
import { SiteFixture, byText } from '../testing/site-fixture';
import { BenchPage } from './bench-page';

describe('BenchPage', () => {
  const setUp = async (aps = 2) => {
    const site = new SiteFixture({ segments: 3, aps });
    site.answers.set('/api/walks', (body) => ({
      on: (body as WalkRequest).on,
      arrived: (body as WalkRequest).on === 'live',
      steps: [],
    }));
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open();
    const fixture = TestBed.createComponent(BenchPage);
    TestBed.tick();
    await site.answer();
    return { site, page: fixture.nativeElement as HTMLElement };
  };
  const walks = (site: SiteFixture) => site.asked.map(({ body }) => body as WalkRequest);

  it('walks the draft and live at once, from the first AP on 5 GHz unless told otherwise', async () => {
    const { site, page } = await setUp();
    expect(walks(site)).toEqual([]);
    byText(page, 'button', 'Walk').click();
    TestBed.tick();
    await site.answer();
    const probe = { ssidId: sampleId(5, 0), apId: sampleId(4, 0), band: '5', knowsPassphrase: true };
    expect(walks(site)).toMatchObject([
      { on: 'draft', draftId: 'draft', probe },
      { on: 'live', probe },
    ]);
    expect([...page.querySelectorAll('.outcome')].map((outcome) => outcome.textContent.trim())).toEqual([
      'Stopped at step 0',
      'Arrived: the internet answers',
    ]);
  });

  it('walks the draft again by itself when it moves, and not live', async () => {
    const { site, page } = await setUp();
    byText(page, 'button', 'Walk').click();
    TestBed.tick();
    await site.answer();
    site.head++;
    site.happen({ type: 'draft', draftId: 'draft', head: site.head });
    await new Promise((resolve) => setTimeout(resolve, 80));
    await site.answer();
    expect(walks(site).map((walk) => walk.on)).toEqual(['draft', 'live', 'draft']);
  });

  it('walks from a port where no access point is, of a switch first', async () => {
    const { site, page } = await setUp(0);
    byText(page, 'button', 'Walk').click();
    TestBed.tick();
    await site.answer();
    const [first] = walks(site);
    expect(first!.probe).toEqual({ deviceId: sampleId(3, 0), port: '1' });
  });

  it('starts from an SSID whichever is loaded first, devices or what they are to be told', async () => {
    const site = new SiteFixture({ segments: 3, aps: 1 });
    TestBed.configureTestingModule({ providers: site.providers });
    TestBed.inject(SessionStore).person.set({
      id: 'p',
      name: 'Ida Holm',
      email: 'ida@skerrow.example',
      role: 'observer',
    });
    TestBed.inject(SiteStore).siteId.set(site.sample.site.id);
    const page = TestBed.createComponent(BenchPage).nativeElement as HTMLElement;
    TestBed.tick();
    await site.answer((url) => url.endsWith('/devices') || url === '/api/calling');
    expect(page.textContent).toContain('Of device');
    await site.answer();
    expect(page.textContent).toContain('Probe on SSID');
    expect(page.textContent).not.toContain('Of device');
  });
});
