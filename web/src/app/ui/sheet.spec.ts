import { TestBed } from '@angular/core/testing';
import { Sheet } from './sheet';

describe('Sheet', () => {
  const setUp = async () => {
    localStorage.clear();
    const fixture = TestBed.createComponent(Sheet);
    fixture.componentRef.setInput('heading', 'bm-sw-01');
    await fixture.whenStable();
    const page = fixture.nativeElement as HTMLElement;
    Object.defineProperty(page.parentElement, 'clientHeight', { value: 600, configurable: true });
    return { fixture, page };
  };

  it('closes on Escape, but not when something inside took the key', async () => {
    const { fixture } = await setUp();
    let closed = 0;
    fixture.componentInstance.closed.subscribe(() => closed++);
    const key = (): KeyboardEvent => new KeyboardEvent('keydown', { key: 'Escape', bubbles: true, cancelable: true });
    const taken = key();
    taken.preventDefault();
    document.dispatchEvent(taken);
    expect(closed).toBe(0);
    document.dispatchEvent(key());
    expect(closed).toBe(1);
  });

  it('is made taller and lower by key, within bounds, and remembers it', async () => {
    const { fixture, page } = await setUp();
    const edge = page.querySelector<HTMLElement>('[role=separator]')!;
    const press = async (key: string): Promise<void> => {
      edge.dispatchEvent(new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true }));
      await fixture.whenStable();
    };
    await press('ArrowUp');
    expect(page.style.height).toBe('120px'); // from nothing, in a page without layout, to the least
    await press('ArrowUp');
    expect(page.style.height).toBe('144px');
    await press('ArrowDown');
    await press('ArrowDown');
    expect(page.style.height).toBe('120px');
    expect(localStorage.getItem('lattice.sheet-height')).toBe('120');
  });
});
