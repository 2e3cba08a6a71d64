import { Component, input, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { describe, expect, it } from 'vitest';
import { Turns } from './turns';

describe('turns', () => {
  it('starts the next only when the one before has ended, and gives each its own result', async () => {
    const turns = TestBed.runInInjectionContext(() => new Turns());
    const told: string[] = [];
    let release = (): void => undefined;
    const first = turns.take(async () => {
      told.push('first starts');
      await new Promise<void>((resolve) => (release = resolve));
      told.push('first ends');
      return 1;
    });
    const second = turns.take(() => {
      told.push('second');
      return 2;
    });
    await Promise.resolve();
    await Promise.resolve();
    expect(told).toEqual(['first starts']);
    release();
    expect([await first, await second]).toEqual([1, 2]);
    expect(told).toEqual(['first starts', 'first ends', 'second']);
  });

  it('goes on after one that failed, which fails for its caller alone', async () => {
    const turns = TestBed.runInInjectionContext(() => new Turns());
    const failed = turns.take(() => Promise.reject(new Error('refused')));
    const next = turns.take(() => 'done');
    await expect(failed).rejects.toThrow('refused');
    await expect(next).resolves.toBe('done');
  });

  it('starts the next only when what the one before brought stands in what is shown', async () => {
    const kept = signal('before');
    @Component({ selector: 'il-shown', template: '{{ text() }}' })
    class Shown {
      readonly text = input.required<string>();
      readonly turns = new Turns();
    }
    @Component({ imports: [Shown], template: '<il-shown [text]="kept()" />' })
    class Page {
      protected readonly kept = kept;
    }
    const page = TestBed.createComponent(Page);
    await page.whenStable();
    const shown = page.debugElement.children[0]!.componentInstance as Shown;
    const first = shown.turns.take(() => Promise.resolve().then(() => kept.set('after')));
    const second = shown.turns.take(() => shown.text());
    await first;
    await expect(second).resolves.toBe('after');
    page.destroy();
    // Nothing is shown any more, and nobody waits for it.
    await expect(shown.turns.take(() => 'done')).resolves.toBe('done');
  });
});
