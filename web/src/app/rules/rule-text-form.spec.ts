import type { Rule } from '@iron-lattice/core/rules';
import { fieldsOf, NEW_RULE, OWN, textOf } from './rule-text-form';

const known = { segment: ['Crew'] };
const rule: Rule = {
  ...{ id: 'r', verdict: 'deny', from: [{ kind: 'segment', name: 'Crew' }], to: [{ kind: 'internet' }] },
  services: [{ protocol: 'any' }],
};

describe('a rule as it is typed', () => {
  it('is in force always, at hours, or at times of its own, and never at two of them', () => {
    expect(textOf(rule)).toMatchObject({ hours: '', times: '' });
    expect(textOf({ ...rule, hours: 'h' })).toMatchObject({ hours: 'h', times: '' });
    const times = [{ days: [1], from: '08:00', to: '09:00' }];
    expect(textOf({ ...rule, times })).toMatchObject({ hours: OWN, times: 'Mon 08:00-09:00' });
    const said = (hours: string, text: string) => {
      const { fields } = fieldsOf({ ...NEW_RULE, hours, times: text }, known);
      return [fields.hours, fields.times];
    };
    expect(said('', 'Mon 08:00-09:00')).toEqual([null, []]);
    expect(said('h', 'Mon 08:00-09:00')).toEqual(['h', []]);
    expect(said(OWN, 'Mon 08:00-09:00')).toEqual([null, times]);
  });

  it('says what is wrong with times of its own, and looks at them only where they count', () => {
    expect(fieldsOf({ ...NEW_RULE, hours: OWN, times: 'Noon' }, known).flaws.times).toMatch(/^Write times such as/);
    expect(fieldsOf({ ...NEW_RULE, times: 'Noon' }, known).flaws).toEqual({});
  });
});
