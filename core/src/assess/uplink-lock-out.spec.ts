import { expect, test } from 'vitest';
import { apply, resolve, type Operation, type UplinkEntry } from '../intent';
import { compileSite } from '../rollout';
import { sampleSite } from '../testing';
import { consequencesOf } from '.';

const sample = sampleSite({ segments: 2, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const { intent, site, roster, links } = sample;
const told = Object.fromEntries(compileSite(resolve(intent.estate, site), roster));
const up = (port: string) => ({ deviceId: gateway.id, port, address: '198.51.100.9' });

function cut(to: UplinkEntry, ports: readonly string[], port = 'wan1'): string[] {
  const edit: Operation = { type: 'uplink.set', siteId: site.id, deviceId: gateway.id, port, from: null, to };
  const done = apply(intent, edit, (id) => roster.find((each) => each.id === id));
  if (!done.ok) throw new Error(done.flaws[0]!.message);
  const input = {
    estate: intent.estate,
    site: done.intent.sites.get(site.id)!,
    roster,
    links,
    told,
    uplinks: ports.map(up),
  };
  return consequencesOf(input).lockOuts.map(({ why }) => why);
}

test('a site whose only path would come about in another way is said to be cut off, one with another is not', () => {
  expect(cut({ vlan: 7 }, ['wan1'])).toEqual([
    expect.stringMatching(/^wan1 would come to an address in another way, .* goes back by itself\.$/),
  ]);
  expect(cut({ vlan: 7 }, ['wan1', 'wan2'])).toEqual([]);
  expect(cut({ vlan: 7 }, ['wan2'])).toEqual([]);
  // Nobody told yet which has an address: all that there are count.
  expect(cut({ vlan: 7 }, [])).toEqual([]);
  // What changes nothing of how it comes to its address cuts nobody off.
  expect(cut({ title: 'Tidewire', down: 500, weight: 3 }, ['wan1'])).toEqual([]);
});
