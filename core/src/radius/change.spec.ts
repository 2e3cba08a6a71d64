import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  accountingAttributes,
  answerChange,
  changeAnswer,
  changeRequest,
  octetsOfText,
  PROOF,
  readChange,
  saidAttributes,
  sealRequest,
  textAttribute,
  vlanAttributes,
  type Attribute,
  type ChangingServer,
} from '.';

const secret = octetsOfText('gulls-over-the-quay-at-low-tide-7');
const servers: readonly ChangingServer[] = [
  { name: 'Mole', secret: octetsOfText('another-secret-of-thirty-two-chars') },
  { name: 'Quay', secret },
];
const device = { name: 'quay-ap', addresses: ['10.1.1.4'] };
const NOW = 1_795_000_000;
const wanted = { device: 'quay-ap', mac: '0e:c4:60:00:00:02', user: 'marn.ellis', className: 'Crew' as string | null };
const read = (bytes: Uint8Array, at = NOW, by = servers) => readChange(bytes, by, device, at);
const sealed = (code: 40 | 43, attributes: readonly Attribute[]): Uint8Array =>
  sealRequest({ code, id: 7, attributes: [PROOF, ...attributes] }, secret).bytes;
const nakOf = (code: 40 | 43, ...attributes: Attribute[]): string | undefined => {
  const found = read(sealed(code, attributes));
  return found.ok ? found.change.nak?.cause : 'unanswered';
};

test('what a server wants of a session is read as it was meant, and what is answered as well', () => {
  const request = changeRequest(wanted, 7, secret, NOW);
  const found = read(request.bytes);
  expect(found).toMatchObject({
    ok: true,
    change: {
      ...{ wants: 'class', server: { name: 'Quay' }, filterIds: ['Crew'], vlan: { kind: 'none' } },
      session: { user: 'marn.ellis', mac: '0e:c4:60:00:00:02' },
    },
  });
  if (!found.ok) return;
  expect(changeAnswer(answerChange(found.change), request, secret, 4)).toMatchObject({
    ok: true,
    packet: { name: 'CoA-ACK' },
  });
  const no = answerChange(found.change, { cause: 'no-session', words: 'Nobody is here.' });
  expect(changeAnswer(no, request, secret, 4)).toMatchObject({
    ok: false,
    words: 'Nobody is here. (Session Context Not Found)',
  });
  const end = changeRequest({ ...wanted, className: null }, 8, secret, NOW);
  expect(read(end.bytes)).toMatchObject({ ok: true, change: { wants: 'end', filterIds: [] } });
  // An answer of another secret, or to another request, is none.
  expect(changeAnswer(answerChange(found.change), end, secret, 4).ok).toBe(false);
  expect(changeAnswer(answerChange(found.change), request, servers[0]!.secret, 4).ok).toBe(false);
});

test('what is cut, changed in any bit, of another time or without the proof that is demanded is not answered', () => {
  const { bytes } = changeRequest(wanted, 7, secret, NOW);
  for (let at = 0; at < bytes.length; at++)
    for (const bit of [1, 16, 128]) {
      const other = bytes.slice();
      other[at] = other[at]! ^ bit;
      expect(read(other).ok, `${at} ${bit}`).toBe(false);
    }
  for (let size = 0; size < bytes.length; size++) expect(read(bytes.slice(0, size)).ok).toBe(false);
  for (const skew of [-301, 301]) expect(read(bytes, NOW + skew).ok).toBe(false);
  expect(read(bytes, NOW + 299).ok).toBe(true);
  expect(read(bytes, NOW, [servers[0]!]).ok).toBe(false);
  const plain = sealRequest({ code: 40, id: 1, attributes: [textAttribute(1, 'marn.ellis')] }, secret).bytes;
  expect(read(plain).ok).toBe(false);
  expect(read(plain, NOW, [{ ...servers[1]!, unsigned: true }]).ok).toBe(true);
  fc.assert(fc.property(fc.uint8Array({ maxLength: 300 }), (octets) => !read(octets).ok));
});

test('what cannot be carried out is told apart', () => {
  const who = textAttribute(1, 'marn.ellis');
  expect(nakOf(40, who)).toBeUndefined();
  expect(nakOf(40)).toBe('missing');
  expect(nakOf(43, who)).toBe('missing');
  expect(nakOf(40, who, textAttribute(11, 'Crew'))).toBe('unsupported');
  expect(nakOf(43, who, textAttribute(11, 'Crew'))).toBeUndefined();
  expect(nakOf(43, who, ...vlanAttributes('20'))).toBeUndefined();
  expect(nakOf(43, who, ...vlanAttributes('4095'))).toBe('value');
  expect(nakOf(43, who, textAttribute(11, 'Crew'), { type: 26, value: new Uint8Array(8) })).toBe('unsupported');
  // What is not looked at is refused: it must not seem to have been.
  expect(nakOf(40, who, textAttribute(30, '02-00-00-00-00-10'))).toBe('unsupported');
  expect(nakOf(40, who, textAttribute(32, 'mole-ap'))).toBe('elsewhere');
  expect(nakOf(40, who, { type: 4, value: Uint8Array.of(10, 1, 1, 4) })).toBeUndefined();
  expect(nakOf(40, who, { type: 4, value: Uint8Array.of(10, 1, 1, 5) })).toBe('elsewhere');
});

test('accounting counts as the device sees it, and beyond 32 bits', () => {
  const by = { name: 'quay-ap', address: '10.1.1.4', mac: '02:00:00:00:00:10', wireless: true };
  const session = {
    ...{ id: '5f', user: 'marn.ellis', mac: wanted.mac, at: 'Deck', address: '10.1.7.20', seconds: 61.9 },
    ...{ down: 3 * 2 ** 32 + 5, up: 7.8 },
  };
  const told = (status: 'start' | 'stop') =>
    Object.fromEntries(
      saidAttributes(
        accountingAttributes(by, status, session, {
          ...{ at: NOW, delay: 2.5 },
          ...(status === 'stop' ? { cause: 'idle' as const } : {}),
        }),
      ).map(({ name, value }) => [name, value]),
    );
  expect(told('stop')).toMatchObject({
    ...{ 'Acct-Status-Type': 'Stop', 'Acct-Session-Id': '5f', 'User-Name': 'marn.ellis', 'Acct-Delay-Time': '2' },
    ...{ 'Acct-Output-Octets': '5', 'Acct-Output-Gigawords': '3', 'Acct-Input-Octets': '7', 'Acct-Session-Time': '61' },
    ...{ 'Acct-Terminate-Cause': 'Idle Timeout', 'Framed-IP-Address': '10.1.7.20', 'NAS-Identifier': 'quay-ap' },
    'Called-Station-Id': '02-00-00-00-00-10:Deck',
  });
  expect(told('stop')['Acct-Input-Gigawords']).toBeUndefined();
  expect(told('start')).not.toHaveProperty('Acct-Output-Octets');
});
