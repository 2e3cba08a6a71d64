import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  bestRate,
  busyOfLoad,
  contention,
  expectedAt,
  fairShare,
  noiseFloor,
  predictedSpeed,
  sharesOf,
  signalAt,
  signalOfIndicator,
  throughput,
  widthShares,
  type Width,
} from '.';

const snrs = fc.double({ min: -20, max: 80, noNaN: true });
const widths = fc.constantFrom<Width>(20, 40, 80, 160);

describe('from signal to speed', () => {
  test('noise grows by 3.01 dB with each doubling', () => {
    expect(noiseFloor(20)).toBeCloseTo(-93.96, 2);
    expect(noiseFloor(160) - noiseFloor(80)).toBeCloseTo(3.0103, 4);
  });

  test('a better signal is never slower, and more streams never are', () => {
    fc.assert(
      fc.property(
        snrs,
        fc.double({ min: 0, max: 10, noNaN: true }),
        widths,
        fc.integer({ min: 1, max: 4 }),
        (snr, more, width, nss) => {
          const at = (db: number, maxNss: number) => bestRate(db, { phy: 'HE', width, maxNss, gi: 0.8 })?.rate ?? 0;
          expect(at(snr + more, nss)).toBeGreaterThanOrEqual(at(snr, nss));
          expect(at(snr, nss + 1)).toBeGreaterThanOrEqual(at(snr, nss));
        },
      ),
    );
    expect(bestRate(8.9, { phy: 'HE', width: 20, maxNss: 2, gi: 0.8 })).toBeNull();
    expect(bestRate(35, { phy: 'VHT', width: 20, maxNss: 1, gi: 0.8 })?.mcs).toBe(8); // MCS 9 does not exist there
  });

  test.each([
    [{ phy: 'HE', width: 20, nss: 1, mcs: 11, gi: 0.8 }, {}, 28, 113.8, 98.5],
    [{ phy: 'HE', width: 40, nss: 2, mcs: 9, gi: 0.8 }, {}, 90, 362.9, 313.8],
    [{ phy: 'HE', width: 80, nss: 2, mcs: 11, gi: 0.8 }, {}, 238, 954.8, 825.9],
    [{ phy: 'HE', width: 160, nss: 2, mcs: 11, gi: 0.8 }, { band: '6' }, 256, 1784.1, 1465.7],
    [{ phy: 'VHT', width: 80, nss: 2, mcs: 9, gi: 0.4 }, { window: 64 }, 64, 612.9, 488.4],
  ] as const)('%o carries what was worked out by hand', (sending, traffic, together, udp, tcp) => {
    const got = throughput(sending, traffic)!;
    expect(got.together).toBe(together);
    expect(got.udp).toBeCloseTo(udp, 1);
    expect(got.tcp).toBeCloseTo(tcp, 1);
  });

  test('TCP is below UDP, UDP below the rate on the air, and more errors never carry more', () => {
    fc.assert(
      fc.property(snrs, widths, fc.double({ min: 0, max: 0.9, noNaN: true }), (snr, width, errors) => {
        const best = bestRate(snr, { phy: 'HE', width, maxNss: 4, gi: 0.8 });
        if (!best) return;
        const got = throughput({ phy: 'HE', width, nss: best.nss, mcs: best.mcs, gi: 0.8 }, { errors })!;
        expect(got.tcp).toBeLessThan(got.udp);
        expect(got.udp).toBeLessThan(got.phy);
        const worse = throughput(
          { phy: 'HE', width, nss: best.nss, mcs: best.mcs, gi: 0.8 },
          { errors: errors + 0.05 },
        )!;
        expect(worse.tcp).toBeLessThan(got.tcp);
      }),
    );
    expect(() => throughput({ phy: 'HE', width: 20, nss: 1, mcs: 0, gi: 0.8 }, { errors: 1 })).toThrow(RangeError);
  });

  test('widening pays near by, costs far away, and nothing gets through below what the wider one asks for', () => {
    const pairing = { phy: 'HE', maxNss: 2 } as const;
    const ratio = (signal: number, busy80 = 0.1) =>
      expectedAt(signalAt(signal, 40, 80, 'power'), 80, busy80, pairing).tcp / expectedAt(signal, 40, 0.1, pairing).tcp;
    expect(ratio(-45)).toBeGreaterThan(1.8);
    expect(ratio(-58, 0.5)).toBeCloseTo(1.05, 1);
    expect(ratio(-58, 0.6)).toBeCloseTo(0.84, 1);
    expect(ratio(-80)).toBe(0);
    const dense = (signal: number) => expectedAt(signalAt(signal, 40, 80, 'density'), 80, 0, pairing).snr;
    expect(dense(-60)).toBeCloseTo(expectedAt(-60, 40, 0, pairing).snr, 6);
  });
});

