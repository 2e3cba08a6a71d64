import type { GatewayDocument } from '@iron-lattice/core/document';
import {
  CIPHER_NAMES,
  GROUP_NAMES,
  HASH_NAMES,
  PACT_ASKS_SECONDS,
  PACT_LOSSES,
  type Offer,
} from '@iron-lattice/core/ike';
import {
  hereOf,
  outlookOf,
  resolve,
  USUAL_OFFERS,
  wordOf,
  type Operation,
  type Pact,
  type PactWord,
} from '@iron-lattice/core/intent';
import type { PactStep } from '@iron-lattice/core/paths';
import { compileSite } from '@iron-lattice/core/rollout';
import { appliedWith, sampleId, sampleSites } from '@iron-lattice/core/testing';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { FarGateway } from '../paths/far-gateways';
import { World } from './world';
import type { WorldFile } from './world-file';

const sample = sampleSites({ sites: 1, segments: 3 });
const [siteId] = sample.siteIds as [string];
const segments = sample.intent.sites.get(siteId)!.segments;
const [device] = sample.roster as [(typeof sample.roster)[number]];
const GATEWAY = device.serial;
const PRINTER = '0e:00:00:00:00:01';
const KEY = 'kelp-and-limpet-27!';
const STORE = '172.20.7.9';

const PACT: Pact = {
  ...{ id: sampleId(8, 1), name: 'Wrackline', at: '203.0.113.60' },
  ...{ own: 'a.skerrow.example', other: 'moor.example', key: { secret: sampleId(8, 2) } },
  ...USUAL_OFFERS,
  ...{ segments: [segments[0]!.id], behind: ['172.20.0.0/16'], lasts: { ike: 3600, esp: 600 } },
};

/** The other gateway, as it is told by its people. */
const farOf = ({ ike, esp, own, other, there, here }: PactWord, more: Partial<FarGateway> = {}): FarGateway => ({
  ...{ name: 'moor', at: '203.0.113.60', key: KEY, ike, esp, own, other, here: there, there: here },
  ...{ hosts: { [STORE]: ['tcp 443'] } },
  ...more,
});
const file = (far: FarGateway, own = '203.0.113.1'): WorldFile => ({
  format: 'iron-lattice.world/1',
  devices: [{ serial: GATEWAY, model: device.model, mac: '02:00:00:00:00:01', firmware: '1' }],
  cables: [],
  providers: [
    { name: 'Tidewire', gives: { [`${GATEWAY}:wan1`]: own }, latency: 10 },
    { name: 'Second', gives: { [`${GATEWAY}:wan2`]: '198.51.100.7' }, latency: 30 },
  ],
  farGateways: [far],
  clients: [{ mac: PRINTER, at: `${GATEWAY}:1`, name: 'printer', offers: ['tcp 9100'] }],
});

interface Said {
  readonly pact?: Partial<Pact>;
  readonly word?: Partial<PactWord>;
  readonly far?: Partial<FarGateway>;
  readonly own?: string;
  readonly edits?: readonly Operation[];
}
function setUp({ pact: more = {}, word = {}, far = {}, own = '203.0.113.1', edits = [] }: Said = {}) {
  const pact = { ...PACT, ...more };
  const intent = appliedWith(sample.roster, sample.intent, { type: 'pact.add', siteId, pact }, ...edits);
  const site = resolve(intent.estate, intent.sites.get(siteId)!);
  const here = hereOf(site, pact);
  const world = new World(file(farOf({ ...wordOf(pact, here), ...word }, far), own));
  const run = (at = site): void =>
    world.run(GATEWAY, compileSite(at, sample.roster).get(device.id) as GatewayDocument, { [PACT.key.secret]: KEY });
  run();
  const address = world.lease({ box: world.box(GATEWAY), vlan: 1 }, PRINTER)!;
  world.paths.askOnward();
  const told = () => world.paths.report(world.box(GATEWAY))!.pacts![0]!;
  const tries = (target: string, number = 443) =>
    world.asking.try(GATEWAY, { does: 'connect', protocol: 'tcp', number, port: '1', mac: PRINTER }, target);
  return { world, told, tries, address, here, pact, run };
}

