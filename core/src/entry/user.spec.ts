import fc from 'fast-check';
import { expect, test } from 'vitest';
import { USUAL_SERVER } from '../intent';
import { applied, sampleId, sampleSite } from '../testing';
import {
  checkUserList,
  classOfGroups,
  newUsersFlaws,
  readNewUsers,
  userAtSites,
  userFlaws,
  userKey,
  userNameFlaws,
  userTable,
  type NewUser,
  type UserFields,
} from '.';

const seed = Number(process.env['SEED'] ?? 1);
const plain: UserFields = { name: 'marn.ellis', groups: [], until: null, most: null, off: false, note: '' };
const codes = (flaws: readonly { code: string }[]): string => flaws.map(({ code }) => code.slice(5)).join(' ');

test('names are compared as RFC 8265 has it; a device is its address, however it is written', () => {
  for (const alike of [
    ['Marn.Ellis', 'marn.ellis', 'ＭＡＲＮ.ellis'],
    ['Zoë', 'zoe\u0308', 'ZOË'],
    ['0E-C4-60-00-00-03', '0ec4.6000.0003', '0ec460000003', '0e:c4:60:00:00:03'],
  ])
    expect(new Set(alike.map(userKey)).size, alike.join()).toBe(1);
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme', maxLength: 60 }), (name) => {
      expect(userKey(userKey(name))).toBe(userKey(name));
    }),
    { seed, numRuns: 500 },
  );
});

test.each([
  ['', 'name-empty'],
  ['  ', 'name-empty'],
  ['x'.repeat(253), ''],
  ['x'.repeat(254), 'name-long'],
  ['é'.repeat(127), 'name-long'],
  ['marn\u0000ellis', 'name-signs'],
  ['marn\nellis', 'name-signs'],
  ['marn\u200bellis', 'name-invisible'],
  ['marn\u202eellis', 'name-invisible'],
  ['m\u0430rn.ellis', 'name-mixed'],
  ['Марн Эллис', ''],
])('the name %j is judged as %j', (name, code) => expect(codes(userNameFlaws(name))).toBe(code));

test.each<[Partial<UserFields>, string | null, string]>([
  [{}, 'slack water 24', ''],
  [{}, 'short', 'password-short'],
  [{}, 'x'.repeat(129), 'password-long'],
  [{}, 'password1', 'password-common'],
  [{}, 'Marn.Ellis', 'password-common'],
  [{}, 'slack\u0007water', 'password-signs'],
  [{ name: '0e:c4:60:00:00:03' }, 'slack water 24', 'password-device'],
  [{ until: '2026-02-30' }, null, 'until'],
  [{ most: 0 }, null, 'most'],
  [{ most: 1001 }, null, 'most'],
  [{ groups: ['Deck', 'deck'] }, null, 'group-twice'],
  [{ groups: ['Deck, Engine'] }, null, 'group'],
  [{ groups: Array.from({ length: 21 }, (_, i) => `g${i}`) }, null, 'groups'],
  [{ note: 'x'.repeat(401) }, null, 'note'],
])('what is said of a user, %j with the password %j, is judged as %j', (change, password, code) =>
  expect(codes(userFlaws({ ...plain, ...change }, password))).toBe(code),
);

test('users written as a list come back as they were, a name like a formula too', () => {
  const name = fc.constantFrom('marn', 'jory pell', '=dell', "'quay", 'tam@skerrow.example', '0e:c4:60:00:00:03');
  const group = fc.constantFrom('Deck', 'Engine', 'Night crew');
  const one = fc.record({
    name,
    groups: fc.uniqueArray(group, { maxLength: 3 }),
    until: fc.constantFrom(null, '2026-12-31'),
    most: fc.constantFrom(null, 1, 7),
    off: fc.boolean(),
    note: fc.constantFrom('', 'Comes, and goes'),
  });
  fc.assert(
    fc.property(fc.uniqueArray(one, { selector: ({ name: of }) => of, minLength: 1, maxLength: 6 }), (users) => {
      const { rows, flaws } = checkUserList(userTable(users));
      expect(flaws).toEqual([]);
      expect(rows.map(({ good }) => good)).toEqual(
        users.map((each) => ({ ...each, password: each.name.includes(':') ? null : '' })),
      );
    }),
    { seed, numRuns: 200 },
  );
});

