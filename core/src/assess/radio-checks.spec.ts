import { describe, expect, test } from 'vitest';
import type { SitePart } from '../intent';
import { sampleSite } from '../testing';
import type { AirFacts } from './air-facts';
import { findingsOf } from './consequences';
import type { Finding } from './finding';

const sample = sampleSite({ segments: 2, aps: 3 });
const aps = sample.roster.filter(({ model }) => model.startsWith('AP'));
const [one, two, three] = aps as [(typeof aps)[0], (typeof aps)[0], (typeof aps)[0]];

function found(
  more: Partial<SitePart>,
  air?: AirFacts,
  tags: readonly string[] = [],
  estate = sample.intent.estate,
): Finding[] {
  const { roster, links } = sample;
  const site = { ...sample.site, ...more };
  return findingsOf({ estate, site, roster, links, tags, ...(air ? { air } : {}) }).filter(({ code }) =>
    code.startsWith('radio.'),
  );
}
const radio = (id: string, entry: object, band = '5') => ({ radios: { [id]: { [band]: entry } } }) as Partial<SitePart>;
const near = (loss: number, band: '2.4' | '5' = '5') =>
  [
    [one, two],
    [one, three],
    [two, three],
  ].map(([a, b]) => ({ band, a: a!.id, b: b!.id, loss }));
/** The site once a mend was made. */
const mended = ({ mend }: Finding): Partial<SitePart> => {
  const [operation] = mend!.operations;
  if (operation?.type !== 'radio.set') throw new Error('no mend of a radio');
  return { radios: { [operation.deviceId]: { [operation.band]: operation.to! } } };
};

describe('findings of radios', () => {
  test('none where nothing is said and nothing was heard', () => {
    expect(found({})).toEqual([]);
  });

  test('a channel that a copy brought to a country where it is not legal, mended by taking it off', () => {
    const moved = { country: 'US', ...radio(one.id, { channel: 13 }, '2.4') };
    const [finding] = found(moved);
    expect(finding).toMatchObject({
      code: 'radio.not-legal',
      severity: 'error',
      place: { kind: 'radio', id: one.id, port: '2.4' },
    });
    expect(finding!.reason).toContain('United States allows channels 1–11');
    expect(found({ country: 'US', ...mended(finding!) })).toEqual([]);
    expect(found({ country: 'US', bands: { '2.4': { channels: [12, 13] } } }).map(({ code }) => code)).toContain(
      'radio.no-channel',
    );
  });

  test('a power above what holds there, and one softer than clients answer', () => {
    const [loud] = found(radio(one.id, { channel: 149, power: 23 }));
    expect(loud).toMatchObject({ code: 'radio.power', mend: { label: 'say 14 dBm' } });
    expect(found(mended(loud!))).toEqual([]);
    const [soft] = found(radio(one.id, { power: 3 }));
    expect(soft).toMatchObject({ code: 'radio.soft', mend: { label: 'say 8 dBm' } });
    expect(found(mended(soft!))).toEqual([]);
  });

  test('40 MHz at 2.4 GHz where others are heard, and not where nobody is', () => {
    const wide = radio(one.id, { channel: 1, width: 40 }, '2.4');
    expect(found(wide)).toEqual([]);
    const air: AirFacts = {
      near: [],
      strangers: [
        {
          bssid: '06:00:00:00:00:01',
          ssid: 'Kiosk',
          band: '2.4',
          channel: 6,
          heardBy: [{ deviceId: one.id, signal: -70 }],
        },
      ],
    };
    const [finding] = found(wide, air);
    expect(finding).toMatchObject({ code: 'radio.wide', mend: { label: `20 MHz at ${one.name}` } });
    expect(found(mended(finding!), air)).toEqual([]);
  });

  test('channels that lie across each other at 2.4 GHz, but not 1, 5, 9 and 13', () => {
    const on = (...channels: number[]): Partial<SitePart> => ({
      radios: Object.fromEntries(channels.map((channel, i) => [aps[i]!.id, { '2.4': { channel } }])),
    });
    expect(found(on(1, 5, 9))).toEqual([]);
    expect(found(on(1, 6, 11))).toEqual([]);
    const [finding] = found(on(1, 4, 11));
    expect(finding).toMatchObject({
      code: 'radio.overlap',
      place: { id: two.id },
      mend: { label: `channel 6 for ${two.name}` },
    });
  });

  test('all APs that hear each other on one channel', () => {
    const on36 = { radios: Object.fromEntries(aps.map(({ id }) => [id, { '5': { channel: 36 } }])) };
    expect(found(on36)).toEqual([]);
    const [finding] = found(on36, { near: near(80), strangers: [] });
    expect(finding).toMatchObject({ code: 'radio.all-on-one', severity: 'warning' });
    expect(found(on36, { near: near(108), strangers: [] })).toEqual([]);
    // Where there is no other channel for them, that they share one is no fault.
    const one = { bands: { '5': { width: 80 as const, channels: [36] } } };
    expect(found({ ...on36, ...one }, { near: near(80), strangers: [] })).toEqual([]);
  });

  test('radar channels where radar is usual', () => {
    const on100 = { bands: { '5': { radar: true } }, ...radio(one.id, { channel: 100 }) };
    expect(found(on100, undefined, ['terminal'])).toEqual([]);
    const [finding] = found(on100, undefined, ['vessel']);
    expect(finding).toMatchObject({ code: 'radio.radar-by-sea', mend: { label: `channel 36 for ${one.name}` } });
  });

  test('a radio that is off though an SSID needs it, and one at 6 GHz that nobody uses', () => {
    const [off] = found(radio(one.id, { on: false }));
    expect(off).toMatchObject({ code: 'radio.off', mend: { label: 'switch it on' } });
    expect(found(mended(off!))).toEqual([]);
    // Said of the whole band, it is not one radio's to mend.
    expect(found({ bands: { '5': { on: false } } })[0]).toMatchObject({ code: 'radio.off', mend: null });
  });

  test('radios for 6 GHz that nobody uses are said once', () => {
    const ssids = sample.intent.estate.ssids.map((ssid) => ({ ...ssid, bands: ['5'] as const }));
    const estate = { ...sample.intent.estate, ssids };
    const unused = (more: Partial<SitePart>) => found(more, undefined, [], estate);
    expect(unused({})).toMatchObject([
      { code: 'radio.unused', severity: 'info', message: 'Nobody uses the 6 GHz radios of 3 APs' },
    ]);
    expect(unused({ bands: { '6': { on: false } } })).toEqual([]);
  });

  test('a stranger that carries a name of ours', () => {
    const { name } = sample.intent.estate.ssids[0]!;
    const heardBy = [
      { deviceId: two.id, signal: -51 },
      { deviceId: one.id, signal: -70 },
    ];
    const strangers = [
      { bssid: '06:00:00:00:00:09', ssid: name.toUpperCase(), band: '5' as const, channel: 36, heardBy },
    ];
    const [finding] = found({}, { near: [], strangers });
    expect(finding).toMatchObject({ code: 'radio.lookalike', place: { kind: 'ssid' } });
    expect(finding!.reason).toContain(`heard by ${two.name} (-51 dBm), ${one.name} (-70 dBm)`);
  });
});
