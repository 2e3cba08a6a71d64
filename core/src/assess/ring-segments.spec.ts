import { expect, test } from 'vitest';
import { apply, type Intent, type Operation } from '../intent';
import { segmentsForKeys } from '../lattice';
import { sampleSite, type SampleSite } from '../testing';
import { consequencesOf } from '.';

const rows = (count: number, first = 100) =>
  Array.from({ length: count }, (_, i) => ({ name: `Berth ${i + 1}`, vlan: first + i }));
const inputOf = ({ intent, site, roster, links }: SampleSite) => ({
  estate: intent.estate,
  site,
  roster,
  links,
  told: {},
});
let ids = 0;
const idFor = (): string => `00000000-0000-4000-8000-${String(++ids).padStart(12, '0')}`;

function ringed() {
  const sample = sampleSite({ segments: 3, aps: 2 });
  const ssidId = idFor();
  const ssid = {
    ...{ id: ssidId, name: 'Berths', security: 'wpa2-psk' as const, passphrase: null, ring: [], bands: ['5' as const] },
    ...{ segment: sample.site.segments[1]!.name, reach: { kind: 'estate' as const } },
  };
  const added = apply(sample.intent, { type: 'ssid.add', ssid }, () => undefined);
  if (!added.ok) throw new Error(JSON.stringify(added.flaws));
  return { sample, intent: added.intent, ssidId };
}
function done(intent: Intent, operations: readonly Operation[]): Intent {
  return operations.reduce((now, operation) => {
    const result = apply(now, operation, () => undefined);
    if (!result.ok) throw new Error(JSON.stringify(result.flaws));
    return result.intent;
  }, intent);
}

test('300 segments are made in one step, each in a subnet of its own, kept from each other by a guarantee that holds', () => {
  const { sample, intent, ssidId } = ringed();
  const siteId = sample.site.id;
  const asked = { ssidId, rows: rows(300), recipe: null, length: 24 };
  const made = segmentsForKeys(intent, siteId, asked, idFor)!;
  expect(made.rows.filter(({ does }) => does === 'add')).toHaveLength(300);
  expect(new Set(made.rows.map(({ subnet }) => subnet)).size).toBe(300);
  const next = done(intent, made.operations);
  const site = next.sites.get(siteId)!;
  expect(next.estate.ssids.find(({ id }) => id === ssidId)!.ring).toHaveLength(300);
  const input = { ...inputOf(sample), site, estate: next.estate };
  const { guarantees } = consequencesOf(input);
  expect(guarantees?.at(-1)).toMatchObject({ state: 'holds' });
  // Nothing is there twice: the same again changes nothing.
  expect(segmentsForKeys(next, siteId, asked, idFor)!.operations).toEqual([]);
});
