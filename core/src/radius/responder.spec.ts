import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  EAP,
  EAP_TYPE,
  eapAttributes,
  octetsOfText,
  PROOF,
  readPacket,
  Responder,
  sameOctets,
  sealAccess,
  textAttribute,
  writeEap,
  type Attribute,
  type TlsEngine,
} from '.';

const seed = Number(process.env['SEED'] ?? 1);
const SECRET = octetsOfText('gulls over the quay');
const AT = { address: '10.1.1.9', port: 40_000 };
let count = 0;
const responder = (now = () => 0) =>
  new Responder({
    secretOf: (address) => (address === AT.address ? SECRET : null),
    find: (name) => {
      if (name !== 'marn') return null;
      const password = octetsOfText('lantern');
      return { password, fits: (given) => sameOctets(given, password), attributes: [textAttribute(11, 'Crew')] };
    },
    random: (octets) => new Uint8Array(octets).fill(++count & 255),
    now,
  });
const request = (attributes: readonly Attribute[], mark = 1): Uint8Array =>
  sealAccess({ code: 1, id: 7, attributes: [PROOF, ...attributes] }, new Uint8Array(16).fill(mark), SECRET).bytes;

test('whatever comes, and from whomever, is answered by a packet or not at all, and lets nobody in without a password', async () => {
  const attribute = fc.record({
    type: fc.constantFrom(1, 2, 3, 24, 33, 60, 79, 80, 11),
    value: fc.uint8Array({ maxLength: 60 }),
  });
  const sealed = fc
    .tuple(fc.array(attribute, { maxLength: 8 }), fc.integer({ min: 2, max: 255 }))
    .map(([attributes, mark]) =>
      request([textAttribute(1, 'marn'), ...attributes.filter(({ type }) => type !== 80)], mark),
    );
  const server = responder();
  await fc.assert(
    fc.asyncProperty(fc.oneof(fc.uint8Array({ maxLength: 200 }), sealed), async (bytes) => {
      const { bytes: back, words } = await server.handle(bytes, AT);
      expect(words).not.toBe('');
      if (back === null) return;
      const read = readPacket(back);
      expect(read.ok && [3, 11].includes(read.packet.code)).toBe(true);
    }),
    { seed, numRuns: 600 },
  );
});

test('strangers, and requests without proof, are told nothing; what is wrong is told to who runs it', async () => {
  const server = responder();
  const words = async (bytes: Uint8Array, from = AT) => (await server.handle(bytes, from)).words;
  const asked = request([textAttribute(1, 'marn')]);
  expect(await words(asked, { ...AT, address: '10.1.1.66' })).toBe('10.1.1.66 is none of its clients');
  const bare = sealAccess({ code: 1, id: 7, attributes: [textAttribute(1, 'marn')] }, new Uint8Array(16), SECRET).bytes;
  expect(await words(bare)).toBe('it has no Message-Authenticator');
  expect(await words(asked.map((octet, i) => (i === 40 ? octet ^ 1 : octet)))).toContain('the secrets differ');
  expect(await words(asked)).toBe('it has no password');
});

test('what has to be given back and leaves no room for an answer brings none, and ends nothing', async () => {
  const passed = Array.from({ length: 15 }, () => ({ type: 33, value: new Uint8Array(253) }));
  const asked = request([textAttribute(1, 'marn'), ...passed, { type: 33, value: new Uint8Array(190) }], 9);
  expect(asked.length).toBeGreaterThan(4060);
  const back = readPacket((await responder().handle(asked, AT)).bytes!);
  expect(back.ok && back.packet.attributes.filter(({ type }) => type === 33)).toHaveLength(16);
  const eap = eapAttributes(
    writeEap({ code: EAP.response, id: 1, type: EAP_TYPE.identity, data: octetsOfText('marn') }),
  );
  const full = request([textAttribute(1, 'marn'), ...eap, ...passed, { type: 33, value: new Uint8Array(210) }], 10);
  expect((await responder().handle(full, AT)).bytes).toBeNull();
});

test('an EAP conversation is continued once, by who began it, and not after half a minute', async () => {
  let now = 0;
  const server = responder(() => now);
  const identity = (mark: number) =>
    request(
      [
        textAttribute(1, 'marn'),
        ...eapAttributes(writeEap({ code: EAP.response, id: 1, type: EAP_TYPE.identity, data: octetsOfText('marn') })),
      ],
      mark,
    );
  const asks = async (mark: number) => {
    const { answer } = await server.handle(identity(mark), AT);
    return answer!.attributes.find(({ type }) => type === 24)!;
  };
  const answers = async (state: Attribute, mark: number, name = 'marn') => {
    const said = writeEap({ code: EAP.response, id: 2, type: EAP_TYPE.md5, data: new Uint8Array(17).fill(16) });
    return (await server.handle(request([textAttribute(1, name), ...eapAttributes(said), state], mark), AT)).words;
  };
  const state = await asks(10);
  expect(await answers(state, 11, 'jory')).toBe('it continues no talk of ours');
  expect(await answers(state, 12)).toBe('its password is wrong');
  expect(await answers(state, 13)).toBe('it continues no talk of ours');
  const late = await asks(14);
  now = 30_001;
  expect(await answers(late, 15)).toBe('it continues no talk of ours');
});

test('who begins very many conversations by TLS in a second is not answered, others are, and the next second is another', async () => {
  let now = 0;
  const made = new Responder({
    secretOf: () => SECRET,
    find: () => null,
    random: (octets) => new Uint8Array(octets).map(() => ++count & 255),
    now: () => now,
    methods: ['ttls'],
    engine: () => ({}) as TlsEngine,
  });
  const identity = { code: EAP.response, id: 1, type: EAP_TYPE.identity, data: octetsOfText('anonymous') };
  let mark = 0;
  const begins = async (by: string): Promise<boolean> => {
    const asked = request(
      [textAttribute(1, 'anonymous'), textAttribute(32, by), ...eapAttributes(writeEap(identity))],
      ++mark & 255,
    );
    return (await made.handle(asked, { ...AT, port: AT.port + mark })).answer?.code === 11;
  };
  const answered: boolean[] = [];
  for (let i = 0; i < 80; i++) answered.push(await begins('x-ap-01'));
  expect(answered.filter(Boolean)).toHaveLength(50);
  expect(await begins('x-ap-02')).toBe(true);
  now = 1000;
  expect(await begins('x-ap-01')).toBe(true);
});

test('a fault while one is judged is told to whoever runs it, ends nothing, and is not remembered', async () => {
  let broken = true;
  const made = new Responder({
    secretOf: () => SECRET,
    find: () => {
      if (broken) throw new Error('the list of users is gone');
      return null;
    },
    random: (octets) => new Uint8Array(octets),
    now: () => 0,
  });
  const asked = request([textAttribute(1, 'marn'), { type: 2, value: new Uint8Array(16) }]);
  await expect(made.handle(asked, AT)).rejects.toThrow('the list of users is gone');
  broken = false;
  expect((await made.handle(asked, AT)).answer?.code).toBe(3);
});
