import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  CHAP_PASSWORD,
  HEAD,
  PROOF,
  USER_PASSWORD,
  attributeOf,
  chapResponse,
  hidePassword,
  isAuthentic,
  octetsOfText,
  proofOf,
  readAnswer,
  readPacket,
  revealPassword,
  saidAttributes,
  sealAccess,
  sealRequest,
  sealResponse,
  writePacket,
  type Packet,
} from '.';

const seed = Number(process.env['SEED'] ?? 1);
const octets = (hex: string): Uint8Array => Uint8Array.from(hex.match(/../g) ?? [], (pair) => parseInt(pair, 16));
const hex = (bytes: Uint8Array): string => [...bytes].map((octet) => octet.toString(16).padStart(2, '0')).join('');
const packetOf = (bytes: Uint8Array): Packet => {
  const read = readPacket(bytes);
  if (!read.ok) throw new Error(read.why);
  return read.packet;
};

// RFC 2865 §7.1 and §7.2, whose shared secret is this.
const SECRET = octetsOfText('xyzzy5461');
const PAP =
  '010000380f403f9473978057bd83d5cb98f4227a01066e656d6f02120dbe708d93d413ce3196e43f782a0aee0406c0a80110050600000003';
const ACCEPTED = '0200002686fe220e7624ba2a1005f6bf9b55e0b20606000000010f06000000000e06c0a80103';
const CHAP =
  '010100472aee86f08d0d55969ca5978e0d3367a20108666c6f707379031316e97557c316185895f293ff63440772750406c0a80110050600000014060600000002070600000001';

test('the packets of RFC 2865 are read, proven and written again', () => {
  const [pap, chap, accepted] = [PAP, CHAP, ACCEPTED].map((text) => packetOf(octets(text)));
  const password = revealPassword(attributeOf(pap!, USER_PASSWORD)!, SECRET, pap!.authenticator);
  expect(hex(password!)).toBe(hex(octetsOfText('arctangent')));
  const given = attributeOf(chap!, CHAP_PASSWORD)!;
  expect(hex(chapResponse(given[0]!, octetsOfText('arctangent'), chap!.authenticator))).toBe(hex(given.slice(1)));
  expect(isAuthentic(accepted!, pap!.authenticator, SECRET)).toBe(true);
  expect([pap, chap, accepted].map((each) => hex(writePacket(each!)))).toEqual([PAP, CHAP, ACCEPTED]);
  expect(saidAttributes(pap!.attributes).map(({ name, value }) => `${name} ${value}`)).toEqual([
    'User-Name nemo',
    'User-Password (not shown)',
    'NAS-IP-Address 192.168.1.16',
    'NAS-Port 3',
  ]);
});

const attribute = fc.record({
  type: fc.integer({ min: 1, max: 255 }).filter((type) => type !== 80),
  value: fc.uint8Array({ maxLength: 253 }),
});
const anything = fc.record({
  code: fc.constantFrom(1, 2, 3, 4, 5, 11, 12, 40, 41, 42, 43, 44, 45),
  id: fc.nat(255),
  authenticator: fc.uint8Array({ minLength: 16, maxLength: 16 }),
  attributes: fc.array(attribute, { maxLength: 15 }),
});

test('what is written is read again; octets after its end are padding', () => {
  fc.assert(
    fc.property(anything, fc.uint8Array({ maxLength: 9 }), (packet, padding) => {
      const bytes = writePacket(packet);
      expect(packetOf(Uint8Array.of(...bytes, ...padding))).toEqual(packet);
    }),
    { seed },
  );
});

test('whatever comes is a packet or none, with a reason, and never more attributes than its octets hold', () => {
  const broken = fc
    .tuple(anything, fc.array(fc.tuple(fc.nat(200), fc.nat(255)), { maxLength: 6 }), fc.nat(60))
    .map(([packet, changes, cut]) => {
      const bytes = writePacket(packet);
      for (const [at, octet] of changes) bytes[at % bytes.length] = octet;
      return bytes.slice(0, Math.max(0, bytes.length - cut));
    });
  fc.assert(
    fc.property(fc.oneof(fc.uint8Array({ maxLength: 300 }), broken), (bytes) => {
      const read = readPacket(bytes);
      if (!read.ok) {
        expect(read.why).not.toBe('');
        return;
      }
      const length = read.packet.attributes.reduce((sum, { value }) => sum + 2 + value.length, HEAD);
      expect(length).toBeLessThanOrEqual(bytes.length);
      expect(length).toBe((bytes[2]! << 8) | bytes[3]!);
    }),
    { seed, numRuns: 2000 },
  );
});

