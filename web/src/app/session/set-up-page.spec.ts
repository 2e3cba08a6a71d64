import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import { SiteFixture, byText, type } from '../testing/site-fixture';
import { SetUpPage } from './set-up-page';

describe('SetUpPage', () => {
  const setUp = async (needed = true) => {
    const site = new SiteFixture();
    site.answers.set('/api/set-up', (body) =>
      body === null
        ? { needed, address: 'http://127.0.0.1:8620' }
        : { id: 'p', name: 'Ida', email: '', role: 'administrator' },
    );
    TestBed.configureTestingModule({ providers: site.providers });
    const went = vi.spyOn(TestBed.inject(Router), 'navigateByUrl').mockResolvedValue(true);
    const fixture = TestBed.createComponent(SetUpPage);
    TestBed.tick();
    await site.answer();
    const page = fixture.nativeElement as HTMLElement;
    const fill = (id: string, text: string): void => {
      type(page.querySelector<HTMLInputElement>(`#${id}`)!, text);
      TestBed.tick();
    };
    const press = async (text: string): Promise<void> => {
      byText(page, 'button', text).click();
      TestBed.tick();
      await site.answer();
    };
    const flaws = () =>
      [...page.querySelectorAll('.flaw')].map((each) => each.textContent.trim()).filter((text) => text !== '');
    return { site, page, went, fill, press, flaws };
  };

  it('asks for what it needs step by step, and goes no further before it has it', async () => {
    const { page, fill, press, flaws } = await setUp();
    fill('country', 'Atlantis');
    await press('Next');
    expect(flaws()).toEqual(['Give the estate a name.', 'Choose a country, or give its two letters.']);
    fill('estate', 'Skerrow Ferries');
    expect(flaws()).toEqual([]);
    fill('country', 'ie');
    expect(page.textContent).toContain('Europe: 2.4 GHz 1–13');
    fill('zone', 'Europe/Dublin');
    await press('Next');
    fill('name', 'Ida Holm');
    fill('email', 'ida@skerrow.example');
    fill('password', 'skerrow ferries');
    await press('Next');
    expect(flaws()).toEqual(['Much of it is easy to guess: names, this estate, or common words.']);
    fill('password', 'three gulls on a mast');
    expect(page.textContent).toContain('That is a strong one.');
  });

  it('shows all of it once more, founds the estate, and leads on', async () => {
    const { site, page, went, fill, press } = await setUp();
    fill('estate', 'Skerrow Ferries');
    fill('country', 'Ireland');
    fill('zone', 'Europe/Dublin');
    await press('Next');
    fill('name', 'Ida Holm');
    fill('email', 'ida@skerrow.example');
    fill('password', 'three gulls on a mast');
    await press('Next');
    await press('Next');
    const summary = page.querySelector('dl')!.textContent;
    for (const text of [
      'Skerrow Ferries',
      'Ireland',
      'Europe/Dublin',
      'Sunday 03:00 to 05:00',
      'http://127.0.0.1:8620',
    ])
      expect(summary).toContain(text);
    await press('Found the estate');
    expect(site.asked.at(-1)!.body).toEqual({
      estate: 'Skerrow Ferries',
      country: 'Ireland',
      timeZone: 'Europe/Dublin',
      name: 'Ida Holm',
      email: 'ida@skerrow.example',
      password: 'three gulls on a mast',
      window: { day: 0, from: 180, minutes: 120 },
    });
    expect(went).toHaveBeenCalledWith('/');
  });

  it('leads on at once where it was done already', async () => {
    expect((await setUp(false)).went).toHaveBeenCalledWith('/');
  });
});
