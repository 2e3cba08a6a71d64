import { describe, expect, test } from 'vitest';
import {
  blocksAround,
  blocksOf,
  centreMhzOf,
  CHANNELS,
  eirpWithin,
  FIRST_LOOKED_AT,
  maskLeak,
  overlapOf,
  WIDTHS,
} from '.';

describe('channels', () => {
  test('lie where the standards put them', () => {
    expect([centreMhzOf('2.4', 14), centreMhzOf('5', 36), centreMhzOf('6', 1), centreMhzOf('6', 2)]).toEqual([
      2484, 5180, 5955, 5935,
    ]);
    expect(() => centreMhzOf('2.4', 15)).toThrow('there is no channel 15 at 2.4 GHz');
    expect(() => centreMhzOf('6', 0.5)).toThrow(RangeError);
  });

  test('wider ones are made of neighbours in a row, each band’s own', () => {
    for (const band of ['2.4', '5', '6'] as const)
      for (const width of WIDTHS)
        for (const { centreMhz, members } of blocksOf(band, width)) {
          expect(members).toHaveLength(width / 20);
          for (const member of members) expect(CHANNELS[band]).toContain(member);
          const middle = (centreMhzOf(band, members[0]!) + centreMhzOf(band, members.at(-1)!)) / 2;
          expect(centreMhz).toBe(middle);
        }
    expect(blocksOf('6', 320).map(({ centre }) => centre)).toEqual([31, 63, 95, 127, 159, 191]);
    expect(blocksOf('5', 320)).toEqual([]);
  });

  test('a channel is in the wider ones that have it, and only in those', () => {
    const centres = (band: '2.4' | '5' | '6', primary: number, width: 40 | 80 | 160 | 320) =>
      blocksAround(band, primary)[width]?.map(({ centre }) => centre);
    expect([centres('5', 144, 40), centres('5', 144, 80), centres('5', 144, 160)]).toEqual([[142], [138], []]);
    expect([centres('5', 165, 40), centres('5', 165, 80), centres('5', 165, 160)]).toEqual([[167], [171], [163]]);
    expect([centres('6', 37, 320), centres('6', 1, 320), centres('6', 221, 320)]).toEqual([[31, 63], [31], [191]]);
    expect([centres('6', 225, 40), centres('6', 225, 80), centres('6', 233, 40)]).toEqual([[227], [], []]);
    expect(centres('2.4', 6, 40)).toEqual([4, 8]);
    expect(() => blocksAround('5', 38)).toThrow('there is no channel 38 at 5 GHz');
  });

  test('clients at 6 GHz look at fifteen of them first', () => {
    expect(FIRST_LOOKED_AT).toHaveLength(15);
    expect([FIRST_LOOKED_AT[0], FIRST_LOOKED_AT.at(-1)]).toEqual([5, 229]);
  });
});

describe('overlap', () => {
  test('of a wide one with a narrow one is a quarter, of a narrow one with a wide one all', () => {
    const [wide, narrow] = [
      { centreMhz: 5210, width: 80 },
      { centreMhz: 5180, width: 20 },
    ];
    expect(overlapOf(wide, narrow)).toBe(0.25);
    expect(overlapOf(narrow, wide)).toBe(1);
    expect(overlapOf(narrow, { centreMhz: 5200, width: 20 })).toBe(0);
  });

  test.each([
    [0, 0.991],
    [1, 0.763],
    [2, 0.5],
    [3, 0.236],
    [4, 0.004515],
    [5, 0.00104],
    [8, 5e-5],
    [20, 0],
  ])('at the mask’s limit %i channels of 5 MHz away %f of the power is heard', (channels, share) => {
    expect(maskLeak(5 * channels)).toBeCloseTo(share, share > 0.01 ? 3 : 5);
  });

  test('where each MHz is limited, a wider channel sends with more, up to the limit of the whole', () => {
    expect([20, 40, 80, 160, 320].map((width) => Math.round(eirpWithin(5, 30, width)))).toEqual([18, 21, 24, 27, 30]);
  });
});