describe('a tunnel to a gateway of others', () => {
  test('stands once both have agreed, and says on what', () => {
    expect(setUp().told()).toMatchObject({
      ...{ name: 'Wrackline', up: true, step: 'stands', by: 'wan1', to: '203.0.113.60' },
      agreed: {
        ike: 'AES-GCM, 256 bits · SHA-256 · group 31, Curve25519',
        esp: 'AES-GCM, 256 bits · no group of its own',
        ...{ here: [segments[0]!.subnet], there: ['172.20.0.0/16'] },
      },
    });
    expect(setUp({ own: '100.64.0.9' }).told()).toMatchObject({ up: true, translated: true });
  });

  test.each<[string, Said, PactStep, string]>([
    ['nobody is there', { pact: { at: '203.0.113.61' } }, 'finds', 'nobody is there'],
    ['it is silent', { far: { silent: true } }, 'finds', 'it is silent, or something drops it'],
    ['it waits to be called, and so does ours', { pact: { at: null } }, 'finds', 'It did not call.'],
    ['its ciphers are others', { word: { ike: { ...PACT.ike, groups: ['16'] } } }, 'offers', 'NO_PROPOSAL_CHOSEN'],
    [
      'it has another key',
      { far: { key: 'limpet-and-kelp-27!' } },
      'proves',
      'it has another key, or does not know us',
    ],
    ['it has another name', { word: { own: 'b.moor.example' } }, 'proves', 'itself as “moor.example”'],
    [
      'its ciphers for packets are others',
      { word: { esp: { ...PACT.esp, ciphers: ['3des'] } } },
      'packets',
      'no cipher',
    ],
    ['it has other networks', { word: { there: ['172.30.0.0/16'] } }, 'whose', 'TS_UNACCEPTABLE'],
  ])('says where it fails: %s', (_what, said, step, why) => {
    const { told, tries } = setUp(said);
    expect([told().up, told().step]).toEqual([false, step]);
    expect(told().why).toContain(why);
    // What is for there is dropped, and never leaves by an uplink.
    expect(tries(STORE)).toMatchObject({ ok: false, stoppedBy: 'Wrackline' });
  });

  test.each<[string, Said, string]>([
    ['its key is wrong', { far: { key: 'limpet-and-kelp-27!' } }, 'Its proof is wrong'],
    ['it asks for somebody else', { word: { other: 'b.skerrow.example' } }, 'It asks for “b.skerrow.example”'],
    ['it names itself otherwise', { word: { own: 'b.moor.example' } }, 'who names itself “b.moor.example”'],
    ['what it offers is other', { word: { ike: { ...PACT.ike, hashes: ['sha1'] } } }, 'No hash in common'],
  ])('of one that calls more is known: %s', (_what, said, why) => {
    const { told } = setUp({ ...said, pact: { at: null }, far: { ...said.far, calls: '203.0.113.1' } });
    expect([told().up, told().why]).toEqual([false, expect.stringContaining(why)]);
  });

  test('one that calls is let in where all is right', () => {
    const { told, tries } = setUp({ pact: { at: null }, far: { calls: '203.0.113.1' } });
    expect(told()).toMatchObject({ up: true, to: '203.0.113.60' });
    expect(tries(STORE).ok).toBe(true);
  });

  test('carries what both have agreed on, both ways, and the rules of the site still say what', () => {
    const { world, tries, address } = setUp({
      word: { there: ['172.20.7.0/24'] },
      edits: [
        {
          ...{ type: 'rule.add', siteId, behind: null },
          rules: [
            {
              ...{ id: sampleId(8, 9), verdict: 'allow', services: [{ protocol: 'tcp', ports: ['9100'] }] },
              ...{ from: [{ kind: 'addresses', text: '172.20.0.0/16' }], to: [{ kind: 'any' }] },
            },
            {
              ...{ id: sampleId(8, 10), verdict: 'deny', services: [{ protocol: 'any' }] },
              ...{ from: [{ kind: 'addresses', text: '172.20.0.0/16' }], to: [{ kind: 'any' }] },
            },
          ],
        },
      ],
    });
    expect(tries(STORE)).toMatchObject({ ok: true, text: expect.stringContaining('through “Wrackline”') });
    expect(tries(STORE, 80).text).toContain('offers nothing on tcp 80');
    expect(tries('172.20.7.10').text).toContain('Nobody has 172.20.7.10 behind moor.');
    expect(tries('172.20.8.9').text).toContain('have not agreed');
    const from = (source: string, port: number) =>
      world.asking.fromFar('moor', source, address, { protocol: 'tcp', port });
    expect(from(STORE, 9100)).toMatchObject({ ok: true });
    expect(from(STORE, 22)).toMatchObject({ ok: false, stoppedBy: 'deny 172.20.0.0/16 → any' });
    expect(from('172.20.8.9', 9100).why).toContain('have not agreed');
  });

  test('falls once the other is silent, and stands again once it speaks', () => {
    const { world, told } = setUp();
    const round = (n: number): void => world.paths.askOnward(Date.now() + n * PACT_ASKS_SECONDS * 1000);
    world.paths.far.set('moor', { silent: true });
    for (let n = 1; n < PACT_LOSSES; n++) round(n);
    expect(told().up).toBe(true);
    round(PACT_LOSSES);
    expect(told()).toMatchObject({ up: false, step: 'finds', why: 'It answers no more.' });
    world.paths.far.set('moor', { silent: false });
    round(PACT_LOSSES + 1);
    expect(told().up).toBe(true);
    const changes = world.paths.report(world.box(GATEWAY))!.changes.map(({ what, of, why }) => [what, of, why]);
    expect(changes).toEqual([
      ['pact-up', 'Wrackline', ''],
      ['pact-down', 'Wrackline', 'It answers no more.'],
      ['pact-up', 'Wrackline', ''],
    ]);
  });

  test('falls when keys are made anew and packets have no group in common', () => {
    const { world, told } = setUp({ word: { esp: { ...PACT.esp, groups: ['16'] } } });
    expect(told().up).toBe(true);
    const begun = Date.now();
    world.paths.askOnward(begun + 590_000);
    expect(told().up).toBe(true);
    world.paths.askOnward(begun + 605_000);
    expect(told()).toMatchObject({ up: false, step: 'packets', why: expect.stringContaining('no group for packets') });
  });

  test('goes by the next uplink when the first is gone, and stays as it was when the document says the same', () => {
    const { world, told, run } = setUp();
    const { since } = told();
    run();
    expect(told()).toMatchObject({ up: true, since });
    world.fares('Tidewire', { up: false });
    for (let n = 1; n <= PACT_LOSSES + 1; n++) world.paths.askOnward(Date.now() + n * 2000);
    expect(told()).toMatchObject({ up: true, by: 'wan2' });
  });

  test('a box without the key says so', () => {
    const { world, told } = setUp();
    const document = world.box(GATEWAY).document as GatewayDocument;
    world.run(
      GATEWAY,
      {
        ...document,
        pacts: document.pacts!.map((each) => ({ ...each, key: { secret: sampleId(1, 1) } })),
      },
      {},
    );
    world.paths.askOnward();
    expect(told()).toMatchObject({ up: false, step: 'proves', why: 'It was not told the key.' });
  });
});

