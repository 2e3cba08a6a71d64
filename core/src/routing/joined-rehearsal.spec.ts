import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { joinedWay, rehearseJoined, type JoinedEnd, type JoinedMishap, type JoinedPhase } from '.';

const seed = Number(process.env['SEED'] ?? 1);
const end = (id: string, hubs: readonly string[], direct: readonly string[] = []): JoinedEnd => ({
  ...{
    id,
    name: id,
    role: hubs.length > 0 ? 'spoke' : 'hub',
    hubs,
    direct,
    carries: [`10.${id.charCodeAt(0)}.0.0/16`],
  },
  takes: null,
});
const ENDS = [
  end('N', []),
  end('S', []),
  end('a', ['N', 'S']),
  end('b', ['N', 'S']),
  end('c', ['S'], ['a']),
  end('d', ['N']),
];
const WATCH = { asks: 2, losses: 3 };
const play = (
  mishaps: readonly JoinedMishap[],
  ways = { from: 'a', to: 'b' },
  phase: JoinedPhase = 'mean',
  seconds = 120,
) => rehearseJoined(ENDS, ways, mishaps, { ...WATCH, seconds, phase });
const gone = (siteId: string, from = 20, to: number | null = 60): JoinedMishap => ({ what: 'site', siteId, from, to });
const cut = (siteId: string, otherId: string, from = 20, to: number | null = 60): JoinedMishap => ({
  ...{ what: 'tunnel', siteId, otherId, from, to },
});
const ways = ({ spans }: ReturnType<typeof play>) =>
  spans.map(({ path, served }) => `${path?.join('') ?? '-'}${served ? '' : '!'}`);

describe('a rehearsal across sites', () => {
  test('where a hub fails the other stands in once three questions got no answer, and the first again', () => {
    const told = play([gone('N')]);
    expect(ways(told)[0]).toBe('aNb');
    expect(ways(told)).toContain('aSb');
    expect(told.spans.at(-1)).toMatchObject({ path: ['a', 'N', 'b'], back: ['b', 'N', 'a'], served: true });
    expect(play([gone('N', 20, null)]).longest).toBeCloseTo(5, 3);
    expect(play([gone('N', 20, null)], undefined, 'best').longest).toBeCloseTo(4, 3);
    expect(play([gone('N', 20, null)], undefined, 'worst').longest).toBeCloseTo(6, 3);
  });

  test('one tunnel that is cut is gone round by the hubs, there and back', () => {
    const told = play([cut('N', 'b', 20, null)]);
    expect(told.spans.at(-1)).toMatchObject({ path: ['a', 'N', 'S', 'b'], back: ['b', 'S', 'a'], served: true });
    expect(told.longest).toBeCloseTo(5, 3);
  });

  test('a tunnel of their own is gone by while it is up, and hubs after it', () => {
    const told = play([cut('a', 'c')], { from: 'a', to: 'c' });
    expect(ways(told)).toEqual(['ac', 'ac!', 'aNSc', 'ac']);
    expect(told.spans[2]!.back).toEqual(['c', 'S', 'a']);
  });

  test('whoever hangs on one hub waits for as long as that is gone', () => {
    const told = play([gone('N')], { from: 'a', to: 'd' });
    expect(told.longest).toBeGreaterThan(40);
    expect(told.longest).toBeLessThan(44);
    expect(play([gone('S')], { from: 'a', to: 'd' }).outage).toBe(0);
  });

  test('a tunnel that can never be is gone by at no time', () => {
    const never = (a: string, b: string): boolean => [a, b].sort().join('') === 'Nb';
    const options = { ...WATCH, seconds: 60, never };
    const told = rehearseJoined(ENDS, { from: 'a', to: 'b' }, [gone('S', 20, 40)], options);
    expect(ways(told)[0]).toBe('aNSb');
    expect(told.longest).toBeGreaterThan(20);
  });

  test('refuses what is no question', () => {
    expect(() => play([], { from: 'a', to: 'a' })).toThrow(RangeError);
    expect(() => play([], { from: 'a', to: 'x' })).toThrow(RangeError);
    expect(() => play([], undefined, 'mean', 3601)).toThrow(RangeError);
  });

  test('whatever happens, the way is as it was some seconds after all is over, and nothing is served by what is gone', () => {
    const mishap = fc.oneof(
      fc.record({
        what: fc.constant('site' as const),
        siteId: fc.constantFrom('N', 'S', 'a', 'b'),
        at: fc.nat(60),
        lasts: fc.integer({ min: 1, max: 40 }),
      }),
      fc.record({
        ...{
          what: fc.constant('tunnel' as const),
          siteId: fc.constantFrom('N', 'S'),
          otherId: fc.constantFrom('a', 'b', 'N', 'S'),
        },
        ...{ at: fc.nat(60), lasts: fc.integer({ min: 1, max: 40 }) },
      }),
    );
    fc.assert(
      fc.property(
        fc.array(mishap, { maxLength: 5 }),
        fc.constantFrom('best', 'mean', 'worst' as const),
        (list, phase) => {
          const mishaps = list.map(({ at, lasts, ...each }): JoinedMishap => ({ ...each, from: at, to: at + lasts }));
          const told = play(mishaps, undefined, phase);
          const usual = joinedWay(ENDS, () => true, { id: 'a' }, { id: 'b' });
          expect(told.spans.at(-1)).toMatchObject({ path: usual.path, back: usual.back, served: true });
          expect(told.spans[0]!.from).toBe(0);
          for (const [i, span] of told.spans.entries()) {
            if (i > 0) expect(span.from).toBe(told.spans[i - 1]!.to);
            const off = mishaps.some(
              (each) =>
                each.what === 'site' &&
                span.path?.includes(each.siteId) &&
                each.from < span.to - 1e-6 &&
                each.to! > span.from + 1e-6,
            );
            if (off) expect(span.served).toBe(false);
          }
          expect(told.longest).toBeLessThanOrEqual(told.outage + 1e-9);
        },
      ),
      { seed, numRuns: 300 },
    );
  });
});
