import { TestBed } from '@angular/core/testing';
import { Router } from '@angular/router';
import { SiteFixture, type } from '../testing/site-fixture';
import { SearchOrDo } from './search-or-do';
import { Theme } from './theme';

describe('SearchOrDo', () => {
  const setUp = async (role: 'administrator' | 'observer' = 'administrator') => {
    const site = new SiteFixture();
    site.answers.set('/api/search', () => [
      { kind: 'device', id: 'd1', siteId: 's1', title: 'x-ap-01', detail: 'AP-6E' },
    ]);
    TestBed.configureTestingModule({
      providers: [...site.providers, { provide: Theme, useValue: { toggle: () => undefined } }],
    });
    await site.open(role);
    const fixture = TestBed.createComponent(SearchOrDo);
    const page = fixture.nativeElement as HTMLElement;
    document.body.append(page);
    await fixture.whenStable();
    const options = () => [...document.querySelectorAll<HTMLElement>('mat-option')];
    const words = () => options().map((option) => option.textContent.replace(/\s+/g, ' ').trim());
    const enter = async (text: string): Promise<void> => {
      const box = page.querySelector('input')!;
      box.focus();
      box.dispatchEvent(new Event('focusin', { bubbles: true }));
      type(box, text);
      await new Promise((resolve) => setTimeout(resolve, 140));
      await site.answer();
      await fixture.whenStable();
    };
    return { page, options, words, enter, site };
  };
  afterEach(() =>
    document.querySelectorAll('il-search-or-do, .cdk-overlay-container').forEach((each) => each.remove()),
  );

  it('finds objects and actions by what is typed, and goes there', async () => {
    const { options, words, enter } = await setUp();
    await enter('a');
    expect(words()[0]).toBe('x-ap-01 AP-6E');
    expect(words()).toContain('Add segment Do');
    options()[0]!.click();
    await new Promise((resolve) => setTimeout(resolve));
    expect(TestBed.inject(Router).url).toBe('/sites/s1/intake?show=d1');
  });

  it('waits with Enter for what was found for all that is typed, and takes the first of that', async () => {
    const { page, words, enter, site } = await setUp();
    await enter('x');
    expect(words()[0]).toBe('x-ap-01 AP-6E');
    site.answers.set('/api/search', () => [
      { kind: 'device', id: 'd2', siteId: 's1', title: 'x-gw-01', detail: 'GW-4' },
    ]);
    const box = page.querySelector('input')!;
    type(box, 'x-gw');
    box.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', keyCode: 13, bubbles: true, cancelable: true }));
    expect(TestBed.inject(Router).url).toBe('/'); // nothing is taken of what is still listed
    await enter('');
    await enter('x');
    type(box, 'x-gw');
    box.dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter', keyCode: 13, bubbles: true, cancelable: true }));
    await new Promise((resolve) => setTimeout(resolve, 140));
    await site.answer();
    expect(TestBed.inject(Router).url).toBe('/sites/s1/intake?show=d2');
    expect(box.value).toBe('');
  });

  it('takes the focus on Ctrl K', async () => {
    const { page } = await setUp();
    document.dispatchEvent(new KeyboardEvent('keydown', { key: 'k', ctrlKey: true, cancelable: true }));
    expect(document.activeElement).toBe(page.querySelector('input'));
  });

  it('offers an observer nothing to change', async () => {
    const { words, enter } = await setUp('observer');
    await enter('a');
    expect(words().filter((text) => text.endsWith('Do'))).toEqual([]);
  });
});
