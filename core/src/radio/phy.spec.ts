import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { GENERATIONS, phyRate, WIDTHS, type Phy, type Sending, type Width } from '.';

const he = (width: Width, nss: number, mcs: number, gi = 0.8): number | null =>
  phyRate({ phy: 'HE', width, nss, mcs, gi });

describe('rates on the air', () => {
  test.each<[string, Sending, number]>([
    ['HT40, MCS 15 over all streams', { phy: 'HT', width: 40, nss: 2, mcs: 15, gi: 0.4 }, 300],
    ['VHT80', { phy: 'VHT', width: 80, nss: 1, mcs: 9, gi: 0.4 }, 433.3],
    ['HE20', { phy: 'HE', width: 20, nss: 1, mcs: 11, gi: 0.8 }, 143.4],
    ['HE80, two streams', { phy: 'HE', width: 80, nss: 2, mcs: 11, gi: 0.8 }, 1201],
    ['HE160, eight streams', { phy: 'HE', width: 160, nss: 8, mcs: 11, gi: 0.8 }, 9607.8],
    ['EHT320, two streams', { phy: 'EHT', width: 320, nss: 2, mcs: 13, gi: 0.8 }, 5764.7],
    ['half of MCS 0, each tone twice', { phy: 'EHT', width: 20, nss: 1, mcs: 15, gi: 0.8 }, 4.3],
    ['a union of units', { phy: 'EHT', width: 80, nss: 1, mcs: 0, gi: 0.8, ruTones: 726 }, 351 / 13.6],
  ])('%s is what the standard prints', (_name, sending, rate) => {
    expect(phyRate(sending)).toBeCloseTo(rate, 1);
  });

  test.each<[string, Sending]>([
    ['VHT20 MCS 9 with one stream', { phy: 'VHT', width: 20, nss: 1, mcs: 9, gi: 0.8 }],
    ['VHT20 MCS 9 with four streams', { phy: 'VHT', width: 20, nss: 4, mcs: 9, gi: 0.8 }],
    ['VHT80 MCS 6 with three streams', { phy: 'VHT', width: 80, nss: 3, mcs: 6, gi: 0.8 }],
    ['VHT160 MCS 9 with three streams', { phy: 'VHT', width: 160, nss: 3, mcs: 9, gi: 0.8 }],
    ['HT at 80 MHz', { phy: 'HT', width: 80, nss: 1, mcs: 0, gi: 0.8 }],
    ['an HT index of other streams', { phy: 'HT', width: 20, nss: 1, mcs: 15, gi: 0.8 }],
    ['a guard interval of another generation', { phy: 'HE', width: 20, nss: 1, mcs: 0, gi: 0.4 }],
    ['tones twice where it is not foreseen', { phy: 'HE', width: 20, nss: 1, mcs: 2, gi: 0.8, dcm: true }],
    ['nine streams', { phy: 'EHT', width: 20, nss: 9, mcs: 0, gi: 0.8 }],
  ])('%s does not exist', (_name, sending) => {
    expect(phyRate(sending)).toBeNull();
  });

  test('VHT20 MCS 9 exists with three streams and with six', () => {
    for (const nss of [3, 6])
      expect(phyRate({ phy: 'VHT', width: 20, nss, mcs: 9, gi: 0.8 })).toBeCloseTo(86.67 * nss, 1);
  });

  test('of HE and EHT all exist, and grow with streams, width and a shorter guard', () => {
    for (const phy of ['HE', 'EHT'] as const)
      for (const width of WIDTHS.filter((each) => each in GENERATIONS[phy].tones))
        for (let mcs = 0; mcs <= 11; mcs++) {
          const rate = (nss: number, gi: number) => phyRate({ phy, width, nss, mcs, gi })!;
          expect(rate(8, 0.8)).toBeCloseTo(8 * rate(1, 0.8), 6);
          expect(rate(1, 0.8)).toBeGreaterThan(rate(1, 1.6));
        }
    expect(he(160, 2, 11)).toBeCloseTo(2 * he(80, 2, 11)!, 6);
  });

  test('whatever is asked, there is a rate above zero or none at all', () => {
    const phys = fc.constantFrom<Phy>('HT', 'VHT', 'HE', 'EHT');
    fc.assert(
      fc.property(
        phys,
        fc.constantFrom(...WIDTHS),
        fc.integer({ min: -1, max: 10 }),
        fc.integer({ min: -1, max: 33 }),
        (phy, width, nss, mcs) => {
          const rate = phyRate({ phy, width, nss, mcs, gi: 0.8 });
          expect(rate === null || rate > 0).toBe(true);
        },
      ),
    );
  });
});