test.each([
  ['cut', '0100003800', 'fewer'],
  ['shorter than it says', `0100${'00ff'}${'00'.repeat(16)}0106`, '255, but 22 octets came'],
  ['longer than may be', `0100${'1001'}${'00'.repeat(4080)}`, '4097'],
  ['shorter than its head', `01000013${'00'.repeat(16)}`, '19'],
  ['an attribute of one octet', `01000016${'00'.repeat(16)}0101`, 'says it has 1'],
  ['an attribute of none', `01000016${'00'.repeat(16)}0100`, 'says it has 0'],
  ['an attribute beyond the end', `01000017${'00'.repeat(16)}010641`, 'does not end'],
  ['half an attribute', `01000015${'00'.repeat(16)}01`, 'says it has 0'],
  ['another code', `63000014${'00'.repeat(16)}`, 'code 99'],
])('no packet: %s', (_what, text, why) => {
  expect(readPacket(octets(text))).toMatchObject({ ok: false, why: expect.stringContaining(why) as string });
});

test('a password comes back as it was, up to 128 octets; another secret brings another', () => {
  const sixteen = fc.uint8Array({ minLength: 16, maxLength: 16 });
  const password = fc.uint8Array({ maxLength: 128 }).filter((octets) => octets.at(-1) !== 0);
  fc.assert(
    fc.property(password, fc.uint8Array({ minLength: 1, maxLength: 40 }), sixteen, (text, secret, authenticator) => {
      const hidden = hidePassword(text, secret, authenticator);
      expect(hidden.length % 16).toBe(0);
      expect(revealPassword(hidden, secret, authenticator)).toEqual(text);
      if (text.length > 3) expect(revealPassword(hidden, Uint8Array.of(...secret, 1), authenticator)).not.toEqual(text);
    }),
    { seed },
  );
  const [secret, authenticator] = [SECRET, new Uint8Array(16)];
  expect(() => hidePassword(new Uint8Array(129), secret, authenticator)).toThrow('128');
  expect(revealPassword(new Uint8Array(15), secret, authenticator)).toBeNull();
  expect(revealPassword(new Uint8Array(144), secret, authenticator)).toBeNull();
});

test('an answer counts if our secret proves it for this very request; one octet more or less and it does not', () => {
  const random = octets('000102030405060708090a0b0c0d0e0f');
  const asked = sealAccess({ code: 1, id: 7, attributes: [PROOF] }, random, SECRET);
  const request = packetOf(asked.bytes);
  expect(proofOf(request, request.authenticator, SECRET)).toBe('right');
  expect(proofOf(request, request.authenticator, octetsOfText('other'))).toBe('wrong');
  const of = { id: 7, authenticator: random, code: 1 } as const;
  const answer = sealResponse(
    { code: 2, id: 7, attributes: [PROOF, { type: 11, value: octetsOfText('Crew') }] },
    random,
    SECRET,
  );
  expect(readAnswer(answer.bytes, of, SECRET, true)).toMatchObject({ ok: true, proof: 'right' });
  fc.assert(
    fc.property(fc.nat(answer.bytes.length - 1), fc.integer({ min: 1, max: 255 }), (at, by) => {
      const forged = answer.bytes.slice();
      forged[at]! ^= by;
      expect(readAnswer(forged, of, SECRET, true).ok).toBe(false);
    }),
    { seed, numRuns: 400 },
  );
  // An answer to an earlier request, one of another identifier, one with another secret, one without the proof that is demanded.
  const replayed = sealResponse({ code: 2, id: 7, attributes: [PROOF] }, new Uint8Array(16), SECRET);
  expect(readAnswer(replayed.bytes, of, SECRET, true)).toMatchObject({ ok: false, fault: 'unproven' });
  const late = sealResponse({ code: 2, id: 6, attributes: [PROOF] }, random, SECRET);
  expect(readAnswer(late.bytes, of, SECRET, true)).toMatchObject({ ok: false, fault: 'other' });
  const stranger = sealResponse({ code: 3, id: 7, attributes: [PROOF] }, random, octetsOfText('other'));
  expect(readAnswer(stranger.bytes, of, SECRET, false)).toMatchObject({ ok: false, fault: 'unproven' });
  const bare = sealResponse({ code: 2, id: 7, attributes: [] }, random, SECRET);
  expect(readAnswer(bare.bytes, of, SECRET, true)).toMatchObject({ ok: false, fault: 'unsigned' });
  expect(readAnswer(bare.bytes, of, SECRET, false)).toMatchObject({ ok: true, proof: 'missing' });
  const accounting = sealResponse({ code: 5, id: 7, attributes: [PROOF] }, random, SECRET);
  expect(readAnswer(accounting.bytes, of, SECRET, true)).toMatchObject({ ok: false, fault: 'malformed' });
});

test('requests that prove themselves do so over nothing, their whole proof first', () => {
  const { bytes } = sealRequest(
    { code: 40, id: 9, attributes: [PROOF, { type: 44, value: octetsOfText('s1') }] },
    SECRET,
  );
  const packet = packetOf(bytes);
  const nothing = new Uint8Array(16);
  expect([isAuthentic(packet, nothing, SECRET), proofOf(packet, nothing, SECRET)]).toEqual([true, 'right']);
  expect(isAuthentic(packet, nothing, octetsOfText('other'))).toBe(false);
});
