import { spawnSync } from 'node:child_process';
import { generateKeyPairSync } from 'node:crypto';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';
import { KEEPALIVE_SECONDS, OVERLAY_PORT, overlayInterfaces } from '../src/document';
import { wireguardOf } from '../src/formats';
import { overlayAt, type Operation } from '../src/intent';
import { appliedWith, sampleId, sampleJoin, sampleSites } from '../src/testing';

const LAB = fileURLToPath(new URL('../../tools/lab/tunnel-lab.py', import.meta.url));

/** Two hubs and two spokes; keys that belong together. */
const sample = sampleSites({ sites: 4, segments: 2 });
const keys = sample.roster.map(() => {
  const { x, d } = generateKeyPairSync('x25519').privateKey.export({ format: 'jwk' });
  const plain = (text: string): string => Buffer.from(text, 'base64url').toString('base64');
  return { public: plain(x!), own: plain(d!) };
});
const withKey = (operation: Operation): Operation => {
  if (operation.type !== 'member.add') return operation;
  const at = sample.siteIds.indexOf(operation.member.siteId);
  return { ...operation, member: { ...operation.member, key: { secret: sampleId(21, at), public: keys[at]!.public } } };
};
const OUTSIDE = ['203.0.113.0', '203.0.113.2', '198.51.100.0', '192.168.77.0'];
const inside = (n: number, segment: number): string => `10.0.${n * 16 + segment}.1`;

/** Each gateway as the lab wants it, from what it is told. */
function gateways(...more: Operation[]) {
  const found = [0, 1].map((n): Operation => ({
    ...{ type: 'member.set', memberId: sampleId(20, n), from: { found: { wan1: `203.0.113.${n + 1}` } } },
    to: { found: { wan1: OUTSIDE[n]! } },
  }));
  const { estate } = appliedWith(sample.roster, sample.intent, ...sampleJoin(2, 2).map(withKey), ...found, ...more);
  return sample.siteIds.map((siteId, n) => {
    const overlay = overlayAt(estate, siteId)!;
    return {
      ...{ name: overlay.name, own: keys[n]!.own, outside: OUTSIDE[n]!, hidden: n === 3 },
      ...{ inside: [inside(n, 0), inside(n, 1)], mtu: overlay.peers[0]!.mtu },
      interfaces: overlayInterfaces(overlay).map(({ port, peers }) => ({
        config: wireguardOf(
          overlay.name,
          peers.map(({ peer, carries }) => ({
            ...{
              name: peer.name,
              public: peer.public,
              at: peer.at[0] ?? null,
              port: peer.port ?? OVERLAY_PORT,
              carries,
            },
          })),
          { port, keepalive: KEEPALIVE_SECONDS },
        ),
        leads: peers.flatMap(({ leads }) => leads),
      })),
    };
  });
}

function answers(job: object): { readonly answers: readonly (string | null)[]; readonly shakes: readonly string[][] } {
  const lab = spawnSync('/usr/bin/python3', [LAB], { input: JSON.stringify(job), encoding: 'utf8', timeout: 100_000 });
  if (lab.status !== 0) throw new Error(`the lab failed: ${lab.stderr}`);
  return JSON.parse(lab.stdout) as ReturnType<typeof answers>;
}

test.skipIf(!existsSync('/dev/net/tun'))(
  'WireGuard reads the files, shakes hands by the keys, through a provider that translates too, and carries what is for other sites by the hub and back',
  { timeout: 120_000 },
  () => {
    const [first] = sample.intent.sites.get(sample.siteIds[2]!)!.segments;
    const ask = (from: number, segment: number, to: string, reached = true) => ({
      ...{ from, source: inside(from, segment), to, reached },
    });
    // The third site shares its first segment alone.
    const some: Operation = {
      ...{ type: 'member.set', memberId: sampleId(20, 2), from: { segments: 'all' }, to: { segments: [first!.id] } },
    };
    const all = gateways(some);
    const got = answers({
      gateways: all,
      asks: [
        ask(2, 0, inside(0, 1)),
        ask(3, 0, inside(2, 0)),
        ask(2, 0, inside(3, 1)),
        ask(1, 0, inside(3, 0)),
        // What is not shared is in no tunnel, either way.
        ask(3, 0, inside(2, 1), false),
        ask(2, 1, inside(3, 0), false),
      ],
    });
    expect(got.answers).toEqual([inside(2, 0), inside(3, 0), inside(2, 0), inside(1, 0), null, null]);
    const of = (...sites: number[]) => sites.map((n) => keys[n]!.public).sort();
    expect(got.shakes).toEqual([of(1, 2, 3), of(0, 2, 3), of(0, 1), of(0, 1)]);
  },
);
