import { TestBed } from '@angular/core/testing';
import { TextCell } from './text-cell';

describe('TextCell', () => {
  const setUp = async (inputs: Record<string, unknown> = {}) => {
    const fixture = TestBed.createComponent(TextCell);
    const all = { label: 'Name', for: 'name', value: 'Quay', ...inputs };
    for (const [name, value] of Object.entries(all)) fixture.componentRef.setInput(name, value);
    await fixture.whenStable();
    const heard: string[] = [];
    fixture.componentInstance.typed.subscribe((text) => heard.push(`typed ${text}`));
    fixture.componentInstance.done.subscribe((text) => heard.push(`done ${text}`));
    fixture.componentInstance.entered.subscribe(() => heard.push('entered'));
    const page = fixture.nativeElement as HTMLElement;
    const field = () => page.querySelector<HTMLInputElement | HTMLTextAreaElement>('input, textarea')!;
    return { fixture, page, field, heard };
  };

  it('tells each key, when somebody goes on, and Enter', async () => {
    const { field, heard } = await setUp();
    field().value = 'Quays';
    field().dispatchEvent(new Event('input'));
    field().dispatchEvent(new Event('change'));
    field().dispatchEvent(new KeyboardEvent('keydown', { key: 'Enter' }));
    expect(heard).toEqual(['typed Quays', 'done Quays', 'entered']);
  });

  it('is named by its label, and says what is wrong with what stands in it', async () => {
    const { fixture, page, field } = await setUp({ flaw: 'Give a name.', hint: 'Any word', rows: 3 });
    expect(page.querySelector('label')!.htmlFor).toBe(field().id);
    expect([field().tagName, field().getAttribute('aria-invalid')]).toEqual(['TEXTAREA', 'true']);
    expect(page.querySelector('[role=alert]')!.textContent).toBe('Give a name.');
    fixture.componentRef.setInput('flaw', '');
    await fixture.whenStable();
    expect(field().getAttribute('aria-invalid')).toBe('false');
  });

  it('offers what fits what is typed, and nothing once it is chosen', async () => {
    const { fixture, field, heard } = await setUp({ value: 'li', offers: ['Lisbon', 'Berlin', 'Oslo'] });
    const offered = () => [...document.querySelectorAll('mat-option')].map((each) => each.textContent?.trim());
    field().dispatchEvent(new Event('focusin'));
    await fixture.whenStable();
    expect(offered()).toEqual(['Lisbon', 'Berlin']);
    document.querySelectorAll<HTMLElement>('mat-option')[1]!.click();
    expect(heard).toEqual(['typed Berlin']);
    fixture.componentRef.setInput('value', 'Berlin');
    await fixture.whenStable();
    field().dispatchEvent(new Event('focusin'));
    await fixture.whenStable();
    expect(offered()).toEqual([]);
  });
});
