import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  DICTIONARY,
  EAP,
  EAP_TYPE,
  eapAttributes,
  joinedEap,
  macAs,
  MAC_FORMATS,
  numberAttribute,
  octetsOfText,
  readEap,
  saidAttributes,
  textAttribute,
  textOfOctets,
  vlanAttributes,
  vlanOf,
  writeEap,
  type Attribute,
} from '.';

const seed = Number(process.env['SEED'] ?? 1);
const tagged = (tag: number, type: number, number: number): Attribute => ({
  type,
  value: Uint8Array.of(tag, 0, 0, number),
});
const group = (text: string, tag?: number): Attribute => ({
  type: 81,
  value: Uint8Array.of(...(tag === undefined ? [] : [tag]), ...octetsOfText(text)),
});
const whole = (text: string, tag: number) => [tagged(tag, 64, 13), tagged(tag, 65, 6), group(text, tag)];

test('a VLAN is told by its ID or name; the lowest tag that is whole wins', () => {
  expect(vlanOf(vlanAttributes('30'))).toEqual({ kind: 'id', vlan: 30 });
  expect(vlanOf(vlanAttributes('Crew'))).toEqual({ kind: 'name', name: 'Crew' });
  expect(vlanOf(whole('Crew', 2))).toEqual({ kind: 'name', name: 'Crew' });
  expect(vlanOf([...whole('30', 3), ...whole('Tills', 2)])).toEqual({ kind: 'name', name: 'Tills' });
  expect(vlanOf([tagged(1, 64, 13), group('9', 1), ...whole('30', 2)])).toEqual({ kind: 'id', vlan: 30 });
  expect(vlanOf([tagged(1, 64, 3), tagged(1, 65, 6), group('9', 1)])).toEqual({ kind: 'none' });
  expect(vlanOf([group('30')])).toEqual({ kind: 'none' });
  for (const text of ['0', '4095', '99999999999999999999'])
    expect(vlanOf(vlanAttributes(text))).toEqual({ kind: 'wrong', text });
  // A number that is none does not fall to the next tag, and so to another segment.
  expect(vlanOf([...whole('0', 1), ...whole('30', 2)])).toEqual({ kind: 'wrong', text: '0' });
});

test('octets are shown as text where they are, and what steers a screen or is not seen is shown by number', () => {
  fc.assert(
    fc.property(fc.string({ unit: 'binary' }), (text) => {
      if (/[\p{Cc}\p{Cf}\u2028\u2029\p{Cs}]/u.test(text)) return;
      expect(textOfOctets(octetsOfText(text))).toBe(text);
    }),
    { seed, numRuns: 500 },
  );
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 40 }), (octets) => {
      expect(textOfOctets(octets)).not.toMatch(/[\p{Cc}\u200b-\u200f\u202a-\u202e\ufeff]/u);
    }),
    { seed, numRuns: 1000 },
  );
  expect(textOfOctets(octetsOfText('nemo\u0000\u202e'))).toBe('nemo\\x00\\xe2\\x80\\xae');
  expect(textOfOctets(Uint8Array.of(0xc0, 0x80, 0xed, 0xa0, 0x80, 0xf4, 0x90, 0x80, 0x80))).toMatch(
    /^(\\x[0-9a-f]{2}){9}$/,
  );
});

test('attributes are said with their names and units; secrets and what is of no right length are not guessed at', () => {
  const said = saidAttributes([
    numberAttribute(6, 10),
    numberAttribute(27, 86_400),
    textAttribute(11, 'Crew'),
    tagged(1, 64, 13),
    { type: 69, value: octetsOfText('opensesame') },
    { type: 4, value: Uint8Array.of(1, 2, 3) },
    { type: 26, value: Uint8Array.of(0, 0, 1, 55, 16, 2) },
    { type: 250, value: new Uint8Array() },
  ]);
  expect(said.map(({ name, value }) => `${name}: ${value}`)).toEqual([
    'Service-Type: Call Check',
    'Session-Timeout: 86400',
    'Filter-Id: Crew',
    'Tunnel-Type: (1) VLAN',
    'Tunnel-Password: (not shown)',
    'NAS-IP-Address: 010203',
    'Vendor-Specific: of vendor 311, 2 octets',
    'attribute 250: (empty)',
  ]);
  expect(new Set(Object.values(DICTIONARY).map(({ name }) => name)).size).toBe(Object.keys(DICTIONARY).length);
  expect(() => textAttribute(1, 'x'.repeat(254))).toThrow('253');
});

test('EAP packets are parted and joined again, and read only if they are whole', () => {
  fc.assert(
    fc.property(
      fc.nat(255),
      fc.constantFrom(...Object.values(EAP_TYPE)),
      fc.uint8Array({ maxLength: 900 }),
      (id, type, data) => {
        const packet = { code: EAP.response, id, type, data };
        const bytes = writeEap(packet);
        expect(readEap(joinedEap(eapAttributes(bytes))!)).toEqual(packet);
        expect(readEap(bytes.slice(0, -1))).toBeNull();
      },
    ),
    { seed },
  );
  fc.assert(
    fc.property(fc.uint8Array({ maxLength: 30 }), (bytes) => void readEap(bytes)),
    { seed },
  );
  expect(readEap(writeEap({ code: EAP.success, id: 4, data: new Uint8Array() }))).toMatchObject({ code: 3, id: 4 });
  expect(joinedEap([])).toBeNull();
});

test('a MAC address in each of the ways that servers want it', () => {
  expect(MAC_FORMATS.map((format) => macAs('02:1a:00:00:0b:07', format))).toEqual([
    '021a00000b07',
    '021A00000B07',
    '02:1a:00:00:0b:07',
    '02-1A-00-00-0B-07',
    '02-1a-00-00-0b-07',
    '021a.0000.0b07',
  ]);
  expect(() => macAs('gate', 'none_lower')).toThrow('no MAC address');
});
