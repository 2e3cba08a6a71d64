import { describe, expect, test } from 'vitest';
import { apply, bandSetting, radioSetting, type Intent, type Operation, type RadioEntry } from '..';
import { sampleId, sampleSite } from '../../testing';

const sample = sampleSite({ segments: 2, aps: 2 });
const ap = sample.roster.find(({ model }) => model.startsWith('AP'))!;
const siteId = sample.site.id;
const lookup = (id: string) => sample.roster.find((each) => each.id === id);
const inCountry = (country: string): Intent => ({
  ...sample.intent,
  sites: new Map(sample.intent.sites).set(siteId, { ...sample.site, country }),
});
const band = (to: object | null, more: object = {}): Operation =>
  ({ type: 'radio.band', siteId, band: '5', from: null, to, ...more }) as never;
const radio = (to: RadioEntry | null, more: object = {}): Operation =>
  ({ type: 'radio.set', siteId, deviceId: ap.id, band: '5', from: null, to, ...more }) as never;

function done(operation: Operation, intent = sample.intent) {
  const outcome = apply(intent, operation, lookup);
  if (!outcome.ok) throw new Error(outcome.flaws[0]!.message);
  return { intent: outcome.intent, site: outcome.intent.sites.get(siteId)!, inverse: outcome.inverse };
}
function refused(
  operation: Operation,
  intent = sample.intent,
): { code: string; text: string; field: string | undefined } {
  const outcome = apply(intent, operation, lookup);
  if (outcome.ok) throw new Error('it was taken');
  const [first] = outcome.flaws;
  return { code: first!.code, text: first!.message, field: first!.field };
}

