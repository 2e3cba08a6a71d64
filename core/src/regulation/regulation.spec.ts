import { describe, expect, test } from 'vitest';
import { COUNTRIES, RADIO_DOMAINS, countryByName, radioDomainOf, radioWords } from '.';

describe('countries', () => {
  test('are found by name or code in any case, and not by anything else', () => {
    expect(countryByName(' ireland ')).toBe('IE');
    expect(countryByName('ie')).toBe('IE');
    expect(countryByName('Atlantis')).toBeUndefined();
  });

  test('each have a name of their own', () => {
    expect(new Set(COUNTRIES.map((country) => country.name)).size).toBe(COUNTRIES.length);
    expect(COUNTRIES.every(({ code, name }) => name !== code)).toBe(true);
  });
});

describe('radio rules', () => {
  test('follow the country', () => {
    expect(radioDomainOf('ie')?.code).toBe('ETSI');
    expect(radioDomainOf('GB')?.code).toBe('UK');
    expect(
      radioDomainOf('CA')?.rules.some(({ band, channels }) => band === '5' && channels[0] <= 120 && channels[1] >= 120),
    ).toBe(false);
    expect(radioDomainOf('BR')).toBeNull();
  });

  test('are said in a sentence, also where there are none', () => {
    expect(radioWords('IE')).toBe(
      'Europe: 2.4 GHz 1–13 up to 20 dBm, 5 GHz 36–165 up to 27 dBm, 6 GHz 1–93 up to 23 dBm.',
    );
    expect(radioWords('BR')).toMatch(/^We have no radio rules of this country/);
  });

  test('name real channels: radar is listened for from 52 to 144 and nowhere else (EN 301 893 §4.2.6, 47 CFR 15.407(h))', () => {
    for (const { rules } of RADIO_DOMAINS)
      for (const { band, channels, radar } of rules)
        expect(radar).toBe(band === '5' && channels[0] >= 52 && channels[1] <= 144);
  });
});
