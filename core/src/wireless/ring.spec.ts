import fc from 'fast-check';
import { expect, test } from 'vitest';
import { bitsOfKey, CLEAR_ALPHABET, drawKey, KEY_ALPHABETS, type KeyAlphabet } from '../base';
import { keyAnswer, serverKeyAnswer, type ClassDocument, type RingDocument, type RingKey } from '../document';
import {
  checkKeyList,
  joinText,
  keyTable,
  newKeysFlaws,
  patternAt,
  readNewKeys,
  ringKeyFlaws,
  type NewRingKey,
} from '.';

const MAC = '02:00:00:00:00:01';
const key = (more: Partial<NewRingKey> = {}): NewRingKey => ({
  ...{
    name: 'Berth 1',
    key: 'gull-on-the-mast',
    segment: null,
    accessClass: null,
    macs: [],
    most: null,
    from: null,
    until: null,
    note: '',
  },
  ...more,
});
const codes = (more: Partial<NewRingKey>): string[] => {
  const one = key(more);
  return ringKeyFlaws(one, one.key).map(({ code }) => code);
};

test.each<[string, Partial<NewRingKey>, string[]]>([
  ['all in order', {}, []],
  ['a key itself', { key: 'a0'.repeat(32) }, []],
  ['7 characters', { key: 'sevench' }, ['ring.key']],
  ['64 that are not hex digits', { key: 'x'.repeat(64) }, ['ring.key']],
  ['what is not ASCII', { key: 'Schlüsselbund' }, ['ring.key']],
  ['no name', { name: '  ' }, ['ring.name-empty']],
  ['a name of two lines', { name: 'Berth\n1' }, ['ring.name-signs']],
  ['an end before the beginning', { from: '2026-12-02', until: '2026-12-01' }, ['ring.until']],
  ['one day', { from: '2026-12-01', until: '2026-12-01' }, []],
  ['an end in the morning before it begins', { from: '2026-12-01 11:00', until: '2026-12-01 09:00' }, ['ring.until']],
  ['no day', { until: '2026-02-30' }, ['ring.moment']],
  ['no time', { until: '2026-02-20 25:00' }, ['ring.moment']],
  ['a class', { accessClass: 'Tills' }, []],
  ['a class and a segment', { accessClass: 'Tills', segment: 'Berth 7' }, ['ring.class-segment']],
  ['no device', { most: 0 }, ['ring.most']],
  ['half a device', { most: 1.5 }, ['ring.most']],
  ['what is no MAC address', { macs: ['here'] }, ['ring.mac']],
  ['bound twice', { macs: [MAC, MAC] }, ['ring.mac-twice']],
])('a key with %s', (_what, more, flaws) => {
  expect(codes(more)).toEqual(flaws);
});

test('of many keys that are pasted each wrong one is told by its row, equal ones too', () => {
  const many = Array.from({ length: 10_000 }, (_, i) => key({ name: `Berth ${i}`, key: `berth key ${i}` }));
  many[17] = { ...many[17]!, key: 'short' };
  many[400] = { ...many[400]!, key: many[3]!.key };
  many[9999] = { ...many[9999]!, name: 'BERTH 5' };
  expect(newKeysFlaws(many).map(({ row, code }) => [row, code])).toEqual([
    [17, 'ring.key'],
    [400, 'ring.key-taken'],
    [9999, 'ring.name-taken'],
  ]);
});

test('a key that is drawn is of its alphabet, of its length, and every letter as likely as another', () => {
  // As even as numbers can be, and at the upper end those that would favour the first letters.
  let at = 0;
  const random = (count: number): Uint32Array =>
    Uint32Array.from({ length: count }, () => (at++ % 3 === 0 ? 0xffff_ffff : (at * 2_654_435_761) >>> 0));
  for (const alphabet of Object.keys(KEY_ALPHABETS) as KeyAlphabet[]) {
    const drawn = drawKey(6000, alphabet, random);
    expect(drawn).toMatch(new RegExp(`^[${KEY_ALPHABETS[alphabet]}]{6000}$`));
    const counts = [...KEY_ALPHABETS[alphabet]].map((letter) => drawn.split(letter).length - 1);
    const fair = 6000 / counts.length;
    expect(Math.min(...counts)).toBeGreaterThan(fair * 0.7);
    expect(Math.max(...counts)).toBeLessThan(fair * 1.3);
  }
  expect(CLEAR_ALPHABET).not.toMatch(/[01ilo]/);
  expect(bitsOfKey(12, 'clear')).toBe(59);
});

test('patterns, and what phones read', () => {
  expect([patternAt('Berth {n}', 7), patternAt('B-{nnn}', 7), patternAt('B{nn}', 107)]).toEqual([
    'Berth 7',
    'B-007',
    'B107',
  ]);
  expect(joinText('Pier', null)).toBe('WIFI:T:nopass;S:Pier;;');
  expect(joinText('Pier; "A"', 'a:b\\c', true)).toBe('WIFI:T:WPA;S:Pier\\; \\"A\\";P:a\\:b\\\\c;H:true;;');
});

