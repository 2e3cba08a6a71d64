import { expect, test } from 'vitest';
import { apply, resolve, type Intent, type Operation } from '../intent';
import { compileSite } from '../rollout';
import { readServices, type Rule } from '../rules';
import { applied, sampleSite } from '../testing';
import { consequencesOf } from '.';

const { intent: start, site, roster, links } = sampleSite({ segments: 4, aps: 2 });
const segment = site.segments[1]!;
const set = (from: object, to: object, segmentId = segment.id) =>
  ({ type: 'segment.set', siteId: site.id, segmentId, from, to }) as Operation;
const documents = (intent: Intent) => compileSite(resolve(intent.estate, intent.sites.get(site.id)!), roster);
const findings = (intent: Intent) =>
  consequencesOf({ estate: intent.estate, site: intent.sites.get(site.id)!, roster, links, told: {} }).findings;

test('a segment that is switched off is in no document, and comes back as it was; its ports and SSIDs stay said', () => {
  const off = applied(start, set({ off: null }, { off: true }));
  const told = JSON.stringify([...documents(off).values()]);
  expect(told).not.toContain(segment.subnet.replace('.0/24', '.'));
  expect(told).not.toContain(segment.name);
  for (const document of documents(off).values())
    for (const port of document.ports) expect([port.untagged, ...port.tagged]).not.toContain(segment.vlan);
  expect(off.sites.get(site.id)!.ports).toEqual(site.ports);
  const on = applied(off, set({ off: true }, { off: null }));
  expect(on.sites.get(site.id)).toEqual(site);
  expect([...documents(on)]).toEqual([...documents(start)]);
  // It is said where somebody would look for it, and nothing is offered that would lose it.
  const found = findings(off);
  expect(found.filter(({ severity }) => severity === 'error')).toEqual([]);
  expect(found.find(({ code }) => code === 'wireless.no-segment')).toMatchObject({
    severity: 'info',
    message: '“SSID 1” is not sent at Sample: its segment is switched off',
    mend: null,
  });
});

test('rules and pools that name it stay as they are, and its VLAN and subnet stay its own', () => {
  const rule: Rule = {
    ...{ id: 'r', verdict: 'deny', from: [{ kind: 'segment', name: segment.name }], to: [{ kind: 'any' }] },
    services: readServices('any').services,
  };
  const ruled = applied(
    start,
    { type: 'rule.add', siteId: site.id, rules: [rule], behind: null },
    { type: 'pool.add', siteId: site.id, pool: { id: 'p', name: 'Decks', vlans: '10,20' } },
  );
  const off = applied(ruled, set({ off: null }, { off: true }));
  const codes = findings(off).map(({ code }) => code);
  expect(codes).not.toContain('lattice.pool-unknown');
  expect(codes.filter((code) => code.includes('unknown'))).toEqual([]);
  const twin = { ...segment, id: 'twin', name: 'Twin' };
  const taken = apply(off, { type: 'segment.add', siteId: site.id, segment: twin }, () => undefined);
  expect(taken.ok ? [] : taken.flaws.map(({ code }) => code)).toContain('segment.vlan-taken');
});

test('addresses that are switched off are given by nobody, and switched on again with all that was said of them', () => {
  const reservations = [{ mac: '02:00:00:00:00:01', address: segment.addresses!.first, name: 'Printer' }];
  const said = { ...segment.addresses!, reservations };
  const full = applied(start, set({ addresses: segment.addresses }, { addresses: said }));
  const off = applied(full, set({ addresses: said }, { addresses: { ...said, off: true } }));
  expect(JSON.stringify([...documents(full).values()])).toContain(said.last);
  expect(JSON.stringify([...documents(off).values()])).not.toContain(said.last);
  const [found] = findings(off).filter(({ code }) => code === 'lattice.no-addresses');
  expect(found!.reason).toContain('Its address service is switched off');
  const mended = applied(off, ...found!.mend!.operations);
  expect(mended.sites.get(site.id)).toEqual(full.sites.get(site.id));
});

test('what devices themselves live in is not switched off', () => {
  const refused = apply(start, set({ off: null }, { off: true }, site.managementId), () => undefined);
  expect(refused.ok ? [] : refused.flaws.map(({ code }) => code)).toEqual(['segment.off-management']);
});
