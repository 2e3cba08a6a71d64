import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import type { Bus } from '../platform/bus';
import { findMute } from './device-watch';

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

/** A bus on which each device answers from a certain question on. */
function busOf(answersFrom: Readonly<Record<string, number>>) {
  const asked: (readonly string[])[] = [];
  const heard = new Set<(message: object) => void>();
  const bus = {
    on: (_type: string, hear: (message: object) => void) => {
      heard.add(hear);
      return () => heard.delete(hear);
    },
    send: async (_type: string, { token, deviceIds }: { token: string; deviceIds: string[] }) => {
      asked.push(deviceIds);
      const answered = deviceIds.filter((id) => asked.length >= answersFrom[id]!);
      setTimeout(() => [...heard].forEach((hear) => hear({ token, deviceIds: answered })), 10);
    },
  };
  return { bus: bus as unknown as Bus, asked };
}

test('a device that gives no sign of life is asked again until the time is up, those that gave one are not', async () => {
  const { bus, asked } = busOf({ a: 1, b: 2, c: Infinity });
  const mute = findMute(bus, ['a', 'b', 'c'], 7000);
  await vi.advanceTimersByTimeAsync(20_000);
  expect(await mute).toEqual(['c']);
  expect(asked).toEqual([['a', 'b', 'c'], ['b', 'c'], ['c']]);
});

test('nobody waits once all have given a sign of life', async () => {
  const { bus, asked } = busOf({ a: 1, b: 1 });
  const mute = findMute(bus, ['a', 'b'], 20_000);
  await vi.advanceTimersByTimeAsync(11);
  expect(await mute).toEqual([]);
  expect(asked).toHaveLength(1);
  expect(await findMute(bus, [], 20_000)).toEqual([]);
});
