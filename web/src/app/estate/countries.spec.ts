import { COUNTRIES, countryByName } from './countries';

describe('countries', () => {
  it('are found by name or code in any case, and not by anything else', () => {
    expect(countryByName(' ireland ')).toBe('IE');
    expect(countryByName('ie')).toBe('IE');
    expect(countryByName('Atlantis')).toBeUndefined();
  });

  it('each have a name of their own', () => {
    expect(new Set(COUNTRIES.map((country) => country.name)).size).toBe(COUNTRIES.length);
    expect(COUNTRIES.every(({ code, name }) => name !== code)).toBe(true);
  });
});
