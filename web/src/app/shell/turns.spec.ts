import { describe, expect, it } from 'vitest';
import { Turns } from './turns';

describe('turns', () => {
  it('starts the next only when the one before has ended, and gives each its own result', async () => {
    const turns = new Turns();
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
    const turns = new Turns();
    const failed = turns.take(() => Promise.reject(new Error('refused')));
    const next = turns.take(() => 'done');
    await expect(failed).rejects.toThrow('refused');
    await expect(next).resolves.toBe('done');
  });
});
