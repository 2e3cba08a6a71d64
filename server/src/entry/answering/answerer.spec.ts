import {
  callAttributes,
  EAP,
  EAP_TYPE,
  eapAttributes,
  firstProof,
  octetsOfText,
  PROOF,
  sealAccess,
  textAttribute,
  writeEap,
  type Attribute,
} from '@iron-lattice/core/radius';
import { beforeEach, expect, test } from 'vitest';
import { hashPassword } from '../../platform/password-hash';
import { issue, makeAuthority } from '../certificates/authority';
import { Answerer } from './answerer';
import type { FromThread, KnownEntry } from './answering.contract';

const [SECRET, PASSWORD, MAC] = ['gulls over the quay and tern', 'lantern fish 4', '02:00:00:00:00:01'];
const FROM = { address: '127.0.0.1', port: 4000 };
const hash = await hashPassword(PASSWORD, 'drawn');
const user: KnownEntry = {
  ...{ id: 'u', key: 'marn', hash, groups: ['Deck'], until: null, most: 1, off: false, macs: [], certificates: [] },
};
let said: FromThread[] = [];
let answerer: Answerer;
let mark = 0;
beforeEach(() => {
  said = [];
  answerer = new Answerer((message) => {
    said.push(message);
    if (message.type !== 'who') return;
    const ways = [{ secret: SECRET, classes: [{ name: 'Crew', groups: ['deck'] }], trial: false }];
    const asking = message.mac === MAC ? { deviceId: 'd', timeZone: 'Europe/Dublin', ways } : null;
    queueMicrotask(() => answerer.hear({ type: 'asking', mac: message.mac, asking }));
  });
  answerer.hear({ type: 'users', users: [user], gone: [], all: true });
});

/** A request for somebody with a device, from the device of ours with an address. */
function request(mac: string, proof: readonly Attribute[] | null = null, by = MAC): Uint8Array {
  const authenticator = new Uint8Array(16).fill(++mark & 255);
  const secret = octetsOfText(SECRET);
  const asked = { method: 'pap' as const, user: 'marn', password: PASSWORD, mac };
  const own = proof ?? firstProof(asked, 'none_lower', secret, authenticator, new Uint8Array(16));
  const attributes = [
    PROOF,
    ...own,
    ...callAttributes({ name: 'x-ap-01', address: null, mac: by, wireless: true }, asked),
  ];
  return sealAccess({ code: 1, id: mark & 255, attributes }, authenticator, secret).bytes;
}
const code = async (bytes: Uint8Array): Promise<number | undefined> =>
  (await answerer.answer(bytes, { ...FROM, port: FROM.port + mark }))?.answer?.code;

test('of two devices that come at the same time one is one too many', async () => {
  const codes = await Promise.all(['02:00:00:00:00:71', '02:00:00:00:00:72'].map((mac) => code(request(mac))));
  expect(codes.sort()).toEqual([2, 3]);
  expect(
    said
      .filter(({ type }) => type !== 'who')
      .map(({ type }) => type)
      .sort(),
  ).toEqual(['came', 'refused']);
});

test.each([
  ['switched off', { users: [{ ...user, off: true }], gone: [] }],
  ['taken away', { users: [], gone: ['u'] }],
])('whoever is %s while their password is worked out is not let in', async (_how, change) => {
  const coming = code(request('02:00:00:00:00:71'));
  await new Promise((resolve) => setImmediate(resolve)); // it is being worked out
  answerer.hear({ type: 'users', ...change, all: false });
  expect(await coming).toBe(3);
});

test('a device of nobody’s is told nothing, and asked for once while it is remembered', async () => {
  for (let i = 0; i < 5; i++)
    expect(await code(request('02:00:00:00:00:71', null, '02:00:00:00:99:99'))).toBeUndefined();
  expect(said).toEqual([{ type: 'who', mac: '02:00:00:00:99:99' }]);
});

test('no method by TLS is offered before there is a certificate', async () => {
  const identity = (): Uint8Array => {
    const eap = { code: EAP.response, id: 1, type: EAP_TYPE.identity, data: octetsOfText('marn') };
    return request('02:00:00:00:00:71', [textAttribute(1, 'marn'), ...eapAttributes(writeEap(eap))]);
  };
  expect(await code(identity())).toBe(3);
  const authority = await makeAuthority('Quay authority');
  const { cert, key } = await issue(authority, { kind: 'server', name: 'quay.radius.internal' });
  answerer.hear({ type: 'certificate', cert, key, authority: authority.cert });
  expect(await code(identity())).toBe(11);
});
