import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';
import { watchOf, type GatewayDocument } from '../src/document';
import { keepalivedOf, trackScriptOf, type LinuxPair } from '../src/formats';
import { resolve, type Operation, type Pair } from '../src/intent';
import { downMs, rehearse, USUAL_WATCH, type RehearsedGateway } from '../src/paths';
import { mateOf, rehearsedGateway } from '../src/assess';
import { compileSite } from '../src/rollout';
import { appliedWith, samplePair } from '../src/testing';

const LAB = fileURLToPath(new URL('../../tools/lab/pair-lab.py', import.meta.url));
const ADVERT = 30;
/** What starting programs, asking the kernel and a busy machine take, in seconds. */
const SLACK = 1.5;

/** Both gateways as they are told, and as a rehearsal knows them. */
function told(more: Partial<Pair> = {}) {
  const sample = samplePair({ tracks: { first: ['wan1'], second: ['wan1'] }, advert: ADVERT, ...more });
  const watch = { ...USUAL_WATCH, interval: 1, losses: 1, timeout: 1, good: 1 };
  const watched = [sample.first, sample.second].flatMap(({ id }): Operation[] => [
    { type: 'uplink.set', siteId: sample.site.id, deviceId: id, port: 'wan1', from: null, to: { watch } },
  ]);
  const intent = appliedWith(sample.roster, sample.intent, ...watched, sample.made);
  const site = intent.sites.get(sample.site.id)!;
  const documents = compileSite(resolve(intent.estate, site), sample.roster);
  const both = [sample.first, sample.second].map(({ id }) => documents.get(id) as GatewayDocument);
  const gateway: RehearsedGateway = rehearsedGateway(
    site,
    sample.first,
    null,
    mateOf(site, sample.roster, sample.first),
  );
  return { both, gateway };
}

const linux = ({ device, pair, interfaces, uplinks }: GatewayDocument): LinuxPair => ({
  ...{ name: device.name, router: pair!.router, priority: pair!.priority, lowered: pair!.lowered },
  ...{ advert: pair!.advert, at: `vlan${pair!.vlan}`, own: pair!.own, any: false },
  shared: interfaces.map(({ vlan, address }) => ({ address, at: `vlan${vlan}` })),
  tracks: uplinks
    .filter(({ port }) => pair!.tracks!.includes(port))
    .map((each) => ({ port: each.port, watch: watchOf(each) })),
});

interface Step {
  readonly do: 'kill' | 'start' | 'unplug' | 'plug' | 'calm';
  readonly who: number;
  /** Who holds the addresses afterwards, and within how many seconds. */
  readonly until: number;
  readonly seconds: number;
}

function play(both: readonly GatewayDocument[], steps: readonly Step[]) {
  const pairs = both.map(linux);
  const job = {
    gateways: pairs.map((pair) => ({ config: keepalivedOf(pair), script: trackScriptOf(pair), own: pair.own })),
    ...{ at: 'vlan1', others: ['vlan10', 'vlan20'], shared: pairs[0]!.shared.map(({ address }) => address), steps },
  };
  const made = spawnSync('python3', [LAB], { input: JSON.stringify(job), encoding: 'utf8', timeout: 90_000 });
  if (made.status !== 0) throw new Error(made.stderr);
  return JSON.parse(made.stdout) as {
    readonly flaws: readonly string[];
    readonly waits: readonly (number | null)[];
    readonly holds: readonly (readonly (readonly string[])[])[];
  };
}

test.skipIf(!existsSync('/usr/sbin/keepalived') || process.getuid?.() !== 0)(
  'two gateways that go by their files take turns when, and as soon as, it was computed',
  () => {
    const { both, gateway } = told();
    const within = downMs(200, ADVERT) / 1000 + SLACK;
    const { flaws, waits, holds } = play(both, [
      { do: 'start', who: 0, until: 0, seconds: within },
      { do: 'start', who: 1, until: 0, seconds: within },
      { do: 'calm', who: 0, until: 0, seconds: 1 },
      { do: 'kill', who: 0, until: 1, seconds: 3 },
      { do: 'start', who: 0, until: 0, seconds: within + 2 },
      { do: 'unplug', who: 0, until: 1, seconds: 8 },
      { do: 'plug', who: 0, until: 0, seconds: 8 },
    ]);
    expect(flaws).toEqual(['', '']);
    expect(waits).not.toContain(null);
    for (const [i, held] of holds.entries())
      expect(held.map((each) => each.length > 0)).toEqual(i === 3 || i === 5 ? [false, true] : [true, false]);
    expect(holds[0]![0]).toHaveLength(3);
    const off = { what: 'off', from: 60, to: 100, gatewayId: gateway.id, port: '' } as const;
    const [soonest, latest] = (['best', 'worst'] as const).map((phase) => rehearse(gateway, [off], 110, phase).longest);
    expect(waits[3]!).toBeGreaterThan(soonest! - 0.05);
    expect(waits[3]!).toBeLessThan(latest! + SLACK);
    const silent = { what: 'silent', from: 60, to: 100, gatewayId: gateway.id, port: 'wan1' } as const;
    expect(waits[5]!).toBeLessThan(rehearse(gateway, [silent], 110, 'worst').longest + SLACK);
  },
  100_000,
);
