import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';
import { swanctlOf, type SwanctlSide } from '../src/formats';
import {
  agreeOn,
  CIPHER_NAMES,
  CIPHERS,
  GROUP_NAMES,
  GROUPS,
  HASH_NAMES,
  narrowed,
  type Offer,
  type Suite,
} from '../src/ike';
import { USUAL_LASTS, USUAL_OFFERS } from '../src/intent';
import { randomFrom } from '../src/testing';

const LAB = fileURLToPath(new URL('../../tools/lab/pact-lab.py', import.meta.url));
const ADDRESSES = ['203.0.113.0', '203.0.113.2'];
const INSIDE = [
  ['10.4.20.1', '10.4.30.1'],
  ['10.60.0.1', '10.61.0.1'],
];

/** What strongSwan calls what it has agreed on. */
const CALLED: Readonly<Record<string, string>> = {
  'aes-gcm-256': 'AES_GCM_16_256',
  'aes-gcm-128': 'AES_GCM_16_128',
  'chacha20-poly1305': 'CHACHA20_POLY1305',
  'aes-cbc-256': 'AES_CBC_256',
  'aes-cbc-128': 'AES_CBC_128',
  '3des': '3DES_CBC',
  'sha2-256': 'SHA2_256',
  'sha2-384': 'SHA2_384',
  'sha2-512': 'SHA2_512',
  sha1: 'SHA1',
};
const PROOF: Readonly<Record<string, string>> = {
  'sha2-256': 'HMAC_SHA2_256_128',
  'sha2-384': 'HMAC_SHA2_384_192',
  'sha2-512': 'HMAC_SHA2_512_256',
  sha1: 'HMAC_SHA1_96',
};
const groupCalled = (group: string): string =>
  group === '31' ? 'CURVE_25519' : GROUPS[group as keyof typeof GROUPS].name.replace(/(\d+)/, '_$1').toUpperCase();

const proves = (cipher: string): boolean => 'icv' in CIPHERS[cipher as keyof typeof CIPHERS];
const ikeCalled = ({ cipher, hash, group }: Suite): string =>
  [CALLED[cipher], ...(proves(cipher) ? [] : [PROOF[hash!]]), `PRF_HMAC_${CALLED[hash!]}`, groupCalled(group!)].join(
    '/',
  );
const espCalled = ({ cipher, hash }: Suite): string =>
  [CALLED[cipher]!.replace(/_(128|256)$/, '-$1'), ...(hash === null ? [] : [PROOF[hash]])].join('/');

interface Result {
  readonly ike: string | null;
  readonly esp: string | null;
  readonly udp: boolean;
  readonly here: readonly string[];
  readonly there: readonly string[];
  readonly said: readonly string[];
  readonly renewed?: boolean;
  readonly answers?: boolean;
}
function tried(pairs: readonly object[]): readonly Result[] {
  const job = JSON.stringify({ addresses: ADDRESSES, inside: INSIDE, pairs });
  const lab = spawnSync('/usr/bin/python3', [LAB], { input: job, encoding: 'utf8', timeout: 170_000 });
  if (lab.status !== 0) throw new Error(`the lab failed: ${lab.stderr}`);
  return (JSON.parse(lab.stdout) as { results: readonly Result[] }).results;
}

const OURS: SwanctlSide = {
  ...{ name: 'Moor & co', at: ADDRESSES[1]!, own: 'bm.skerrow.example', other: 'moor@moor.example' },
  ...{ ...USUAL_OFFERS, lasts: USUAL_LASTS, key: 'kelp-and-limpet-27!' },
  ...{ here: ['10.4.20.0/24', '10.4.30.0/24'], there: ['10.60.0.0/16'] },
};
const far = (ours: SwanctlSide, more: Partial<SwanctlSide> = {}): SwanctlSide => {
  const { at: _called, ...side } = ours;
  return { ...side, own: ours.other, other: ours.own, here: ours.there, there: ours.here, ...more };
};
const pair = (ours: SwanctlSide, theirs: SwanctlSide, more: object = {}) => ({
  ...{ files: [swanctlOf('bm-gw-01', [ours]), swanctlOf('the other', [theirs])], calls: 'Moor-co' },
  ...more,
});