describe('sharing the air', () => {
  test('who is slow takes more of it', () => {
    expect(sharesOf([1, 3])).toEqual([0.25, 0.75]);
    expect(() => sharesOf([0, 0])).toThrow(RangeError);
  });

  test('shares of the widths and what is deferred are the whole', () => {
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(
        fc.tuple(share, share, share, share),
        fc.integer({ min: 0, max: 3 }),
        fc.boolean(),
        (busy, primary, together) => {
          const shares = widthShares(busy, primary, together);
          const all = [shares[20], shares[40], shares[80], shares.deferred];
          expect(all.reduce((sum, each) => sum + each, 0)).toBeCloseTo(1, 9);
          for (const each of all) expect(each).toBeGreaterThanOrEqual(-1e-12);
        },
      ),
    );
  });

  test('the more contend, the seldomer each starts and the oftener it collides', () => {
    expect(contention(1, 16, 6)).toEqual({ starts: 2 / 17, collides: 0 });
    const [few, many] = [contention(5, 16, 6), contention(50, 16, 6)];
    expect(many.starts).toBeLessThan(few.starts);
    expect(many.collides).toBeGreaterThan(few.collides);
  });

  test('octets are read as the standard writes them', () => {
    expect(busyOfLoad(51)).toBeCloseTo(0.2, 9);
    expect(signalOfIndicator(100)).toBe(-60);
    expect(signalOfIndicator(255)).toBeNull();
    expect(() => busyOfLoad(256)).toThrow(RangeError);
  });
});

describe('what is predicted for a client', () => {
  const cell = { phy: 'HE', maxNss: 2, width: 80, signal: -55, primary: 1 } as const;
  test('is what the whole width carries alone where nobody else is heard', () => {
    expect(predictedSpeed(cell)).toBeCloseTo(expectedAt(-55, 80, 0, cell).tcp, 9);
    // A rival takes half of the air, and some of what both send collides.
    const { collides } = contention(2, 16, 6);
    expect(predictedSpeed({ ...cell, rivals: 1 })).toBeCloseTo((predictedSpeed(cell) / 2) * (1 - collides), 9);
    expect(() => predictedSpeed({ ...cell, primary: 4 })).toThrow(RangeError);
  });

  test('goes narrower beside somebody on another part, and waits for somebody on the primary one', () => {
    const beside = predictedSpeed({ ...cell, others: [{ parts: [3], share: 1 }] });
    expect(beside).toBeCloseTo(expectedAt(-55, 40, 0, cell).tcp, 9);
    const primary = predictedSpeed({ ...cell, others: [{ parts: [1], share: 0.3 }] });
    expect(primary).toBeCloseTo(0.7 * predictedSpeed(cell), 9);
    // Two that want more than their part leave a part, not nothing.
    const crowded = [
      { parts: [1], share: 0.7 },
      { parts: [0, 1], share: 0.5 },
    ];
    const third = predictedSpeed({ ...cell, others: crowded }) / predictedSpeed(cell);
    // A part as long as its lots of frames are, beside what others send at a time.
    const lots = expectedAt(-55, 80, 0, cell).lotUs / 1600;
    expect(third).toBeCloseTo(lots / (lots + 2), 9);
    expect(fairShare([0.1, 0.9], 1)).toBeCloseTo(0.3, 9);
    expect(fairShare([0.1, 0.9], 1, 2)).toBeCloseTo((0.9 * 2) / 5, 9);
  });
});
