import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  noticedAfter,
  rehearse,
  USUAL_WATCH,
  type Mishap,
  type Rehearsed,
  type RehearsedGateway,
  type RehearsedUplink,
} from '.';

const uplink = (port: string, more: Partial<RehearsedUplink> = {}): RehearsedUplink => ({
  ...{ port, weight: 1, standby: null, watch: USUAL_WATCH, linked: true, delay: 10, loss: 0 },
  ...more,
});
const gateway = (uplinks: readonly RehearsedUplink[], more: Partial<RehearsedGateway> = {}): RehearsedGateway => ({
  ...{ id: 'g', uplinks, rule: { begins: 'all', back: 30 }, stay: true },
  ...more,
});
const mishap = (more: Partial<Mishap>): Mishap => ({
  ...{ what: 'silent', from: 60, to: null, gatewayId: 'g', port: 'a' },
  ...more,
});
const used = ({ spans }: Rehearsed): string[] =>
  spans.map(
    (span) =>
      `${Math.round(span.from)} ${span.used.map(({ port, share }) => `${port}${Math.round(share * 100)}`).join('+')}`,
  );

const pair = gateway([uplink('a'), uplink('b', { standby: 0 })]);

describe('a rehearsal', () => {
  test('of an uplink through which nothing gets any more takes as long as was computed, at best, as usual and at worst', () => {
    const computed = noticedAfter(USUAL_WATCH);
    for (const phase of ['best', 'mean', 'worst'] as const) {
      const { outage, dark, longest, noticed } = rehearse(pair, [mishap({})], 300, phase);
      expect(outage).toBeCloseTo(computed[phase], 2);
      expect([dark, longest]).toEqual([outage, outage]);
      expect(noticed[0]).toMatchObject({ port: 'a', what: 'gone' });
    }
  });

  test('of a link that is cut takes no time, of one alone all the time until it is back', () => {
    const cut = rehearse(pair, [mishap({ what: 'cut' })], 300);
    expect(cut.outage).toBe(0);
    expect(used(cut)).toEqual(['0 a100', '60 b100']);
    const alone = rehearse(gateway([uplink('a')]), [mishap({ what: 'cut', to: 90 })], 300);
    expect(alone).toMatchObject({ outage: 30, dark: 30, longest: 30 });
  });

  test('of a gateway without power serves nobody, breaks all, and begins anew with what it was before it knew better', () => {
    const off = mishap({ what: 'off', port: '', from: 100, to: 160 });
    const made = rehearse(pair, [off], 300);
    expect(made).toMatchObject({ outage: 60, dark: 60, longest: 60, broken: 1 });
    expect(used(made)).toEqual(['0 a100', '100 ', '160 a100']);
    expect(made.noticed).toEqual([{ at: 160, port: '', what: 'started' }]);
    // It left by the standby, knows nothing of that afterwards, and has to notice anew that nothing gets through.
    const silent = rehearse(pair, [mishap({ from: 10 }), off], 300);
    expect(silent.noticed.map(({ port, what }) => `${port} ${what}`)).toEqual(['a gone', ' started', 'a gone']);
    expect(used(silent)).toEqual(['0 a100', '10 a100', '25 b100', '100 ', '160 a100', '175 b100']);
    const again = silent.noticed[2]!.at - 160;
    expect(again).toBeGreaterThan(noticedAfter(USUAL_WATCH).best - 0.01);
    expect(again).toBeLessThan(noticedAfter(USUAL_WATCH).worst + 0.01);
    // A link that is cut is cut when it has power again.
    const cut = rehearse(pair, [mishap({ what: 'cut', from: 120 }), off], 300);
    expect(used(cut)).toEqual(['0 a100', '100 ', '160 b100']);
    // It began without, and so has nothing to notice; nor of a port that never had a link.
    const bare = gateway([uplink('a'), uplink('b', { linked: false })]);
    for (const each of [cut, rehearse(bare, [off], 300)])
      expect(each.noticed).toEqual([{ at: 160, port: '', what: 'started' }]);
    const back = rehearse(pair, [mishap({ what: 'cut', from: 120, to: 200 }), off], 300);
    expect(back.noticed.map(({ port, what }) => `${port} ${what}`)).toEqual([' started', 'a back']);
    // What was to come back by hand alone is used again all the same.
    const byHand = rehearse(
      { ...pair, rule: { begins: 'all', back: 'hand' } },
      [mishap({ what: 'cut', to: 30, from: 10 }), off],
      300,
    );
    expect(used(byHand)).toEqual(['0 a100', '10 b100', '100 ', '160 a100']);
  });

  test('of a gateway without power leaves courses unserved too, and steers them anew', () => {
    const rule = { id: 'c', ports: ['b'], how: 'first', otherwise: 'nothing' } as const;
    const made = rehearse({ ...pair, courses: [rule] }, [mishap({ what: 'off', port: '', from: 20, to: 50 })], 100);
    expect(made.courses![0]).toMatchObject({ outage: 30, dark: 30 });
    expect(made.courses![0]!.spans.map((span) => span.used.map(({ port }) => port).join())).toEqual(['b', '', 'b']);
  });

  test('says what each uplink carries, parted as what leaves was parted among courses and the rest', () => {
    const rule = { id: 'c', ports: ['b'], how: 'first', otherwise: 'nothing' } as const;
    const of = { ...pair, rate: 1000, courses: [rule], parts: { c: 0.25 } };
    expect(rehearse(of, [], 100).carried).toEqual([
      { port: 'a', octets: 75_000 },
      { port: 'b', octets: 25_000 },
    ]);
    // While its own is gone a course that may leave by no other carries nothing.
    expect(rehearse(of, [mishap({ what: 'cut', port: 'b', from: 20, to: null })], 100).carried).toEqual([
      { port: 'a', octets: 75_000 },
      { port: 'b', octets: 5000 },
    ]);
    expect(rehearse({ ...pair, rate: 1000 }, [], 100).carried).toEqual([{ port: 'a', octets: 100_000 }]);
  });

  test('goes back after what was said, and sessions that stayed break nothing', () => {
    const made = rehearse(pair, [mishap({ what: 'cut', to: 100 })], 400);
    // Good three times in a row and for 15 s, then 30 s until it is used again.
    expect(made.noticed.map(({ what }) => what)).toEqual(['gone', 'back']);
    const back = made.noticed[1]!.at;
    expect(back).toBeGreaterThanOrEqual(115);
    expect(back).toBeLessThan(121);
    expect(made.spans.at(-1)!.used).toEqual([{ port: 'a', share: 1 }]);
    expect(made.spans.at(-1)!.from).toBeCloseTo(back + 30, 3);
    expect(made.broken).toBeCloseTo(1, 6);
    const moving = rehearse({ ...pair, stay: false }, [mishap({ what: 'cut', to: 100 })], 400);
    expect(moving.broken).toBeCloseTo(2, 6);
  });

  test('takes with one of two that share only what was on it', () => {
    const sharing = gateway([uplink('a', { weight: 3 }), uplink('b')]);
    const made = rehearse(sharing, [mishap({ what: 'silent' })], 300, 'worst');
    expect(made.broken).toBeGreaterThan(0.7);
    expect(made.broken).toBeLessThan(0.76);
    expect([made.dark, made.outage > 16]).toEqual([0, true]);
    expect(made.spans.find(({ served }) => served < 0.999)!.served).toBeCloseTo(0.25, 1);
    expect(used(made).at(-1)).toMatch(/b100$/);
  });

  test('of losses and of slowness is noticed where questions go unanswered, and not else', () => {
    expect(rehearse(pair, [mishap({ what: 'slow', amount: 1500 })], 300).noticed).toEqual([]);
    expect(rehearse(pair, [mishap({ what: 'slow', amount: 2500 })], 300).noticed[0]).toMatchObject({ what: 'gone' });
    expect(rehearse(pair, [mishap({ what: 'lossy', amount: 0.05 })], 3600).noticed).toEqual([]);
    expect(rehearse(pair, [mishap({ what: 'lossy', amount: 0.9 })], 600).noticed[0]).toMatchObject({ what: 'gone' });
    const watch = {
      ...USUAL_WATCH,
      targets: [
        { by: 'ping' as const, to: '192.0.2.1' },
        { by: 'ping' as const, to: '192.0.2.2' },
      ],
    };
    const two = gateway([uplink('a', { watch }), uplink('b', { standby: 0 })]);
    const gone = (target: string): Mishap => mishap({ what: 'target', target });
    expect(rehearse(two, [gone('192.0.2.1')], 300).noticed).toEqual([]);
    expect(rehearse(two, [gone('192.0.2.1'), gone('192.0.2.2')], 300)).toMatchObject({
      outage: 0,
      noticed: [{ what: 'gone' }],
    });
  });

  test('comes to its end whatever the times are', () => {
    const time = (most: number) => fc.double({ min: 0.2, max: most, noNaN: true });
    fc.assert(
      fc.property(
        time(30),
        time(400),
        time(90),
        time(100),
        fc.constantFrom('cut' as const, 'silent' as const),
        (interval, delay, back, from, what) => {
          const watch = { ...USUAL_WATCH, interval, timeout: interval, hold: back };
          const made = rehearse(
            gateway([uplink('a', { watch, delay }), uplink('b', { standby: 0, watch, delay })], {
              rule: { begins: 'all', back },
            }),
            [mishap({ what, from, to: from + back })],
            900,
          );
          expect(made.spans.at(-1)!.to).toBe(900);
          expect(made.spans.length).toBeLessThan(60);
        },
      ),
    );
  });

  test('leaves nobody out who could be served, and ends when it is to end', () => {
    const kind = fc.constantFrom('cut' as const, 'silent' as const);
    const one = fc.record({
      what: kind,
      port: fc.constantFrom('a', 'b', 'c'),
      from: fc.integer({ min: 0, max: 500 }),
      last: fc.integer({ min: 1, max: 300 }),
    });
    const three = gateway([uplink('a', { weight: 2 }), uplink('b'), uplink('c', { standby: 1 })]);
    fc.assert(
      fc.property(fc.array(one, { maxLength: 6 }), fc.boolean(), (list, stay) => {
        const mishaps = list.map(({ what, port, from, last }) => mishap({ what, port, from, to: from + last }));
        const made = rehearse({ ...three, stay }, mishaps, 900);
        expect(made.spans[0]!.from).toBe(0);
        expect(made.spans.at(-1)!.to).toBe(900);
        made.spans.slice(1).forEach((span, i) => expect(span.from).toBeCloseTo(made.spans[i]!.to, 9));
        for (const { served, used: shares } of made.spans) {
          expect(served).toBeGreaterThanOrEqual(-1e-9);
          expect(served).toBeLessThanOrEqual(1 + 1e-6);
          const sum = shares.reduce((total, { share }) => total + share, 0);
          expect(Math.abs(sum - 1) < 1e-9 || shares.length === 0).toBe(true);
        }
        // A while after the last mishap all is as it was.
        if (mishaps.every(({ to }) => to! < 500)) expect(made.spans.at(-1)!.served).toBeCloseTo(1, 6);
        expect(made.dark).toBeLessThanOrEqual(made.outage + 1e-9);
      }),
      { numRuns: 150 },
    );
  });
});
