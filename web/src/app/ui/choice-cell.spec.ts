import { TestBed } from '@angular/core/testing';
import { ChoiceCell, DIFFERS } from './choice-cell';

describe('ChoiceCell', () => {
  const setUp = async (inputs: Record<string, unknown>) => {
    const fixture = TestBed.createComponent(ChoiceCell);
    const options = [
      { value: 'a', label: 'Pier' },
      { value: 'b', label: 'Quay' },
    ];
    for (const [name, value] of Object.entries({ label: 'Where', for: 'where', options, ...inputs }))
      fixture.componentRef.setInput(name, value);
    await fixture.whenStable();
    await fixture.whenStable();
    const chosen: unknown[] = [];
    fixture.componentInstance.chosen.subscribe((value) => chosen.push(value));
    const page = fixture.nativeElement as HTMLElement;
    const shown = () => page.querySelector('.mat-mdc-select-value')!.textContent.trim();
    const choose = async (label: string): Promise<void> => {
      page.querySelector<HTMLElement>('.mat-mdc-select-trigger')!.click();
      await fixture.whenStable();
      [...document.querySelectorAll<HTMLElement>('mat-option')]
        .find((each) => each.textContent?.trim() === label)!
        .click();
      await fixture.whenStable();
    };
    return { fixture, shown, choose, chosen };
  };

  it('shows what is chosen and says what is chosen then', async () => {
    const { shown, choose, chosen } = await setUp({ value: 'a' });
    expect(shown()).toBe('Pier');
    await choose('Quay');
    expect(chosen).toEqual(['b']);
  });

  it('takes several where several may be chosen', async () => {
    const { fixture, shown, choose, chosen } = await setUp({ value: ['a'], several: true });
    expect(shown()).toBe('Pier');
    await choose('Quay');
    expect(chosen).toEqual([['a', 'b']]);
    fixture.componentRef.setInput('value', ['b']);
    await fixture.whenStable();
    expect(shown()).toBe('Quay');
  });

  it('says where what is edited at once does not agree', async () => {
    expect((await setUp({ value: DIFFERS })).shown()).toBe('(differs)');
  });
});