test('keys that are written as a list are the same again once it is read', () => {
  const text = fc.stringMatching(/^[A-Za-z0-9 ._-]{1,20}$/).map((each) => `n${each.trim()}`);
  const made = fc.record({
    name: text,
    key: fc.stringMatching(/^[a-z2-9]{8,20}$/),
    leads: fc.constantFrom('own', 'segment', 'class'),
    where: text,
    macs: fc.constantFrom(0, 1, 2),
    most: fc.option(fc.integer({ min: 1, max: 9 })),
    from: fc.constantFrom(null, '2026-12-01'),
    until: fc.constantFrom(null, '2026-12-31', '2026-12-31 11:00'),
    note: fc.constantFrom('', 'by the slip'),
  });
  const unique = fc.uniqueArray(made, { selector: ({ name }) => name.toLowerCase(), maxLength: 8 });
  fc.assert(
    fc.property(unique, (drawn) => {
      // Each device is bound to one of them.
      const macs = (of: number, count: number) => Array.from({ length: count }, (_, i) => `02:00:00:00:0${of}:0${i}`);
      const keys = drawn.map(({ leads, where, ...each }, i) => ({
        ...each,
        segment: leads === 'segment' ? where : null,
        accessClass: leads === 'class' ? where : null,
        macs: macs(i, each.macs),
      }));
      fc.pre(new Set(keys.map(({ key: each }) => each)).size === keys.length);
      const seen = checkKeyList(keyTable(keys), (count) => new Uint32Array(count));
      expect(seen.rows.map(({ good }) => good)).toEqual(keys);
      expect(readNewKeys(JSON.stringify(keys))).toEqual(keys.length > 0 ? keys : 'Give at least one key.');
    }),
  );
});

test('what is sent as keys and is none is refused by its row', () => {
  expect(readNewKeys('[')).toBe('This is no list of keys.');
  expect(readNewKeys(JSON.stringify([key(), { name: 1 }]))).toBe('Row 2 is no key.');
  expect(readNewKeys(JSON.stringify([{ ...key(), macs: 'all' }]))).toBe('Row 1 is no key.');
});

const RING: RingDocument = { segments: [{ name: 'Berth 7', vlan: 107 }] };
const TILLS: ClassDocument = { id: 'c', name: 'Tills', vlan: 40, members: [] };
const CLASSES: readonly ClassDocument[] = [TILLS, { id: 'd', name: 'Divers', vlan: null, members: [] }];
const held: RingKey = { id: 'k', key: 'gull-on-the-mast' };
test.each<[string, Partial<RingKey>, object, unknown]>([
  ['leads to the SSID’s own segment', {}, {}, { ok: true }],
  ['leads to its segment, however it is written', { segment: 'berth 7' }, {}, { ok: true, at: RING.segments[0] }],
  ['leads to a class, however it is written', { accessClass: ' tills' }, {}, { ok: true, accessClass: TILLS }],
  ['leads to a class that is not here', { accessClass: 'Crew' }, {}, { ok: false, why: 'nowhere' }],
  ['leads to a class that has no segment here', { accessClass: 'Divers' }, {}, { ok: false, why: 'nowhere' }],
  ['leads nowhere', { segment: 'Berth 8' }, {}, { ok: false, why: 'nowhere' }],
  ['is bound to another', { macs: ['02:00:00:00:00:09'] }, {}, { ok: false, why: 'bound' }],
  ['has its devices', { macs: ['02:00:00:00:00:09'], full: true }, {}, { ok: false, why: 'devices' }],
  ['has its devices at this AP', { most: 2 }, { others: 2 }, { ok: false, why: 'devices' }],
  ['has room', { most: 2 }, { others: 1 }, { ok: true }],
  ['is early', { from: '2026-12-01 11:00' }, { now: '2026-12-01 10:59' }, { ok: false, why: 'early' }],
  ['has just begun', { from: '2026-12-01 11:00' }, { now: '2026-12-01 11:00' }, { ok: true }],
  ['is right all its last day', { until: '2026-12-01' }, { now: '2026-12-01 23:59' }, { ok: true }],
  ['is over', { until: '2026-12-01' }, { now: '2026-12-02 00:00' }, { ok: false, why: 'over' }],
])('a key that %s', (_what, more, seen, answer) => {
  expect(
    keyAnswer(
      { ring: RING, classes: CLASSES },
      { ...held, ...more },
      { mac: MAC, now: '2026-12-01 12:00', others: 0, ...seen },
    ),
  ).toEqual(answer);
});

test('a key leads to no class where classes do not count', () => {
  const place = { ring: RING, classes: null };
  const client = { mac: MAC, now: '2026-12-01 12:00', others: 0 };
  expect(keyAnswer(place, { ...held, accessClass: 'Tills' }, client)).toEqual({ ok: false, why: 'nowhere' });
});

const VLANS = {
  own: { kind: 'none', text: '' },
  berth: { kind: 'id', text: '107' },
  other: { kind: 'id', text: '9' },
} as const;
test.each<[string, readonly ClassDocument[] | null, readonly string[], keyof typeof VLANS, unknown]>([
  ['its class first', CLASSES, ['TILLS'], 'berth', { ok: true, accessClass: TILLS }],
  ['no class that is not here, whatever VLAN it says', CLASSES, ['Crew'], 'berth', { ok: false, why: 'nowhere' }],
  ['its VLAN where it names no class', CLASSES, [], 'berth', { ok: true, at: RING.segments[0] }],
  ['its VLAN where classes do not count', null, ['Tills'], 'berth', { ok: true, at: RING.segments[0] }],
  ['nowhere by a VLAN of none of its segments', CLASSES, [], 'other', { ok: false, why: 'nowhere' }],
  ['the SSID’s own where it says neither', CLASSES, [], 'own', { ok: true }],
])('a key that a server names leads to %s', (_what, classes, filterIds, vlan, answer) => {
  expect(serverKeyAnswer({ ring: RING, classes }, { filterIds, vlan: VLANS[vlan] })).toEqual(answer);
});

test('a device that is bound in two rows is told in the second', () => {
  const bound = (name: string) => ({ ...key(), name, key: `the key of ${name}`, macs: [MAC] });
  expect(newKeysFlaws([bound('one'), bound('two')])).toMatchObject([
    {
      row: 1,
      code: 'ring.mac-bound',
      field: 'macs',
      message: `${MAC} is bound to “one” already. Take it out there first.`,
    },
  ]);
});
