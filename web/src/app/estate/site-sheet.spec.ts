import { TestBed } from '@angular/core/testing';
import type { EstateView, SiteView } from '@iron-lattice/core/intake';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { SiteSheet } from './site-sheet';

const SITE: SiteView = {
  id: 's',
  version: 3,
  name: 'Petrel',
  code: 'pt',
  country: 'IE',
  timeZone: 'Europe/Dublin',
  address: 'At sea',
  coordinates: null,
  purpose: '',
  tags: ['vessel'],
  window: null,
  devices: { expected: 0, calling: 0, 'in step': 4, behind: 0, silent: 0, stuck: 0 },
  drafts: 0,
  hitches: 0,
  paths: null,
  revision: 1,
  behind: false,
};
const ESTATE: EstateView = {
  id: 'e',
  name: 'Skerrow Ferries',
  country: 'IE',
  timeZone: 'Europe/Dublin',
  window: { day: 0, from: 150, minutes: 120 },
  revision: 1,
  sites: [SITE],
  calling: 0,
};

describe('SiteSheet', () => {
  const setUp = async (role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    site.answers.set('/api/estate', () => ESTATE);
    site.answers.set('/api/sites/s', () => SITE);
    TestBed.configureTestingModule({ providers: site.providers });
    await site.open(role);
    const fixture = TestBed.createComponent(SiteSheet);
    fixture.componentRef.setInput('site', SITE);
    await new Promise((resolve) => setTimeout(resolve, 20));
    TestBed.tick();
    await site.answer();
    const page = fixture.nativeElement as HTMLElement;
    const press = async (text: string | RegExp): Promise<void> => {
      byText(page, 'button', text).click();
      TestBed.tick();
      await site.answer();
    };
    return { site, fixture, page, press };
  };

  it('shows where the site is, what its radios may do, and when its devices may restart', async () => {
    const { page } = await setUp();
    expect(page.querySelector<HTMLInputElement>('#site-address')!.value).toBe('At sea');
    expect(page.textContent).toContain('As the estate: Sunday 02:30 to 04:30');
    expect(page.textContent).toContain('Europe: 2.4 GHz 1–13 up to 20 dBm');
  });

  it('saves what was changed, and only then offers to', async () => {
    const { site, page, press } = await setUp();
    const save = byText<HTMLButtonElement>(page, 'button', 'Save');
    expect(save.disabled).toBe(true);
    type(page.querySelector<HTMLInputElement>('#site-tags')!, 'vessel, north');
    type(page.querySelector<HTMLInputElement>('#site-purpose')!, 'The night boat');
    type(page.querySelector<HTMLInputElement>('#site-coordinates')!, 'off the pier');
    TestBed.tick();
    expect(page.textContent).toContain('Latitude, then longitude');
    expect(save.disabled).toBe(true);
    type(page.querySelector<HTMLInputElement>('#site-coordinates')!, '51.9 N, 8.45 W');
    TestBed.tick();
    await press('Its own');
    await press('Save');
    expect(site.asked.find((each) => each.url === '/api/sites/s')!.body).toEqual({
      version: 3,
      address: 'At sea',
      coordinates: { latitude: 51.9, longitude: -8.45 },
      purpose: 'The night boat',
      tags: ['vessel', 'north'],
      window: ESTATE.window,
    });
  });

  it('hands the site on to be copied', async () => {
    const { fixture, press } = await setUp();
    const copied: SiteView[] = [];
    fixture.componentInstance.copied.subscribe((site) => copied.push(site));
    await press('Copy this site');
    expect(copied).toEqual([SITE]);
  });

  it('lets an observer look', async () => {
    const { page } = await setUp('observer');
    expect(page.textContent).not.toContain('Save');
    expect(page.querySelector<HTMLInputElement>('#site-address')!.readOnly).toBe(true);
  });
});
