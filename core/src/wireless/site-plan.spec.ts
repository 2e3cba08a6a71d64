import { expect, test } from 'vitest';
import { USUAL_BANDS } from '../intent';
import { planBand, type BandPlanInput, type PlanRadio } from '.';

const radio = (n: number, more: Partial<PlanRadio> = {}): PlanRadio => ({
  deviceId: `ap-${n}`,
  name: `AP ${n}`,
  sheet: { band: '5', streams: 2, width: 80 },
  on: true,
  now: { channel: 36, width: 40, power: 23 },
  stays: false,
  power: null,
  clients: [-60, -65],
  heard: { networks: [], channels: [] },
  ...more,
});
/** All hear each other alike. */
const clique = (count: number, loss = 80) =>
  Array.from({ length: count }, (_, i) =>
    Array.from({ length: i }, (__, j) => ({ band: '5' as const, a: `ap-${j}`, b: `ap-${i}`, loss })),
  ).flat();
const input = (radios: readonly PlanRadio[], more: Partial<BandPlanInput> = {}): BandPlanInput => ({
  band: '5',
  country: 'IE',
  policy: { ...USUAL_BANDS['5'], width: 40 },
  radios,
  losses: clique(radios.length),
  ours: [],
  ...more,
});

test('radios that hear each other are put apart, and each is told what that brings', () => {
  const plan = planBand(input([radio(0), radio(1)]))!;
  const blocks = plan.radios.map(({ after }) => Math.floor((after.channel - 36) / 8));
  expect(new Set(blocks).size).toBe(2);
  expect(plan.wayAfter).toBe(0);
  expect(plan.wayBefore).toBeGreaterThan(0);
  for (const { speedBefore, speedAfter } of plan.radios) expect(speedAfter).toBeGreaterThan(speedBefore);
  // One of them can stay where it is.
  expect(plan.radios.filter(({ moves }) => moves)).toHaveLength(1);
  expect(plan.bound).toBeLessThanOrEqual(plan.cost + 1e-9);
});

test('a width is chosen that leaves room: many that hear each other go narrower than two', () => {
  const policy = { ...USUAL_BANDS['5'], width: 80 as const };
  expect(planBand(input([radio(0)], { policy }))!.width).toBe(80);
  const many = planBand(
    input(
      Array.from({ length: 12 }, (_, n) => radio(n)),
      { policy },
    ),
  )!;
  expect(many.width).toBe(20);
  expect(new Set(many.radios.map(({ after }) => after.channel)).size).toBe(4);
});

test('what is fixed stays, and the others go around it', () => {
  const fixed = radio(0, { stays: true, now: { channel: 44, width: 40, power: 11 } });
  const plan = planBand(input([fixed, radio(1, { now: { channel: 44, width: 40, power: 23 } })]))!;
  expect(plan.radios[0]).toMatchObject({ moves: false, after: { channel: 44, width: 40, power: 11 } });
  expect([36, 40]).toContain(plan.radios[1]!.after.channel);
});

test('channels shared with radar are only taken where the site lets them, and the listening is said', () => {
  const radios = Array.from({ length: 6 }, (_, n) => radio(n, { clients: [-60] }));
  const without = planBand(input(radios))!;
  expect(without.radios.every(({ after }) => after.channel <= 48)).toBe(true);
  const policy = { ...USUAL_BANDS['5'], width: 40 as const, radar: true };
  const far = planBand(input(radios, { policy }))!;
  const away = far.radios.filter(({ after }) => after.channel >= 52);
  expect(away.length).toBeGreaterThan(0);
  expect(away.every(({ listens }) => listens >= 60)).toBe(true);
});

test('an AP that hears strangers is moved away from them', () => {
  const strangers = {
    networks: [
      {
        bssid: '06:00:00:00:00:01',
        ssid: 'Kiosk',
        band: '5' as const,
        channel: 36,
        centre: 38,
        width: 40,
        signal: -55,
        security: 'WPA2',
      },
    ],
    channels: [36, 40].map((channel) => ({ band: '5' as const, channel, busy: 0.6, noise: -94 })),
  };
  const plan = planBand(input([radio(0, { heard: strangers })]))!;
  expect(plan.radios[0]!.after.channel).toBeGreaterThanOrEqual(44);
  // The same network being ours is no stranger.
  const own = planBand(input([radio(0, { heard: strangers })], { ours: ['06:00:00:00:00:01'] }))!;
  expect(own.radios[0]!.moves).toBe(false);
});

test('powers come down where that costs no speed, within what the site says, and stay up where it does', () => {
  const four = (clients: number[], more: Partial<BandPlanInput> = {}) =>
    planBand(
      input(
        [0, 1, 2, 3].map((n) => radio(n, { clients })),
        { losses: clique(4, 100), ...more },
      ),
    )!.radios[0]!.after.power;
  // Clients close by: what is heard less far is as fast.
  expect(four([-30, -32])).toBeLessThan(20);
  expect(four([-30, -32], { policy: { ...USUAL_BANDS['5'], width: 40, least: 21 } })).toBeGreaterThanOrEqual(21);
  expect(four([-72, -75])).toBe(23);
  expect(planBand(input([radio(0)]))!.radios[0]!.after.power).toBe(23);
});

test('what brings nothing moves nobody', () => {
  const apart = [radio(0), radio(1, { now: { channel: 44, width: 40, power: 23 } })];
  const plan = planBand(input(apart))!;
  expect(plan.radios.filter(({ moves }) => moves)).toEqual([]);
  expect(plan.radios.every(({ speedBefore, speedAfter }) => speedAfter >= speedBefore - 0.5)).toBe(true);
});

test('it says how far it is, ends when it is not to go on, and is the same each time', () => {
  const radios = Array.from({ length: 12 }, (_, n) => radio(n));
  const told: number[] = [];
  const plan = planBand(input(radios), (done) => (told.push(done), true));
  expect(told.at(-1)).toBeLessThanOrEqual(1);
  expect([...told].sort((a, b) => a - b)).toEqual(told);
  expect(planBand(input(radios))).toEqual(plan);
  expect(planBand(input(radios), () => false)).toBeNull();
  expect(planBand(input([radio(0, { on: false })]))).toBeNull();
});
