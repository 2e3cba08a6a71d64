import { expect, test } from 'vitest';
import { apply } from '../intent';
import { segmentsForKeys } from '../lattice';
import { applied, sampleSite, type SampleSite } from '../testing';
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
test('300 segments are made in one step, each in a subnet of its own, kept from each other by a guarantee that holds', () => {
  const { sample, intent, ssidId } = ringed();
  const siteId = sample.site.id;
  const asked = { ssidId, rows: rows(300), recipe: null, length: 24 };
  const made = segmentsForKeys(intent, siteId, asked, idFor)!;
  expect(made.rows.filter(({ does }) => does === 'add')).toHaveLength(300);
  expect(new Set(made.rows.map(({ subnet }) => subnet)).size).toBe(300);
  const next = applied(intent, ...made.operations);
  const site = next.sites.get(siteId)!;
  expect(next.estate.ssids.find(({ id }) => id === ssidId)!.ring).toHaveLength(300);
  const input = { ...inputOf(sample), site, estate: next.estate };
  const { guarantees } = consequencesOf(input);
  expect(guarantees?.at(-1)).toMatchObject({ state: 'holds' });
  // It is these rules that hold it: without them a berth reaches another, and that is said with a packet.
  const unkept = made.operations.filter(({ type }) => type !== 'rule.add');
  const broken = applied(intent, ...unkept);
  const unruled = { ...inputOf(sample), site: broken.sites.get(siteId)!, estate: broken.estate };
  const [result] = consequencesOf(unruled).guarantees.slice(-1);
  expect(result).toMatchObject({ state: 'broken' });
  // Clients of one segment reach each other; only what is said of segments that differ does not count that.
  const said = made.operations.find((each) => each.type === 'guarantee.add')!;
  const whole = said.type === 'guarantee.add' ? { ...said, guarantee: { ...said.guarantee, apart: null } } : said;
  const within = applied(intent, ...made.operations.filter((each) => each !== said), whole);
  const told = consequencesOf({ ...input, site: within.sites.get(siteId)!, estate: within.estate }).guarantees.at(-1);
  expect(told).toMatchObject({ state: 'broken', why: expect.stringContaining('Both are in one segment') as string });
  // Nothing is there twice: the same again changes nothing.
  expect(segmentsForKeys(next, siteId, asked, idFor)!.operations).toEqual([]);
});