test('what is said beforehand is what comes of it, whatever the other gateway is told', () => {
  const some = <T>(all: readonly T[]) => fc.subarray([...all], { minLength: 1, maxLength: 4 });
  const offer = fc.record<Offer>({ ciphers: some(CIPHER_NAMES), hashes: some(HASH_NAMES), groups: some(GROUP_NAMES) });
  const sides = fc.constantFrom<readonly string[]>(
    ['172.20.0.0/16'],
    ['172.20.7.0/24'],
    ['172.30.0.0/16'],
    ['172.0.0.0/8'],
  );
  const seen = new Set<PactStep>();
  fc.assert(
    fc.property(
      fc.record({
        ike: fc.option(offer, { freq: 2 }),
        esp: offer,
        there: sides,
        own: fc.constantFrom('moor.example', 'moor.example', 'moor.example', 'b.example'),
      }),
      ({ ike, esp, there, own }) => {
        const word = { ike: ike ?? PACT.ike, esp, there, own };
        const { told, here, pact, tries } = setUp({ word });
        const outlook = outlookOf({ ...pact, says: { ...wordOf(pact, here), ...word } }, here);
        const step: PactStep = !outlook.ike.suite
          ? 'offers'
          : outlook.names !== null
            ? 'proves'
            : !outlook.esp.suite
              ? 'packets'
              : outlook.there.length === 0
                ? 'whose'
                : 'stands';
        seen.add(step);
        expect(told().step).toBe(step);
        if (step !== 'stands') return;
        expect([told().agreed!.here, told().agreed!.there]).toEqual([outlook.here, outlook.there]);
        expect(tries(STORE).ok).toBe(true);
      },
    ),
    { numRuns: 300 },
  );
  expect([...seen].sort()).toEqual(['offers', 'packets', 'proves', 'stands', 'whose']);
});
