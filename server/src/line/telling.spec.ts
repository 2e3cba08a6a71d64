import { afterEach, expect, test, vi } from 'vitest';
import { Gate } from '../platform/gate';
import { Telling } from './telling';

afterEach(() => vi.useRealTimers());

test('so many are told at the same time; the next when one is through, has gone, or took too long', () => {
  vi.useFakeTimers();
  const freed: string[] = [];
  const telling = new Telling(2, 1000, (id) => freed.push(id));
  expect(['a', 'b', 'c', 'd', 'c'].map((id) => telling.mayTell(id, false))).toEqual([true, true, false, false, false]);
  expect(telling.mayTell('a', false)).toBe(true); // once more: it has its turn
  expect(telling.mayTell('u', true)).toBe(true); // a rollout does not wait
  telling.through('u');
  expect(freed).toEqual(['c']);
  expect(telling.mayTell('c', false)).toBe(false); // two still hold theirs
  telling.through('a');
  expect(freed).toEqual(['c', 'd']);
  vi.advanceTimersByTime(1001);
  expect(freed).toEqual(['c', 'd', 'c']);
  telling.close();
});

test('a gate lets so many through at once, in the order they came, and goes on after one failed', async () => {
  const gate = new Gate(2);
  const [began, ends]: [number[], (() => void)[]] = [[], []];
  const work = (n: number) =>
    gate.run(
      () =>
        new Promise<number>((resolve, reject) => {
          began.push(n);
          ends.push(() => (n === 1 ? reject(new Error('one')) : resolve(n)));
        }),
    );
  const all = Promise.allSettled([1, 2, 3, 4].map(work));
  expect(began).toEqual([1, 2]);
  ends[0]!();
  await vi.waitFor(() => expect(began).toEqual([1, 2, 3]));
  ends[1]!();
  await vi.waitFor(() => expect(began).toEqual([1, 2, 3, 4]));
  for (const end of ends) end();
  expect((await all).map((each) => each.status)).toEqual(['rejected', 'fulfilled', 'fulfilled', 'fulfilled']);
});
