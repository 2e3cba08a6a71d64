import { drawAll, flawsOf, listed, NEW_KEYS, planned, type ManyText } from './many-keys';

describe('many keys', () => {
  const text = (more: Partial<ManyText> = {}): ManyText => ({ ...NEW_KEYS, ...more });
  const flawed = (more: Partial<ManyText>): string[] => Object.keys(flawsOf(text(more), 10_000));

  it('says what is wrong with what was typed, each at its field', () => {
    expect(flawed({})).toEqual([]);
    expect(flawed({ count: '0' })).toEqual(['count']);
    expect(flawed({ count: '10001' })).toEqual(['count']);
    expect(flawed({ pattern: 'Berth' })).toEqual(['pattern']);
    expect(flawed({ length: '7' })).toEqual(['length']);
    expect(flawed({ most: 'two' })).toEqual(['most']);
    expect(flawed({ until: '2026-02-30' })).toEqual(['until']);
    expect(flawed({ leads: 'each', vlan: '4090' })).toEqual(['vlan']);
    expect(flawed({ leads: 'each', segments: 'Berths' })).toEqual(['segments']);
    expect(flawed({ leads: 'each', bits: '30' })).toEqual(['bits']);
    expect(flawed({ leads: 'list', count: '2', list: 'Berth 1, 101' })).toEqual(['list']);
  });

  it('reads a list of segments, with the VLAN ID behind those that are new', () => {
    expect(listed('Berth 7, 107\n\n Crew 2 \nPier 12 VLAN 112')).toEqual([
      { name: 'Berth 7', vlan: 107 },
      { name: 'Crew 2', vlan: null },
      { name: 'Pier 12', vlan: 112 },
    ]);
  });

  it('leads each key where it was said: its own segment by number, one for all, or one of a list', () => {
    const of = (more: Partial<ManyText>) =>
      planned(text({ count: '2', first: '9', ...more })).map(({ wanted }) => wanted);
    expect(of({})).toEqual([null, null]);
    expect(of({ leads: 'one', one: 'Crew' })).toEqual([
      { name: 'Crew', vlan: null },
      { name: 'Crew', vlan: null },
    ]);
    expect(of({ leads: 'each', segments: 'B{nn}' })).toEqual([
      { name: 'B09', vlan: 109 },
      { name: 'B10', vlan: 110 },
    ]);
    expect(of({ leads: 'list', list: 'Crew; Berth 2' }).map((each) => each?.name)).toEqual(['Crew', 'Berth 2']);
  });

  it('draws keys that differ, as long and of what was said', () => {
    const said = text({ count: '50', length: '10', alphabet: 'digits', most: '2', until: '2026-12-31' });
    const keys = drawAll(planned(said), said);
    expect(new Set(keys.map(({ key }) => key)).size).toBe(50);
    expect(keys.every(({ key }) => /^\d{10}$/.test(key))).toBe(true);
    expect(keys[0]).toMatchObject({ name: 'Berth 1', segment: null, most: 2, until: '2026-12-31' });
  });
});
