import { describe, expect, test } from 'vitest';
import { apply, type SitePart, type Ssid } from '../intent';
import { sampleSite } from '../testing';
import type { AirFacts } from './air-facts';
import { beaconLoads, heaviest, sendingOf, type Sending } from './beacon-load';
import { findingsOf } from './consequences';

const sample = sampleSite({ segments: 2, aps: 3 });
const [one, two, three] = sample.roster.filter(({ model }) => model.startsWith('AP')).map(({ id }) => id) as [
  string,
  string,
  string,
];
const on = (channel: number) => ({ '2.4': { channel } });
const together: Partial<SitePart> = { radios: { [one]: on(6), [two]: on(6), [three]: on(11) } };
const near: AirFacts['near'] = [
  { band: '2.4', a: one, b: two, loss: 70 },
  { band: '2.4', a: one, b: three, loss: 60 },
];
const ssid = sample.intent.estate.ssids[0]!;
const many = (count: number): Ssid[] =>
  Array.from({ length: count }, (_, i) => ({
    ...ssid,
    id: `${ssid.id.slice(0, -1)}${i}`,
    name: `Net ${i}`,
    bands: ['2.4'],
  }));
const site = (more: Partial<SitePart> = {}): SitePart => ({ ...sample.site, ...together, ...more });
const found = (count: number, part: SitePart = site(), heard: AirFacts['near'] = near) =>
  findingsOf({
    estate: { ...sample.intent.estate, ssids: many(count) },
    ...{ site: part, roster: sample.roster, links: sample.links, air: { near: heard, strangers: [] } },
  }).filter(({ code }) => code === 'radio.beacons');

describe('beacons', () => {
  test('of an AP and of those that it hears on its channel are a sum; of those on others, or far away, none', () => {
    const sent = sendingOf(many(2));
    const loads = beaconLoads(site(), sample.roster, sent, near);
    const of = (id: string) => loads.find(({ deviceId }) => deviceId === id)!;
    expect([of(one).heard, of(two).heard, of(three).heard]).toEqual([4, 4, 2]);
    expect(of(one).share).toBeCloseTo(2 * of(three).share, 10);
    const far = beaconLoads(site(), sample.roster, sent, [{ ...near[0]!, loss: 110 }]);
    expect(far.every(({ heard }) => heard === 2)).toBe(true);
    const free = beaconLoads(site({ radios: {} }), sample.roster, sent, near);
    expect(free.every(({ heard, channel }) => heard === 2 && channel === null)).toBe(true);
    expect(heaviest(loads)).toMatchObject([{ band: '2.4', deviceId: one }]);
    expect(beaconLoads(site({ bands: { '2.4': { on: false } } }), sample.roster, sent, near)).toEqual([]);
  });

  test('of what an AP does not send are none of its own, and heard of those that do', () => {
    const [first, second] = sendingOf(many(2)) as [Sending, Sending];
    const loads = beaconLoads(site(), sample.roster, [first, { ...second, senders: [two] }], near);
    const of = (id: string) => loads.find(({ deviceId }) => deviceId === id)!;
    expect([one, two, three].map((id) => [of(id).own, of(id).heard, of(id).aps])).toEqual([
      [1, 3, 2],
      [2, 3, 2],
      [1, 1, 1],
    ]);
    expect(of(one).share).toBeCloseTo(3 * of(three).share, 3);
    expect(beaconLoads(site(), sample.roster, [{ ...first, senders: [] }], near)).toEqual([]);
  });

  test('that take a tenth of the air are a finding, with what would help worked out', () => {
    expect(found(1)).toEqual([]);
    const [finding] = found(3);
    expect(finding).toMatchObject({ severity: 'warning', place: { kind: 'radio', port: '2.4' } });
    expect(finding!.reason).toMatch(
      /^6 networks of ours are heard there, 3 of them its own, .* at 1 Mb\/s\. At 5\.5 Mb\/s they would take \d/,
    );
    expect(finding!.reason).toMatch(/One SSID less would leave \d+/);
    const intent = { ...sample.intent, sites: new Map([[sample.site.id, site()]]) };
    const outcome = apply(intent, finding!.mend!.operations[0]!, (id) =>
      sample.roster.find((device) => device.id === id),
    );
    expect(outcome.ok && found(3, outcome.intent.sites.get(sample.site.id))).toEqual([]);
  });

  test('are no fault of a rate that is fast already', () => {
    expect(found(8, site({ bands: { '2.4': { slowest: 12 } } }))).toEqual([]);
  });
});
