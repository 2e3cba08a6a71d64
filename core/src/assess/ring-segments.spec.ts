import { expect, test } from 'vitest';
import { AIRED, apply, resolve } from '../intent';
import { needsOf, reachesRouter, segmentsForKeys } from '../lattice';
import { compileSite } from '../rollout';
import { applied, sampleSite, type SampleSite } from '../testing';
import { draftOfSeat, type HeldKey } from '../bench';
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

test('the segments that keys lead to come from every AP to the router, or it is said where they stop', () => {
  const { sample, intent, ssidId } = ringed();
  const { id: siteId } = sample.site;
  const made = segmentsForKeys(intent, siteId, { ssidId, rows: rows(4), recipe: null, length: 24 }, idFor)!;
  const next = applied(intent, ...made.operations);
  const site = next.sites.get(siteId)!;
  const { roster, links } = sample;
  const stopped = consequencesOf({ ...inputOf(sample), site, estate: next.estate }).findings.filter(
    ({ code }) => code === 'lattice.not-carried',
  );
  expect(stopped.length).toBe(8);
  const ports = Object.fromEntries(
    Object.entries(site.ports).map(([id, each]) => [
      id,
      Object.fromEntries(
        Object.entries(each).map(([name, port]) => [name, port.untagged ? { ...port, tagged: [AIRED] } : port]),
      ),
    ]),
  );
  const aired = resolve(next.estate, { ...site, ports });
  const documents = compileSite(aired, roster);
  const needs = needsOf(aired, roster, documents, links).filter(({ vlan }) => vlan >= 100 && vlan < 104);
  expect(needs.map(({ vlan }) => vlan)).toEqual([100, 101, 102, 103, 100, 101, 102, 103]);
  for (const { deviceId, vlan } of needs) {
    expect(documents.get(deviceId)!.ports[0]!.tagged).toContain(vlan);
    expect(reachesRouter(documents, links, deviceId, vlan)).toBe(true);
  }
});

test('a seat on the ring’s SSID is let in with a key that is right, joins where that leads, and not without', () => {
  const { sample, intent, ssidId } = ringed();
  const { id: siteId } = sample.site;
  const made = segmentsForKeys(intent, siteId, { ssidId, rows: rows(2), recipe: null, length: 24 }, idFor)!;
  const next = applied(intent, ...made.operations);
  const input = { site: resolve(next.estate, next.sites.get(siteId)!), roster: sample.roster, live: null };
  const ap = sample.roster.find(({ model }) => model.startsWith('AP'))!;
  const seat = (key: HeldKey | null, target: string) =>
    draftOfSeat(
      input,
      { deviceId: ap.id, probe: { ssid: 'Berths', does: 'connect', protocol: 'tcp', number: 443 }, target },
      0,
      { key, now: '2026-11-28 12:00' },
    );
  const key: HeldKey = { id: 'k', name: 'Till', segment: 'Berth 1' };
  expect(seat(key, '198.51.100.9')).toMatchObject({ passes: true });
  // Berths are kept from each other, whatever the SSID's own segment reaches.
  const other = next.sites
    .get(siteId)!
    .segments.find(({ name }) => name === 'Berth 2')!
    .gateway.replace(/\d+$/, '5');
  expect(seat(key, other)).toMatchObject({ passes: false });
  expect(seat(null, '198.51.100.9')!.text).toMatch(/lets nobody in there/);
  expect(seat({ ...key, until: '2026-01-01' }, '198.51.100.9')!.text).toMatch(/lets nobody in there/);
});

test('where very many stop at one port it is one finding for it, and one edit mends it', () => {
  const { sample, intent, ssidId } = ringed();
  const { id: siteId } = sample.site;
  const made = segmentsForKeys(intent, siteId, { ssidId, rows: rows(300), recipe: null, length: 26 }, idFor)!;
  const next = applied(intent, ...made.operations);
  const findings = (of: typeof next) =>
    consequencesOf({ ...inputOf(sample), site: of.sites.get(siteId)!, estate: of.estate }).findings.filter(
      ({ code }) => code === 'lattice.not-carried',
    );
  const stopped = findings(next);
  expect(stopped.map(({ message }) => message)).toEqual([
    'Berth 1 and 299 more segments stop at x-sw-01 port 1',
    'Berth 1 and 299 more segments stop at x-sw-01 port 2',
  ]);
  expect(stopped[0]!.reason).toContain('the port carries none of VLANs 100-399.');
  expect(stopped[0]!.mend).toMatchObject({ label: 'carry the 300 segments on port 1 of x-sw-01' });
  expect(stopped[0]!.mend!.operations).toHaveLength(1);
  const mended = stopped
    .flatMap(({ mend }) => mend!.operations)
    .reduce((now, operation) => {
      const result = apply(now, operation, (id) => sample.roster.find((each) => each.id === id));
      if (!result.ok) throw new Error(JSON.stringify(result.flaws));
      return result.intent;
    }, next);
  expect(findings(mended)).toEqual([]);
});
