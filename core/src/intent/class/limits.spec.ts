import { expect, test } from 'vitest';
import { resolve } from '..';
import { compileSite } from '../../rollout';
import { applied, sampleId, sampleSite } from '../../testing';
import type { Operation } from '../registry';
import { apply } from '../apply';
import { limitFlaws, type ClassLimits } from './limits';

const sample = sampleSite({ segments: 2, aps: 1 });
const crew = (limits: ClassLimits): Operation => ({
  type: 'class.add',
  accessClass: {
    ...{ id: sampleId(8, 0), name: 'Crew', segment: 'Segment 1', members: [], reach: { kind: 'estate' }, ...limits },
  },
});
const byClass: Operation = { type: 'ssid.set', ssidId: sampleId(5, 0), from: {}, to: { byClass: true } };

test.each<[ClassLimits, string[]]>([
  [{}, []],
  [{ rate: { down: 20_000, up: 5000 }, session: 1, idle: 10_080, again: 60 }, []],
  [{ rate: { down: null }, session: null, idle: null, again: null }, []],
  [{ rate: { down: 0 } }, ['rate.down']],
  [{ rate: { up: 63 } }, ['rate.up']],
  [{ session: 0, idle: 10_081, again: 1.5 }, ['session', 'idle', 'again']],
])('%j has its flaws at %j', (limits, fields) => {
  expect(limitFlaws(limits).map(({ field }) => field)).toEqual(fields);
});

test('APs are told rates and times of a class, others the times alone; what says nothing leaves nothing', () => {
  const limits = { rate: { down: 20_000, up: null }, session: 480, idle: 30, again: null };
  const { estate } = applied(sample.intent, crew(limits), byClass);
  const documents = [...compileSite(resolve(estate, sample.site), sample.roster).values()];
  const ap = documents.find(({ kind }) => kind === 'ap')!;
  expect(ap.classes).toEqual([
    expect.objectContaining({ client: { down: { kbps: 20_000, burst: 250_000 } }, session: 28_800, idle: 1800 }),
  ]);
  expect(ap.classes![0]).not.toHaveProperty('again');
  const plain = applied(sample.intent, crew({ rate: { down: null }, session: null }), byClass).estate;
  const [one] = [...compileSite(resolve(plain, sample.site), sample.roster).values()].flatMap(
    ({ classes = [] }) => classes,
  );
  expect(one).toEqual({ id: sampleId(8, 0), name: 'Crew', vlan: 10, members: [] });
});

test('a limit is taken away again by undoing what set it', () => {
  const before = applied(sample.intent, crew({ session: 60 }));
  const change: Operation = {
    ...{ type: 'class.set', classId: sampleId(8, 0) },
    ...{ from: { session: 60, rate: null }, to: { session: null, rate: { down: 1000 } } },
  };
  const outcome = apply(before, change, () => undefined);
  if (!outcome.ok) throw new Error(JSON.stringify(outcome));
  expect(outcome.intent.estate.classes![0]).toMatchObject({ session: null, rate: { down: 1000 } });
  const back = apply(outcome.intent, outcome.inverse, () => undefined);
  expect(back.ok && back.intent.estate.classes![0]).toMatchObject({ session: 60, rate: null });
});
