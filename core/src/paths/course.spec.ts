import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  Course,
  Together,
  rehearse,
  Rounds,
  USUAL_WATCH,
  type CourseRule,
  type PathMeasure,
  type RehearsedUplink,
} from '.';

const rule = (more: Partial<CourseRule> = {}): CourseRule => ({
  ...{ id: 'c', ports: ['a', 'b'], how: 'first', otherwise: 'nothing' },
  ...more,
});
const good: PathMeasure = { loss: 0, latency: 20, jitter: 1 };
const slow: PathMeasure = { loss: 0, latency: 900, jitter: 1 };
const view = (up: string, usual = 'c') => ({
  isUsable: (port: string) => up.includes(port),
  weightOf: (port: string) => (port === 'a' ? 3 : 1),
  usual: [{ port: usual, weight: 1 }],
});
const by = (course: Course, up: string): string =>
  course
    .use(view(up))
    .used.map(({ port, weight }) => `${port}${weight}`)
    .join(' ');

describe('a course', () => {
  test('leaves by the first of its own that is good; by none of the others; or as the rest does, where that is said', () => {
    const course = new Course(rule());
    expect(['abc', 'bc', 'c'].map((up) => by(course, up))).toEqual(['a1', 'b1', '']);
    const soft = new Course(rule({ otherwise: 'usual' }));
    expect(soft.use(view('c'))).toEqual({ used: [{ port: 'c', weight: 1 }], meets: false, usual: true });
  });

  test('is shared among its own by their weights', () => {
    const course = new Course(rule({ how: 'share' }));
    expect(['abc', 'b'].map((up) => by(course, up))).toEqual(['a3 b1', 'b1']);
  });

  test('leaves what is not as needed after so many rounds, and takes it again only once it is well for a while', () => {
    const course = new Course(rule({ needs: { latency: 100 }, steady: { bad: 2, good: 3, margin: 0.2 } }));
    const seen = (measure: PathMeasure): string => {
      course.measured('b', good);
      course.measured('a', measure);
      return by(course, 'ab');
    };
    expect([slow, slow, good, good, good].map(seen)).toEqual(['a1', 'b1', 'b1', 'b1', 'a1']);
    // A little below what is needed is not well enough to go back.
    const near = { ...good, latency: 90 };
    expect([slow, slow, near, near, near, near].map(seen)).toEqual(['a1', 'b1', 'b1', 'b1', 'b1', 'b1']);
  });

  test('takes whichever comes nearest where none is as needed, and says so', () => {
    const course = new Course(rule({ needs: { voice: 4.2 }, steady: { bad: 1, good: 1, margin: 0 } }));
    course.measured('a', { loss: 8, latency: 300, jitter: 20 });
    course.measured('b', { loss: 6, latency: 120, jitter: 5 });
    expect(course.use(view('ab'))).toMatchObject({ used: [{ port: 'b' }], meets: false, usual: false });
    course.measured('a', good);
    expect(course.use(view('ab'))).toMatchObject({ used: [{ port: 'a' }], meets: true });
  });

  test('never leaves by what it may not, and changes its uplink no oftener than its steadiness lets it', () => {
    const measures = fc.array(
      fc.record({ a: fc.boolean(), b: fc.boolean(), up: fc.constantFrom('ab', 'a', 'b', '') }),
      {
        maxLength: 80,
      },
    );
    fc.assert(
      fc.property(measures, (windows) => {
        const steady = { bad: 3, good: 4, margin: 0 };
        const course = new Course(rule({ needs: { latency: 100 }, steady }));
        let [last, changes] = ['a', 0];
        for (const { a, b, up } of windows) {
          course.measured('a', a ? good : slow);
          course.measured('b', b ? good : slow);
          for (const { port } of course.use(view(up)).used) expect(up).toContain(port);
          // With both up all the time.
          const { used, meets } = course.use(view('ab'));
          if (meets && used[0]!.port !== last) [last, changes] = [used[0]!.port, changes + 1];
        }
        expect(changes).toBeLessThanOrEqual(Math.ceil(windows.length / steady.bad));
      }),
    );
  });
});

