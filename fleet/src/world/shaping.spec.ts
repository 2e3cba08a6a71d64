import { describe, expect, test } from 'vitest';
import { shaped } from './shaping';

const near = (value: number, share = 0.02) => expect.closeTo(value, -Math.log10(2 * value * share));
const bucket = (kbps: number) => ({ kbps, burst: Math.max(3028, kbps * 12.5) });

describe('packets through buckets', () => {
  test('get what is asked for where nothing limits them, and the limit where something does', () => {
    expect(shaped([{ kbps: 20_000, through: [] }], [])).toEqual([near(20_000)]);
    expect(shaped([{ kbps: 20_000, through: [0] }], [bucket(5000)])).toEqual([near(5000)]);
    expect(shaped([{ kbps: 3000, through: [0] }], [bucket(5000)])).toEqual([near(3000)]);
    expect(shaped([{ kbps: 900_000, through: [0] }], [bucket(600_000)])).toEqual([near(600_000)]);
    expect(shaped([{ kbps: 50_000, through: [0] }], [bucket(64)])).toEqual([near(64, 0.1)]);
  });

  test('share what all may have alike; who asks for less leaves it to the others', () => {
    const all = bucket(10_000);
    const flow = (kbps: number, ...through: number[]) => ({ kbps, through });
    expect(shaped([flow(50_000, 0), flow(50_000, 0)], [all])).toEqual([near(5000), near(5000)]);
    const [small, ...rest] = shaped([flow(1000, 0), flow(50_000, 0), flow(50_000, 0)], [all]);
    expect(small).toEqual(near(1000, 0.04));
    expect(rest).toEqual([near(4500, 0.04), near(4500, 0.04)]);
    // Each of two has a limit of its own below its share, the third takes the rest.
    const own = [bucket(1000), bucket(2000)];
    const shares = shaped([flow(50_000, 0, 1), flow(50_000, 0, 2), flow(50_000, 0)], [all, ...own]);
    expect(shares).toEqual([near(1000, 0.04), near(2000, 0.04), near(7000, 0.04)]);
  });

  test('a burst passes at first, and is not counted as the rate', () => {
    expect(shaped([{ kbps: 100_000, through: [0] }], [{ kbps: 1000, burst: 125_000 }])).toEqual([near(1000, 0.03)]);
  });
});
