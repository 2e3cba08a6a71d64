import { expect, test } from 'vitest';
import { askingOrder } from '.';

const SERVERS = [
  { name: 'a', order: 1 },
  { name: 'b', order: 1 },
  { name: 'c', order: 2 },
];
const order = (turn: number, dead: Record<string, number> = {}) =>
  askingOrder(SERVERS, new Map(Object.entries(dead)), 100, turn)
    .map(({ name }) => name)
    .join('');

test('the controller itself is asked before others of its number, and takes no turns', () => {
  const servers = [...SERVERS, { name: 'o', order: 1, own: true as const }];
  const orders = [0, 1, 2].map((turn) =>
    askingOrder(servers, new Map(), 100, turn)
      .map(({ name }) => name)
      .join(''),
  );
  expect(orders).toEqual(['oabc', 'obac', 'oabc']);
  expect(
    askingOrder(servers, new Map([['o', 200]]), 100, 0)
      .map(({ name }) => name)
      .join(''),
  ).toBe('abco');
});

test('servers of one number take turns, the next number comes when these are dead, and dead ones last of all', () => {
  expect([order(0), order(1), order(2)]).toEqual(['abc', 'bac', 'abc']);
  expect([order(0, { a: 101 }), order(1, { a: 101 })]).toEqual(['bca', 'bca']);
  expect(order(0, { a: 101, b: 200 })).toBe('cab');
  expect(order(0, { a: 100 })).toBe('abc'); // alive again
  expect(order(1, { a: 101, b: 101, c: 101 })).toBe('bac');
});