test('of 5,000 users in a list the three that are wrong are told by their rows', () => {
  const rows = Array.from({ length: 5000 }, (_, i) => [`crew.${i}`, '', 'Deck', '', '', '', '']);
  rows[17] = ['crew.16', '', '', '', '', '', ''];
  rows[400] = ['crew.400', 'short', '', '', '', '', ''];
  rows[4999] = ['crew.4999', '', '', 'some day', '', 'perhaps', ''];
  const table = [['name', 'password', 'groups', 'until', 'devices', 'off', 'note'], ...rows];
  const wrong = checkUserList(table).rows.flatMap(({ line, flaws }) =>
    flaws.length > 0 ? [[line, codes(flaws)]] : [],
  );
  expect(wrong).toEqual([
    [19, 'name-taken'],
    [402, 'password-short'],
    [5001, 'until off'],
  ]);
});

test('what is sent as users is read, or said to be none', () => {
  const users: NewUser[] = [{ ...plain, password: '' }];
  expect(readNewUsers(JSON.stringify(users))).toEqual(users);
  for (const text of ['', '{}', '[]', '[1]', '[{"name":"a"}]', JSON.stringify([{ ...users[0], groups: 'Deck' }])])
    expect(typeof readNewUsers(text), text).toBe('string');
  expect(codes(newUsersFlaws([users[0]!, { ...users[0]!, name: 'MARN.ellis' }]))).toBe('name-taken');
});

test('the class is that of the first group that has one', () => {
  const classes = [
    { name: 'Crew', groups: ['Deck', 'engine'] },
    { name: 'Office', groups: ['Ashore'] },
  ];
  expect(classOfGroups(['visitors', 'ashore', 'deck'], classes)).toBe('Office');
  expect(classOfGroups(['ENGINE'], classes)).toBe('Crew');
  expect(classOfGroups([], classes)).toBeNull();
});

test('what a user would get is told for each site, with what stands in the way', () => {
  const { intent, site } = sampleSite({ segments: 3, aps: 1 });
  const estate = { kind: 'estate' as const };
  const of = (segment: string) =>
    applied(
      intent,
      {
        type: 'class.add',
        accessClass: { id: sampleId(8, 0), name: 'Crew', segment, members: [], groups: ['Deck'], reach: estate },
      },
      {
        type: 'radius.add',
        radius: {
          ...{
            ...USUAL_SERVER,
            id: sampleId(7, 0),
            name: 'Own',
            own: true,
            address: '',
            secret: { secret: sampleId(7, 9) },
          },
          reach: estate,
        },
      },
    );
  const asks = { untagged: null, tagged: [], auth: 'mac' as const };
  const asked = (segment: string) => {
    const made = of(segment);
    const part = { ...made.sites.get(site.id)!, ports: { [sampleId(3, 0)]: { '4': asks } } };
    return { ...made, sites: new Map([[site.id, part]]) };
  };
  expect(userAtSites(asked('Segment 2'), ['deck'])).toMatchObject([
    { siteId: site.id, ports: 1, server: 'Own', accessClass: 'Crew', segment: { vlan: 20 }, lacks: [] },
  ]);
  expect(userAtSites(asked('Nowhere'), ['deck'])[0]!.lacks).toEqual(['segment Nowhere']);
  expect(userAtSites(asked('Segment 2'), ['ashore'])[0]!.lacks).toEqual(['no class of a group']);
  expect(userAtSites(intent, ['deck'])[0]!.lacks).toEqual([
    'nothing asks',
    'this controller is not asked',
    'no class of a group',
  ]);
});