describe('standbys of their own', () => {
  const uplinks = [
    { port: 'a', weight: 1, standby: null },
    { port: 'b', weight: 1, standby: null },
    { port: 'c', weight: 1, standby: 1, instead: ['b'] },
    { port: 'd', weight: 1, standby: 2 },
  ];
  const used = (gone: string, begins: 'any' | 'all' = 'all'): string => {
    const together = new Together(uplinks, { begins, back: 0 });
    for (const port of gone) together.told(port, false, 0);
    return together
      .used(1)
      .map(({ port }) => port)
      .join('');
  };
  test('begin when those fail that they stand by for', () => {
    expect(['', 'a', 'b', 'ab', 'bc', 'abc'].map((gone) => used(gone))).toEqual(['ab', 'b', 'ac', 'c', 'a', 'd']);
    expect(used('a', 'any')).toBe('bd');
  });
});

test('rounds tell loss, delay and jitter of the latest, and when more of them would change nothing', () => {
  const rounds = new Rounds();
  expect(rounds.measure()).toBeNull();
  for (let i = 0; i < 20; i++) rounds.add(i % 4 === 0 ? null : 40);
  expect(rounds.measure()).toEqual({ loss: 25, latency: 40, jitter: 0 });
  expect(rounds.settled).toBe(false);
  for (let i = 0; i < 20; i++) rounds.add(40);
  expect([rounds.settled, rounds.measure(), rounds.count]).toEqual([true, { loss: 0, latency: 40, jitter: 0 }, 40]);
});

describe('a rehearsal with courses', () => {
  const uplink = (port: string, more: Partial<RehearsedUplink> = {}): RehearsedUplink => ({
    ...{ port, weight: 1, standby: null, watch: USUAL_WATCH, linked: true, delay: 10, loss: 0 },
    ...more,
  });
  const gateway = (courses: readonly CourseRule[]) => ({
    ...{ id: 'g', rule: { begins: 'all' as const, back: 30 }, stay: true, courses },
    uplinks: [uplink('a'), uplink('b', { standby: 0 })],
  });
  const cut = { what: 'cut' as const, from: 60, to: 160, gatewayId: 'g', port: 'a' };

  test('has what may leave by one alone wait for as long as that is gone, while the rest goes on', () => {
    const made = rehearse(gateway([rule({ ports: ['a'] })]), [cut], 400);
    const [course] = made.courses!;
    expect(made.outage).toBe(0);
    expect(course!.outage).toBeGreaterThan(100);
    expect(course!.spans.map(({ used }) => used.map(({ port }) => port).join())).toEqual(['a', '', 'a']);
    const soft = rehearse(gateway([rule({ ports: ['a'], otherwise: 'usual' })]), [cut], 400);
    expect(soft.courses![0]).toMatchObject({ outage: 0 });
  });

  test('is no other for what leaves as usual, wherever checks fall beside what happens', () => {
    const silent = { ...cut, what: 'silent' as const };
    const watch = { ...USUAL_WATCH, interval: 0.4, timeout: 0.2, losses: 2 };
    for (const phase of ['best', 'mean', 'worst'] as const) {
      const some = gateway([rule({ needs: { voice: 4 } })]);
      const quick = { ...some, uplinks: some.uplinks.map((each) => ({ ...each, watch, jitter: 1 })) };
      const [plain, steered] = [{ ...quick, courses: [] }, quick].map((each) => rehearse(each, [silent], 400, phase));
      expect(steered!.longest).toBeGreaterThan(0.5);
      expect(Math.abs(steered!.longest - plain!.longest)).toBeLessThan(0.01);
    }
  });

  test('has what needs to be quick leave a way that is slow, though that carries, and come back', () => {
    const needs = { latency: 100 };
    const late = { ...cut, what: 'slow' as const, amount: 2000, to: 400 };
    const quick = { ...USUAL_WATCH, interval: 1, timeout: 1 };
    const made = rehearse(
      {
        ...gateway([rule({ needs })]),
        uplinks: [uplink('a', { watch: { ...quick, timeout: 5, interval: 5 } }), uplink('b')],
      },
      [late],
      900,
    );
    const ports = made.courses![0]!.spans.map(({ used }) => used[0]!.port);
    expect(ports).toEqual(['a', 'b', 'a']);
    expect(made.noticed).toEqual([]);
    expect(made.courses![0]).toMatchObject({ outage: 0, unmet: 0 });
  });
});
