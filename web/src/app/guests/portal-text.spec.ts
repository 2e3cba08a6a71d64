import { lastsWords, readLasts } from '@iron-lattice/core/base';
import { NEW_PORTAL, type Portal } from '@iron-lattice/core/intent';
import { fieldsOf, textOf, unreadable } from './portal-text';

describe('a portal as it is typed', () => {
  it('reads lengths of time as people write them, and writes them so', () => {
    expect(['90', '90 min', '8 h', '1,5h', '2 D', ' 15m '].map(readLasts)).toEqual([90, 90, 480, 90, 2880, 15]);
    for (const text of ['', 'soon', '8 weeks', '-1', 'h']) expect(readLasts(text)).toBeNaN();
    for (const minutes of [0, 5, 60, 90, 1440, 44_640]) expect(readLasts(lastsWords(minutes))).toBe(minutes);
    expect(lastsWords(0)).toBe('0 min');
  });

  it('comes back as it is kept', () => {
    const portal: Portal = {
      ...{ ...NEW_PORTAL, id: 'p', name: 'Visitors', visit: 90, dataADay: 500, minutesADay: 120 },
      ...{ landing: 'https://a.example/', newsLink: null, garden: ['a.example', '*.b.example'], agree: true },
      purpose: null,
      kinds: [{ name: 'Day guest', minutes: 1440, most: 2 }],
      ...{
        idle: 30,
        rest: 120,
        known: 43_200,
        slow: 256,
        named: true,
        quiet: ['online.skerrow.example'],
        hours: 'h',
        users: 'servers',
        rate: { down: 10_000, up: 2500 },
      },
      account: {
        ...{
          name: 'Pier account',
          issuer: 'https://accounts.pier.example',
          client: 'lattice',
          secret: { secret: 's' },
        },
        domains: ['pier.example'],
      },
      asks: { name: 'must', company: 'may' },
      ...{ first: 10, logo: null, backdrop: { id: 'f'.repeat(64), width: 9, height: 9 } },
      sponsors: {
        ...{ domains: ['skerrow.example', '*.ferries.example'], people: ['rin@gull.example'], told: [], within: 30 },
        groups: [
          { name: 'Harbour office', people: ['mel@pier.example', 'oz@pier.example'] },
          { name: 'Desk', people: ['rin@pier.example'] },
        ],
      },
    };
    const { id: _id, ...fields } = portal;
    expect(fieldsOf(textOf(portal))).toEqual(fields);
    expect(fieldsOf(textOf(null))).toMatchObject({
      ...NEW_PORTAL,
      name: '',
      agree: null,
      asks: null,
      sponsors: null,
      account: null,
    });
    const none = {
      idle: null,
      rest: null,
      known: null,
      slow: null,
      named: null,
      quiet: null,
      hours: null,
      users: null,
      rate: null,
      kinds: null,
    };
    expect(fieldsOf(textOf(null))).toMatchObject(none);
    // A line without a colon is a group without anybody, which is told so.
    expect(fieldsOf({ ...textOf(null), groups: 'Harbour office' }).sponsors!.groups).toEqual([
      { name: 'Harbour office', people: [] },
    ]);
  });

  it('says what of it cannot be read', () => {
    expect(unreadable(textOf(null))).toEqual({});
    const typed = { ...textOf(null), visit: '', minutesADay: '2 weeks', dataADay: '1.5', first: 'soon', within: '' };
    const more = {
      ...typed,
      rest: 'later',
      idle: 'x',
      known: 'long',
      slow: '1.5',
      down: 'fast',
      up: '',
      kinds: 'Day: soon',
    };
    const wrong = ['dataADay', 'first', 'minutesADay', 'visit', 'within'];
    expect(Object.keys(unreadable(typed)).sort()).toEqual(wrong);
    expect(Object.keys(unreadable(more)).sort()).toEqual(
      [...wrong, 'down', 'idle', 'kinds', 'known', 'rest', 'slow'].sort(),
    );
  });
});
