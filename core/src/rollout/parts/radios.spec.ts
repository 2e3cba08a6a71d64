import { expect, test } from 'vitest';
import type { ApDocument } from '../../document';
import { differenceOf, outagesOf } from '../../document';
import { resolve, type SitePart } from '../../intent';
import { sampleSite } from '../../testing';
import { compileSite } from '../compile';

const sample = sampleSite({ segments: 2, aps: 2 });
const ap = sample.roster.find(({ model }) => model.startsWith('AP'))!;
const told = (more: Partial<SitePart>): ApDocument => {
  const site = resolve(sample.intent.estate, { ...sample.site, ...more });
  return compileSite(site, sample.roster).get(ap.id) as ApDocument;
};

test('an AP is told of the radios of which something was said, and of no other', () => {
  expect(told({}).radios).toBeUndefined();
  const one = told({ radios: { [ap.id]: { '5': { channel: 44, power: 17 } } } });
  expect(one.radios).toEqual([{ band: '5', at: { channel: 44, width: 40, centre: 46 }, power: 17 }]);
  const off = told({ bands: { '2.4': { on: false } } });
  expect(off.radios).toEqual([{ band: '2.4', off: true }]);
});

test('on a channel shared with radar it is told how to listen, and where to go', () => {
  const { radios } = told({ bands: { '5': { radar: true } }, radios: { [ap.id]: { '5': { channel: 100 } } } });
  expect(radios).toEqual([
    {
      band: '5',
      at: { channel: 100, width: 40, centre: 102 },
      power: 26,
      radar: { listen: 60, rest: 1800, refuge: { channel: 36, width: 40, centre: 38 } },
    },
  ]);
});

test('another channel restarts the radio, listening included; another power does not', () => {
  const at = (channel: number, power?: number) =>
    told({ bands: { '5': { radar: true } }, radios: { [ap.id]: { '5': { channel, ...(power ? { power } : {}) } } } });
  const radio = (a: ApDocument, b: ApDocument) => outagesOf(a, b).filter(({ what }) => what === 'radio');
  expect(radio(at(36), at(44))).toMatchObject([{ where: ['5'], seconds: 10 }]);
  expect(radio(at(36), at(100))).toMatchObject([{ where: ['5'], seconds: 70 }]);
  expect(radio(at(36), at(120))).toMatchObject([{ where: ['5'], seconds: 610 }]);
  expect(radio(at(36, 20), at(36, 12))).toEqual([]);
  expect(radio(at(36), told({ bands: { '5': { on: false } } }))).toMatchObject([{ seconds: null }]);
  expect(differenceOf(at(36), at(44)).lines).toMatchObject([
    { path: ['radios', '5', 'at', 'centre'], before: '38', after: '46' },
    { path: ['radios', '5', 'at', 'channel'], before: '36', after: '44' },
  ]);
});