const lab = test.skipIf(!existsSync('/dev/net/tun'));

lab(
  'strongSwan reads both files as they are, makes the tunnel, and carries what both say',
  { timeout: 180_000 },
  () => {
    const asks = ['10.4.20.1', '10.60.0.1'];
    const [plain, hidden, part, key, name, none] = tried([
      pair(OURS, far(OURS), { asks, renews: true }),
      pair(OURS, far(OURS), { asks, hidden: true }),
      // The other is told of one segment, and has another network too.
      pair(OURS, far(OURS, { there: ['10.4.20.0/25'], here: ['10.60.0.0/16', '10.61.0.0/16'] })),
      pair(OURS, far(OURS, { key: 'limpet-and-kelp-27!' })),
      pair(OURS, far(OURS, { own: 'moor.example' })),
      pair(OURS, far(OURS, { here: ['10.61.0.0/16'] })),
    ]);
    expect(plain).toMatchObject({ here: OURS.here, there: OURS.there, renewed: true, answers: true, said: [] });
    expect(hidden).toMatchObject({ here: OURS.here, udp: true, answers: true });
    expect(part!.here).toEqual(narrowed(OURS.here, ['10.4.20.0/25']));
    expect(part!.there).toEqual(narrowed(OURS.there, ['10.60.0.0/16', '10.61.0.0/16']));
    expect([key!.said, key!.esp]).toEqual([['AUTH_FAILED'], null]);
    expect([name!.said, name!.esp]).toEqual([['AUTH_FAILED'], null]);
    expect([none!.said, none!.esp]).toEqual([['TS_UNACCEPT'], null]);
  },
);

lab(
  'what two offers come to is what strongSwan comes to: suites, what fails at once, and what fails later',
  { timeout: 180_000 },
  () => {
    const random = randomFrom(26);
    const some = <T>(all: readonly T[], least: number): T[] => {
      const order = all.map((each) => ({ each, at: random(1e6) })).sort((a, b) => a.at - b.at);
      return order.slice(0, least + random(3)).map(({ each }) => each);
    };
    const offer = (least: number): Offer => ({
      ciphers: some(CIPHER_NAMES, 1),
      hashes: some(HASH_NAMES, 1),
      groups: some(GROUP_NAMES, least),
    });
    const pairs = Array.from({ length: 60 }, (_, i) => {
      // Half of them agree on the exchange, so that packets come to be spoken of.
      const same = i % 2 === 0 ? USUAL_OFFERS.ike : null;
      const groups = (least: number): Offer => ({ ...offer(least), ...(i % 6 === 0 ? { groups: [] } : {}) });
      return {
        ours: { ...OURS, ike: same ?? offer(2), esp: groups(1) },
        theirs: { ike: same ?? offer(2), esp: i % 12 === 2 ? { ...groups(1), groups: [] } : groups(1) },
      };
    });
    const results = tried(pairs.map(({ ours, theirs }) => pair(ours, far(ours, theirs), { renews: true })));
    const counted = { ike: 0, esp: 0, none: 0, late: 0 };
    for (const [i, { ours, theirs }] of pairs.entries()) {
      const got = results[i]!;
      // Who is called chooses by its own order.
      const ike = agreeOn('ike', theirs.ike, ours.ike);
      expect(got.ike, `the exchange of pair ${i}`).toBe(ike.suite && ikeCalled(ike.suite));
      if (ike.suite === null) {
        counted.none++;
        expect(got.said, `pair ${i}`).toContain('NO_PROP');
        continue;
      }
      counted.ike++;
      const esp = agreeOn('esp', theirs.esp, ours.esp);
      expect(got.esp, `packets of pair ${i}`).toBe(esp.suite && espCalled(esp.suite));
      if (esp.suite === null) {
        expect(got.said, `pair ${i}`).toContain('NO_PROP');
        continue;
      }
      counted.esp++;
      if (esp.late !== undefined) counted.late++;
      expect(got.renewed, `keys of pair ${i} made anew`).toBe(esp.late === undefined);
    }
    for (const count of Object.values(counted)) expect(count).toBeGreaterThan(5);
  },
);