describe('radios of a site', () => {
  test('are as usual until something is said, which is kept where it differs and taken back whole', () => {
    expect(bandSetting(sample.site, '2.4')).toMatchObject({ width: 20, channels: [1, 6, 11] });
    const first = done(radio({ channel: 44, width: 40, power: 17 }));
    expect(first.site.radios).toEqual({ [ap.id]: { '5': { channel: 44, width: 40, power: 17 } } });
    const setting = radioSetting(first.site, ap, '5');
    expect(setting).toMatchObject({
      width: 40,
      eirp: 17,
      own: ['channel', 'power'] /* 40 MHz is what the band has anyway */,
      at: { channel: 44, width: 40 },
    });
    expect(setting.at!.block).toMatchObject({ centre: 46, members: [44, 48] });
    expect(done(first.inverse, first.intent).site).toEqual(sample.site);
  });

  test('follow the band in what is not said of them', () => {
    const wide = done(band({ width: 80, most: 18 }));
    expect(radioSetting(wide.site, ap, '5')).toMatchObject({ width: 80, eirp: 18, channel: null });
    const own = done(radio({ channel: 36 }), wide.intent);
    expect(radioSetting(own.site, ap, '5').at).toMatchObject({ width: 80, block: { centre: 42 } });
    // 140 has no 40 MHz beside it where 144 is not legal: as wide as fits.
    const edge = done(radio({ channel: 140 }), done(band({ radar: true })).intent);
    expect(radioSetting(edge.site, ap, '5').at).toMatchObject({ channel: 140, width: 20 });
  });

  test('take by themselves what the band names, as wide as may be, and never where radar has the right of way', () => {
    const { choices } = radioSetting(sample.site, ap, '5');
    expect(choices.map(({ channel }) => channel)).toEqual([36, 40, 44, 48]);
    expect(choices.every(({ width }) => width === 40)).toBe(true);
    // With the little power of short range devices only where somebody says so; of several channels the weakest decides.
    expect(radioSetting(sample.site, ap, '5').eirp).toBe(23);
    const far = done(band({ channels: [36, 149] }));
    expect(radioSetting(far.site, ap, '5').eirp).toBe(14);
    const few = done(band({ channels: [44, 36, 36] }));
    expect(few.site.bands).toEqual({ '5': { channels: [36, 44] } });
    expect(radioSetting(few.site, ap, '5')).toMatchObject({ eirp: 23 });
  });

  test('say where they go when radar is heard', () => {
    const allowed = done(band({ radar: true, refuge: 44 }));
    const on100 = done(radio({ channel: 100 }), allowed.intent);
    const setting = radioSetting(on100.site, ap, '5');
    expect(setting.at!.block.duty).toEqual({ radar: true, listenSeconds: 60, restSeconds: 1800 });
    expect(setting.refuge).toMatchObject({ channel: 44, width: 40 });
    const weather = done(radio({ channel: 120 }), allowed.intent);
    expect(radioSetting(weather.site, ap, '5').at!.block.duty.listenSeconds).toBe(600);
  });

  test('are refused what is not legal, and told what is', () => {
    const text = 'Legal in Ireland at 5 GHz: channels 36–64, 100–140, 149–165.';
    expect(refused(radio({ channel: 13 }))).toMatchObject({
      code: 'radio.not-legal',
      field: 'channel',
      text: `Channel 13 cannot be used at 5 GHz. ${text}`,
    });
    expect(refused(radio({ channel: 100 })).code).toBe('radio.radar');
    const allowed = done(band({ radar: true }));
    expect(refused(radio({ channel: 140, width: 40 }), allowed.intent)).toMatchObject({
      code: 'radio.no-fit',
      field: 'width',
    });
    expect(refused(radio({ channel: 36, width: 160 }), allowed.intent)).toMatchObject({
      code: 'radio.width',
      field: 'width',
    });
    expect(refused(radio({ channel: 36, power: 0 })).text).toBe(
      'Power lies between 1 and 23 dBm on channel 36: the law of Ireland.',
    );
    expect(refused(radio({ channel: 36, power: 99 })).code).toBe('radio.power');
    expect(refused(radio({ channel: 100, power: 27 }), allowed.intent).text).toContain(`what ${ap.name} can do`);
    expect(refused(band({ width: 320 })).code).toBe('radio.width');
    expect(refused(band({ channels: [] })).code).toBe('radio.no-channel');
    expect(refused(band({ channels: [144, 36] })).text).toContain('Channel 144 cannot be used at 5 GHz.');
    expect(refused(band({ least: 20, most: 10 })).code).toBe('radio.power-order');
    expect(refused(band({ most: 99 })).field).toBe('most');
    expect(refused(band({ refuge: 100 })).code).toBe('radio.refuge');
    expect(refused(band({ radar: true }, { band: '2.4' })).code).toBe('radio.no-radar');
    expect(refused(radio({ channel: 36 }, { deviceId: sampleId(1, 99) })).code).toBe('radio.device-unknown');
    expect(refused(radio({ on: false }, { from: { on: true } })).code).toBe('radio.changed');
  });

  test('keep to what is legal nearly everywhere in a country we have no rules of', () => {
    const intent = inCountry('BR');
    expect(refused(radio({ channel: 149 }), intent).text).toContain('channels 36–48.');
    expect(done(radio({ channel: 48 }), intent).site.radios).toBeDefined();
    expect(radioSetting({ ...sample.site, country: 'BR' }, ap, '5').choices.map((each) => each.channel)).toEqual([
      36, 40, 44, 48,
    ]);
  });

  test('radar channels are not taken from a band while radios stand on them', () => {
    const allowed = done(band({ radar: true }));
    const on = done(radio({ channel: 100 }), allowed.intent);
    const { code, text } = refused(band(null, { from: { radar: true } }), on.intent);
    expect(code).toBe('radio.on-radar');
    expect(text).toContain(`${ap.name} (100) is on channels shared with radar.`);
  });

  test('what a copy brings to another country is never sent on a channel that is not legal there', () => {
    const site = { ...sample.site, country: 'US', bands: { '2.4': { channels: [13] } }, radios: {} };
    expect(radioSetting(site, ap, '2.4')).toMatchObject({ choices: [], eirp: null });
    const moved = { ...sample.site, country: 'US', radios: { [ap.id]: { '2.4': { channel: 13 } } } };
    expect(radioSetting(moved, ap, '2.4')).toMatchObject({ at: null, eirp: null });
  });
});
