import { HttpTestingController, provideHttpClientTesting } from '@angular/common/http/testing';
import { provideHttpClient } from '@angular/common/http';
import { TestBed } from '@angular/core/testing';
import type { Picture, PictureMade } from '@iron-lattice/core/guests';
import { PictureCell } from './picture-cell';

const PICTURE: Picture = { id: 'a'.repeat(64), width: 640, height: 200 };
const made = (scaled: boolean): PictureMade => ({
  ...{ picture: PICTURE, octets: 18_000, scaled },
  was: { kind: 'png', width: 4000, height: 1250, octets: 6_000_000 },
});

describe('a picture of a portal', () => {
  /** Brings a picture. @returns what is on the page, and what was taken. */
  async function bring(scaled: boolean) {
    TestBed.configureTestingModule({ providers: [provideHttpClient(), provideHttpClientTesting()] });
    const http = TestBed.inject(HttpTestingController);
    const fixture = TestBed.createComponent(PictureCell);
    const taken: (Picture | null)[] = [];
    for (const [name, value] of Object.entries({ label: 'Logo', use: 'logo', value: null, readonly: false, of: 'p' }))
      fixture.componentRef.setInput(name, value);
    fixture.componentInstance.chosen.subscribe((picture) => taken.push(picture));
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    const file = new File(['x'], 'logo.png', { type: 'image/png' });
    const input = page.querySelector<HTMLInputElement>('input[type=file]')!;
    Object.defineProperty(input, 'files', { value: [file] });
    input.dispatchEvent(new Event('change'));
    const asked = await vi.waitFor(() => http.expectOne((one) => one.url === '/api/portal-pictures'));
    expect(asked.request.params.get('as')).toBe('logo');
    asked.flush(made(scaled));
    await vi.waitFor(async () => {
      await fixture.whenStable();
      expect(page.textContent).not.toContain('Being drawn');
    });
    return { page, taken, fixture };
  }

  it('that guests would see smaller is taken when somebody says so', async () => {
    const { page, taken, fixture } = await bring(true);
    expect(page.textContent).toContain('It is 4000 × 1250');
    expect(page.textContent).toContain('Guests would see it as 640 × 200');
    expect(taken).toEqual([]);
    [...page.querySelectorAll('button')].find(({ textContent }) => textContent.includes('Take it so'))!.click();
    await fixture.whenStable();
    expect(taken).toEqual([PICTURE]);
  });

  it('that guests see as it was brought is taken at once', async () => {
    expect((await bring(false)).taken).toEqual([PICTURE]);
  });
});
