import fc from 'fast-check';
import { expect, test } from 'vitest';
import { sampleId } from '../testing';
import { AT_ONCE, wavesOf, whatStopDoes, type SiteToTell, type StepState, type WavePlan } from '.';

const MODELS = ['GW-4', 'SW-8P', 'AP-6'];
const site = (number: number, sizes: readonly number[], clients = 0, silent = false): SiteToTell => ({
  id: sampleId(1, number),
  name: `Site ${number}`,
  tags: number % 3 === 0 ? [] : [`t${number % 2}`, 'z'],
  clients,
  devices: sizes.map((kind, i) => ({
    id: sampleId(2, number * 100 + i),
    name: `s${number}-${i}`,
    model: MODELS[kind]!,
    silent: silent && i === 0,
  })),
});
const plan = (more: Partial<WavePlan>): WavePlan => ({ ...AT_ONCE, ...more });
const arbSites = fc
  .array(fc.tuple(fc.array(fc.nat(2), { maxLength: 5 }), fc.nat(40), fc.boolean()), { minLength: 1, maxLength: 12 })
  .map((all) => all.map(([sizes, clients, silent], i) => site(i, sizes, clients, silent)));
const arbPlan = fc
  .record({
    canary: fc.constantFrom('none', 'device', 'kinds', 'site'),
    by: fc.constantFrom('together', 'site', 'tag', 'share'),
    shares: fc.uniqueArray(fc.integer({ min: 1, max: 99 }), { maxLength: 4 }).map((all) => all.sort((a, b) => a - b)),
  })
  .map((each) => plan(each as Partial<WavePlan>));

test('every device is told in one wave, no wave is empty, and a site’s devices keep their order', () => {
  fc.assert(
    fc.property(arbSites, arbPlan, (sites, how) => {
      const waves = wavesOf(sites, how);
      expect(waves.every(({ devices }) => devices.length > 0)).toBe(true);
      const told = waves.flatMap(({ devices }) => devices.map(({ deviceId }) => deviceId));
      const all = sites.flatMap(({ devices }) => devices.map(({ id }) => id));
      expect([...told].sort()).toEqual([...all].sort());
      const [first, ...rest] = waves;
      const canary = how.canary === 'none' ? [] : (first?.devices ?? []).map(({ deviceId }) => deviceId);
      const after = (how.canary === 'none' ? waves : rest).flatMap(({ devices }) => devices);
      for (const { id, devices } of sites) {
        const order = devices.map((device) => device.id).filter((each) => !canary.includes(each));
        expect(after.filter(({ siteId }) => siteId === id).map(({ deviceId }) => deviceId)).toEqual(order);
      }
    }),
    { seed: Number(process.env['SEED'] ?? 1) },
  );
});

test('the canary is a site that is heard, where fewest clients are; a device of it is an access point', () => {
  const sites = [site(1, [0, 1, 2], 30), site(2, [0, 1, 2], 2), site(4, [0, 2], 0, true)];
  expect(wavesOf(sites, plan({ canary: 'site' })).map(({ name, devices }) => [name, devices.length])).toEqual([
    ['Canary: Site 2', 3],
    ['All', 5],
  ]);
  expect(wavesOf(sites, plan({ canary: 'device' }))[0]).toEqual({
    name: 'Canary: s2-2',
    devices: [{ siteId: sampleId(1, 2), deviceId: sampleId(2, 202) }],
  });
  expect(wavesOf([site(5, [0, 1, 1, 2, 2])], plan({ canary: 'kinds' }))[0]?.devices).toHaveLength(3);
  expect(wavesOf(sites, plan({ canary: 'site', canarySiteId: sampleId(1, 1) }))[0]?.name).toBe('Canary: Site 1');
  expect(() => wavesOf(sites, plan({ canary: 'site', canarySiteId: sampleId(1, 9) }))).toThrow(RangeError);
});

test('the rest goes by site, by first tag, or by shares of the sites', () => {
  const sites = [1, 2, 3, 4, 5, 6, 7, 8, 9, 10].map((number) => site(number, [2], number));
  const shape = (how: Partial<WavePlan>) =>
    wavesOf(sites, plan(how)).map(({ name, devices }) => [name, devices.length]);
  expect(shape({ by: 'site' })).toHaveLength(10);
  expect(shape({ by: 'tag' })).toEqual([
    ['Tag t0', 4],
    ['Tag t1', 3],
    ['Without a tag', 3],
  ]);
  expect(shape({ by: 'share' })).toEqual([
    ['To 10 % of the sites', 1],
    ['To 50 % of the sites', 4],
    ['The rest', 5],
  ]);
  expect(shape({ by: 'share', shares: [5, 6, 99] })).toEqual([
    ['To 5 % of the sites', 1],
    ['To 99 % of the sites', 9],
  ]);
  expect(wavesOf([], plan({ canary: 'site' }))).toEqual([]);
});

test('stopping keeps sites that were told as a whole and takes back the others; going back takes back all', () => {
  const steps = (
    [
      ['a', 'kept'],
      ['a', 'later'],
      ['b', 'kept'],
      ['b', 'failed'],
      ['b', 'waiting'],
      ['c', 'waiting'],
    ] as [string, StepState][]
  ).map(([siteId, state]) => ({ siteId, state }));
  expect(whatStopDoes(steps, 'stop')).toEqual({
    stay: { devices: 2, sites: 1 },
    back: { devices: 1, sites: 1 },
    never: { devices: 3, sites: 2 },
  });
  expect(whatStopDoes(steps, 'back')).toEqual({
    stay: { devices: 0, sites: 0 },
    back: { devices: 3, sites: 2 },
    never: { devices: 3, sites: 2 },
  });
});
