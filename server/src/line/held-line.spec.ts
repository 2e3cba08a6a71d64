import { afterEach, beforeEach, expect, test, vi } from 'vitest';
import { EventEmitter } from 'node:events';
import type { WebSocket } from 'ws';
import { answersWithin, heldLine, noteAsked, pauseOf } from './held-line';
import { UnprovenCallers } from './unproven-callers';

beforeEach(() => void vi.useFakeTimers({ now: 1_000_000 }));
afterEach(() => void vi.useRealTimers());

const line = () =>
  heldLine({ id: 'l', socket: {} as WebSocket, deviceId: 'd', serial: 'S', claimed: true }, Date.now());

test('a line may say five hundred frames at once and forty a second from then on', () => {
  const one = line();
  for (let i = 0; i < 500; i++) expect(pauseOf(one, 0)).toBe(0);
  expect(pauseOf(one, 0)).toBe(25);
  vi.advanceTimersByTime(1000);
  const waits = Array.from({ length: 41 }, () => pauseOf(one, 0));
  expect(waits.filter((ms) => ms === 0)).toHaveLength(39);
  vi.advanceTimersByTime(3_600_000); // what is not said is not saved up
  const later = Array.from({ length: 501 }, () => pauseOf(one, 0));
  expect(later.filter((ms) => ms > 0)).toHaveLength(1);
});

test('a long frame counts as what it takes to read it', () => {
  const one = line();
  for (let i = 0; i < 3; i++) expect(pauseOf(one, 1_000_000)).toBe(0);
  expect(pauseOf(one, 1_000_000)).toBe(0);
  expect(pauseOf(one, 1_000_000)).toBeGreaterThan(2000);
});

test('of what a line is asked the latest are remembered, and nothing else that it is told', () => {
  const one = line();
  for (let i = 0; i < 100; i++) noteAsked(one, { type: 'command', id: `c${i}`, name: 'ping', target: '' });
  noteAsked(one, { type: 'keep', hash: 'a' });
  expect([one.asked.size, one.asked.has('c35'), one.asked.get('c99')]).toEqual([64, false, 'ping']);
});

test('callers that have proved nothing leave room for those of other addresses, and make room when they are through', () => {
  const callers = new UnprovenCallers();
  const through = Array.from({ length: 1000 }, () => callers.enter('203.0.113.1'));
  expect([callers.hasRoom('203.0.113.1'), callers.hasRoom('203.0.113.2')]).toEqual([false, true]);
  for (let i = 0; i < 1000; i++) callers.enter('203.0.113.2');
  expect(callers.hasRoom('203.0.113.3')).toBe(false);
  through[0]!();
  through[0]!();
  expect([callers.hasRoom('203.0.113.1'), callers.hasRoom('203.0.113.3')]).toEqual([true, true]);
  callers.enter('203.0.113.3');
  expect(callers.hasRoom('203.0.113.3')).toBe(false);
});

test('a sign of life that came in time counts, though this process was too busy to read it then', async () => {
  vi.useRealTimers();
  const socket = Object.assign(new EventEmitter(), { ping: () => setImmediate(() => socket.emit('pong')) });
  const busy = { ...line(), socket: socket as unknown as WebSocket };
  const answered = answersWithin(busy, 20);
  for (const until = Date.now() + 40; Date.now() < until;); // what is asked for and the time for it are both due now
  expect(await answered).toBe(true);
  socket.ping = () => setImmediate(() => {});
  expect(await answersWithin(busy, 20)).toBe(false);
});
