import { namesIn, ringTokens } from './ring-tokens';

describe('ringTokens', () => {
  const known = ['Crew', 'Berth 1', 'Quay, north'].map((name) => ({ value: name, label: `${name} · VLAN 7` }));
  const source = ringTokens(known);

  it('reads names that commas part, keeps whole what has a comma itself, and says what is nowhere', () => {
    expect(source.read('crew, Quay, north,  Berth 1 , Mole').map(({ text, bad }) => [text, bad ?? false])).toEqual([
      ['Crew', false],
      ['Quay, north', false],
      ['Berth 1', false],
      ['Mole', true],
    ]);
    expect(namesIn('Crew, crew,, ', () => false)).toEqual(['Crew']);
  });

  it('writes what it reads', () => {
    const text = source.join(source.read('Quay, north, Crew'));
    expect(source.join(source.read(text))).toBe('Quay, north, Crew');
  });
});
