import { describe, expect, test } from 'vitest';
import { randomFrom } from '../base';
import { carriedInto, unitedIn } from './carried';
import { PORTED_END, PacketSpace, SERVICE_END, type Box, type Point, type Span } from './space';

const random = randomFrom(7);
const address = (): number => random(65_536) * 65_536 + random(65_536);
const within = (end: number): Span[] => {
  const cuts = Array.from({ length: 4 }, () => (end === 2 ** 32 ? address() : random(end))).sort((a, b) => a - b);
  return [
    { first: cuts[0]!, end: cuts[1]! + 1 },
    ...(cuts[2]! > cuts[1]! + 1 ? [{ first: cuts[2]!, end: cuts[3]! + 1 }] : []),
  ];
};
const anyOr = (end: number): Span[] | null => (random(10) < 3 ? null : within(end));
const boxAt = (): Box => [anyOr(2 ** 32), anyOr(2 ** 32), anyOr(SERVICE_END), random(10) < 7 ? null : within(2 ** 16)];
const pointAt = (): Point => {
  const service = random(SERVICE_END);
  const port = service < PORTED_END ? random(65_536) : 0;
  return [address(), address(), service, port];
};

describe('packets of one space as a set of another', () => {
  test('are the very same ones, whatever the other space was asked before', () => {
    for (let round = 0; round < 40; round++) {
      const [from, to] = [new PacketSpace(4), new PacketSpace(4)];
      to.box(boxAt()); // nodes of its own
      const boxes = Array.from({ length: 1 + random(6) }, boxAt);
      const set = from.subtract(unitedIn(from, boxes), from.box(boxAt()));
      const carried = carriedInto(from, set, to);
      for (let i = 0; i < 200; i++) {
        const point = pointAt();
        expect(to.at(carried, point) > 0).toBe(from.at(set, point) > 0);
      }
      // And back: nothing was added or lost anywhere.
      expect(carriedInto(to, carried, from)).toBe(set);
    }
  });

  test('nothing is nothing, and everything is everything', () => {
    const [from, to] = [new PacketSpace(6), new PacketSpace(6)];
    expect(carriedInto(from, from.none, to)).toBe(to.none);
    expect(carriedInto(from, from.all, to)).toBe(to.all);
  });
});
