import { describe, expect, test } from 'vitest';
import { Medium, type Station, type Traffic } from './medium';

const HIGH = 60;
const parts = (count: number, first = 5180): number[] => Array.from({ length: count }, (_, i) => first + 20 * i);
const radio = (name: string, more: Partial<Station> = {}): Station => ({
  ...{ name, parts: parts(4), primary: 0, power: 20, phy: 'HE', streams: 2 },
  ...more,
});
/** All hear each other alike, but for the pairs that are said. */
const losses =
  (usual: number, pairs: Readonly<Record<string, number>> = {}) =>
  (a: Station, b: Station): number =>
    pairs[`${a.name} ${b.name}`] ?? pairs[`${b.name} ${a.name}`] ?? usual;
const down = (ap = 'ap', client = 'c'): Traffic => ({ kind: 'bulk', from: ap, to: client });

const speedAt = (width: number, loss: number): number => {
  const stations = [radio('ap', { parts: parts(width / 20) }), radio('c', { parts: parts(width / 20) })];
  return new Medium('5', stations, losses(loss), [down()], 1).play(0.5).speeds[0]!;
};

describe('the air', () => {
  test('carries more on a wider channel where the signal is good, and nothing on one that is too wide for it', () => {
    const ratio = speedAt(80, 65) / speedAt(40, 65);
    expect(ratio).toBeGreaterThan(1.5);
    expect(ratio).toBeLessThan(2.1);
    expect(speedAt(40, 103)).toBeGreaterThan(5);
    expect(speedAt(80, 103)).toBeLessThan(speedAt(40, 103) / 2);
    expect(speedAt(20, 130)).toBe(0);
  });

  test('is the same again for the same seed, and another for another', () => {
    const speed = (seed: number) =>
      new Medium('5', [radio('ap'), radio('c')], losses(HIGH), [down()], seed).play(0.2).speeds;
    expect(speed(3)).toEqual(speed(3));
    expect(speed(3)).not.toEqual(speed(4));
  });

  test('is shared evenly by two who hear each other, and not shared on other channels', () => {
    const both = (second: readonly number[]) => {
      const stations = [radio('ap'), radio('c'), radio('ap2', { parts: second }), radio('c2', { parts: second })];
      return new Medium('5', stations, losses(HIGH), [down(), down('ap2', 'c2')], 1).play(2).speeds;
    };
    const alone = speedAt(80, HIGH);
    const [one, two] = both(parts(4));
    expect(one! / two!).toBeGreaterThan(0.6);
    expect(one! / two!).toBeLessThan(1.67);
    expect(one! + two!).toBeGreaterThan(alone * 0.75);
    expect(one! + two!).toBeLessThan(alone * 1.1);
    for (const speed of both(parts(4, 5500))) expect(speed).toBeGreaterThan(alone * 0.95);
  });

  test('is lost to whoever cannot be heard by the sender, and is loud at the one who listens', () => {
    const stations = [radio('ap'), radio('c'), radio('far'), radio('f')];
    const hidden = { 'ap far': 130, 'ap f': 130, 'far c': 60, 'ap c': 75 };
    const loads: Traffic[] = [{ kind: 'load', from: 'far', to: 'f', share: 0.4 }];
    const play = (pairs: Readonly<Record<string, number>>) =>
      new Medium('5', stations, losses(75, pairs), [down(), ...loads], 1).play(0.5).speeds[0]!;
    expect(play(hidden)).toBeLessThan(play({ ...hidden, 'far c': 130, 'f c': 130 }) * 0.7);
  });

  test('is heard to be busy for as long as others send, on the parts that they send on', () => {
    const stations = [radio('ap'), radio('s', { parts: parts(1, 5220) }), radio('t', { parts: parts(1, 5220) })];
    const loads: Traffic[] = [{ kind: 'load', from: 's', to: 't', share: 0.3 }];
    const busy = new Medium('5', stations, losses(70), loads, 1).play(2).busy.get('ap')!;
    expect(busy.get(5220)).toBeGreaterThan(0.25);
    expect(busy.get(5220)).toBeLessThan(0.38);
    expect(busy.get(5180)).toBe(0);
    const deaf = new Medium('5', stations, losses(110), loads, 1).play(2).busy.get('ap')!;
    expect(deaf.get(5220)).toBe(0);
  });

  test('is used as wide as it is idle: a neighbour on one part of it slows it down, and does not stop it', () => {
    const neighbour = parts(1, 5220);
    const stations = [radio('ap'), radio('c'), radio('s', { parts: neighbour }), radio('t', { parts: neighbour })];
    const speed = (share: number) =>
      new Medium('5', stations, losses(HIGH), [down(), { kind: 'load', from: 's', to: 't', share }], 1).play(0.5)
        .speeds[0]!;
    const [quiet, half, loud] = [speed(0.01), speed(0.4), speed(0.9)];
    expect(half).toBeLessThan(quiet * 0.9);
    expect(loud).toBeLessThan(half);
    expect(loud).toBeGreaterThan(speedAt(40, HIGH) * 0.6);
  });
});
