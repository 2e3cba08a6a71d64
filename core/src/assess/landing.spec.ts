import { describe, expect, test } from 'vitest';
import { carriedBy, walk, type LandingFact } from '../bench';
import { differenceOf, outagesOf, type ApDocument, type GatewayDocument } from '../document';
import {
  joinedSeenAt,
  resolve,
  segmentNameOf,
  stepsBetween,
  touchedSites,
  type Intent,
  type Link,
  type Operation,
  type RosterDevice,
  type Ssid,
} from '../intent';
import { latticeGrid, needsOf } from '../lattice';
import { capPlaces, compileSite, enforcedBy } from '../rollout';
import { appliedWith, refusedWith, sampleId, sampleJoin, sampleSites } from '../testing';
import { acrossTo, ALL_UP, AtSites, consequencesOf } from '.';

/** A hub and three spokes; where SSIDs lead, VLAN IDs are others than where they are sent. */
const sample = sampleSites({ sites: 4, segments: 3 });
const [HUB, QUAY, ISLE, FAR] = sample.siteIds as [string, string, string, string];
const apAt = (n: number): RosterDevice => ({
  ...{ id: sampleId(4, n), siteId: sample.siteIds[n]!, name: `s${n}-ap-01`, serial: `AP-${n}`, model: 'AP-6E' },
});
const roster = [...sample.roster, ...[0, 1, 2, 3].map(apAt)];
const linkAt = (n: number): Link => ({
  a: { deviceId: sampleId(2, n), port: '1' },
  b: { deviceId: sampleId(4, n), port: 'lan' },
});
const numbered: Intent = {
  ...sample.intent,
  sites: new Map(
    [...sample.intent.sites].map(([id, site]) => [
      id,
      id === QUAY
        ? { ...site, segments: site.segments.map((each, i) => (i === 2 ? { ...each, name: 'Deck', vlan: 77 } : each)) }
        : site,
    ]),
  ),
};
const joined = appliedWith(roster, numbered, ...sampleJoin(1, 3));
const ssidId = sampleId(5, 0);
const deck: Ssid = {
  ...{ id: ssidId, name: 'Deck', security: 'open', passphrase: null, bands: ['5'], segment: 'Deck' },
  ...{ tunnel: QUAY, reach: { kind: 'sites', siteIds: [ISLE, FAR] } },
};
const add = (change: Partial<Ssid> = {}): Operation => ({ type: 'ssid.add', ssid: { ...deck, ...change } });
const set = (from: Partial<Ssid>, to: Partial<Ssid>): Operation => ({ type: 'ssid.set', ssidId, from, to });
const carried = appliedWith(roster, joined, add());
const at = (intent: Intent, id: string) => resolve(intent.estate, intent.sites.get(id)!);
const devicesAt = (id: string) => roster.filter(({ siteId }) => siteId === id);
const number = (id: string): number => sample.siteIds.indexOf(id);
const linksAt = (id: string): Link[] => [linkAt(number(id))];
const told = (intent: Intent, id: string) => compileSite(at(intent, id), devicesAt(id));
const gatewayOf = (intent: Intent, id: string) => told(intent, id).get(sampleId(2, number(id))) as GatewayDocument;
const apOf = (intent: Intent, id: string) => told(intent, id).get(sampleId(4, number(id))) as ApDocument;
const findings = (intent: Intent, id: string) => {
  const [estate, site] = [intent.estate, intent.sites.get(id)!];
  return consequencesOf({ estate, site, roster: devicesAt(id), links: linksAt(id), told: {} }).findings;
};
const foundOf = (intent: Intent, id: string, code: string) => findings(intent, id).filter((each) => each.code === code);
const nowhere = (intent: Intent, id = ISLE) => foundOf(intent, id, 'wireless.landing-nowhere');

describe('what is known of where clients are carried', () => {
  test('follows from the sites, and from nothing that anybody says', () => {
    expect(carried.estate.landings).toEqual({
      [QUAY]: {
        ...{ name: 'Site 1', to: '10.0.16.1', livesIn: sampleId(1, 1000) },
        segments: [{ id: sampleId(1, 1002), name: 'Deck', vlan: 77 }],
        from: {
          [ISLE]: { name: 'Site 2', subnet: '10.0.32.0/24', mtu: 1398, wants: ['deck'] },
          [FAR]: { name: 'Site 3', subnet: '10.0.48.0/24', mtu: 1398, wants: ['deck'] },
        },
      },
    });
    expect(stepsBetween(joined.estate, carried.estate).map(({ type }) => type)).toEqual(['ssid.add']);
    // Switched off it carries nobody; taken away nothing is known any more.
    expect(appliedWith(roster, carried, set({ off: null }, { off: true })).estate.landings).toEqual({});
    const gone = appliedWith(roster, carried, { type: 'ssid.remove', ssidId });
    expect(gone.estate).not.toHaveProperty('landings');
  });

  test('is the same object after an edit of something else, and stays of sites that are not looked at', () => {
    const other = appliedWith(roster, carried, set({ hidden: null }, { hidden: true }));
    expect(other.estate.landings).toBe(carried.estate.landings);
    const alone: Intent = { ...carried, sites: new Map([[ISLE, carried.sites.get(ISLE)!]]) };
    const edited = appliedWith(roster, alone, set({ hidden: null }, { hidden: true }));
    expect(edited.estate.landings).toEqual(carried.estate.landings);
  });

  test('reaches the site where they come out, those that carry them there, and no other', () => {
    expect(touchedSites(joined, carried)).toEqual([QUAY, ISLE, FAR]);
    const { segments, ...site } = carried.sites.get(QUAY)!;
    const from = { vlan: 77 };
    const moved = appliedWith(roster, carried, {
      ...{ type: 'segment.set', siteId: QUAY, segmentId: segments[2]!.id, from, to: { vlan: 78 } },
    });
    expect(site.name).toBe('Site 1');
    expect(touchedSites(carried, moved)).toEqual([QUAY, ISLE, FAR]);
    expect(apOf(moved, ISLE).ssids[0]).toMatchObject({ vlan: 78, tunnel: '10.0.16.1' });
    const only = appliedWith(
      roster,
      carried,
      set({ reach: deck.reach }, { reach: { kind: 'sites', siteIds: [ISLE] } }),
    );
    expect(touchedSites(carried, only)).toEqual([QUAY, ISLE, FAR]);
    const one = appliedWith(roster, carried, set({ exceptions: {} }, { exceptions: { [FAR]: { tunnel: null } } }));
    expect(touchedSites(carried, one)).toEqual([QUAY, FAR]);
  });

  test('is seen by the page of a spoke with the members on the way, and by no more of them', () => {
    const seen = joinedSeenAt(carried.estate, ISLE);
    expect(seen.members!.map(({ siteId }) => siteId)).toEqual([HUB, QUAY, ISLE]);
    expect(joinedSeenAt(joined.estate, ISLE).members!.map(({ siteId }) => siteId)).toEqual([HUB, ISLE]);
    // What others carry is none of a page that carries nothing.
    const isle = appliedWith(roster, joined, add({ reach: { kind: 'sites', siteIds: [ISLE] } }));
    expect(joinedSeenAt(isle.estate, FAR).members!.map(({ siteId }) => siteId)).toEqual([HUB, FAR]);
  });

  test('knows what a client’s segment is called, here and there', () => {
    const site = carried.sites.get(ISLE)!;
    expect(segmentNameOf(carried.estate, site, { vlan: 77, to: '10.0.16.1' })).toBe('Deck, Site 1');
    expect(segmentNameOf(carried.estate, site, { vlan: 10 })).toBe('Segment 1');
    expect(segmentNameOf(carried.estate, site, { vlan: 10, to: '10.0.16.1' })).toBe('VLAN 10, Site 1');
    expect(segmentNameOf(carried.estate, site, { vlan: 77, to: '10.9.9.9' })).toBe('VLAN 77, another site');
    expect(segmentNameOf(carried.estate, site, { vlan: 99 })).toBe('VLAN 99');
  });
});

describe('devices', () => {
  test('are told where frames go, and what is taken out for whom', () => {
    expect(apOf(carried, ISLE)).toMatchObject({
      ssids: [{ name: 'Deck', vlan: 77, tunnel: '10.0.16.1' }],
      landings: [{ to: '10.0.16.1', mtu: 1398 }],
    });
    expect(apOf(carried, ISLE)).not.toHaveProperty('tunnel');
    expect(gatewayOf(carried, QUAY).tunnels).toEqual({
      ...{ from: [], vlans: [], mtu: 1458 },
      landings: [
        { name: 'Site 2', from: ['10.0.32.0/24'], vlans: [77], mtu: 1398 },
        { name: 'Site 3', from: ['10.0.48.0/24'], vlans: [77], mtu: 1398 },
      ],
    });
    for (const id of [HUB, ISLE, FAR]) expect(gatewayOf(carried, id)).not.toHaveProperty('tunnels');
    // Each line of it can be told from the others.
    expect(differenceOf(gatewayOf(joined, QUAY), gatewayOf(carried, QUAY)).lines.length).toBeGreaterThan(0);
  });

  test('at the site where they come out send it with the short way, to their own gateway', () => {
    const everywhere = appliedWith(roster, joined, add({ reach: { kind: 'estate' } }));
    expect(apOf(everywhere, QUAY)).toMatchObject({
      ssids: [{ vlan: 77, tunnel: true }],
      tunnel: { to: '10.0.16.1', mtu: 1458 },
    });
    expect(gatewayOf(everywhere, QUAY).tunnels).toMatchObject({ from: ['10.0.16.0/24'], vlans: [77] });
  });

  test('on the way need no VLAN of it, whatever that number means there', () => {
    // The same number is a segment of the site where it is sent.
    const alike = appliedWith(roster, joined, add({ segment: 'Segment 1' }));
    expect(apOf(alike, ISLE).ssids[0]).toMatchObject({ vlan: 10, tunnel: '10.0.16.1' });
    const site = at(alike, ISLE);
    const documents = told(alike, ISLE);
    expect(needsOf(site, devicesAt(ISLE), documents, linksAt(ISLE)).map(({ vlan }) => vlan)).toEqual([1, 1]);
    const grid = latticeGrid(site, devicesAt(ISLE), documents, linksAt(ISLE));
    expect(JSON.stringify(grid)).not.toContain('tunnel');
    const ways = enforcedBy([...documents.values()])!.ways[10] ?? [];
    expect(ways.filter(({ ssid }) => ssid)).toEqual([]);
  });

  test('keep clients apart where the segment does that, and the site knows that some come from afar', () => {
    const { id } = carried.sites.get(QUAY)!.segments[2]!;
    const apart = appliedWith(roster, carried, {
      ...{ type: 'segment.set', siteId: QUAY, segmentId: id, from: { isolation: null } },
      to: { isolation: { clients: true, segments: false } },
    });
    expect(apOf(apart, ISLE).ssids[0]).toMatchObject({ isolated: true });
    expect(gatewayOf(apart, QUAY).tunnels!.landings![0]).toMatchObject({ apart: [77] });
    const way = (intent: Intent) =>
      enforcedBy([...told(intent, QUAY).values()])!.ways[77]!.find(({ name }) => name === 'carried from other sites');
    expect(way(carried)).toMatchObject({ isolated: false, tunnelled: true });
    expect(way(apart)).toMatchObject({ isolated: true });
  });

  test('hold a cap of the whole SSID at its APs: its own gateway never sees its clients', () => {
    const capped = appliedWith(roster, carried, set({ caps: null }, { caps: { all: { down: 50_000, up: null } } }));
    const place = capPlaces({ site: at(capped, ISLE), roster: devicesAt(ISLE) }).get(ssidId)!;
    expect(place).toMatchObject({ at: 'ap', aps: 1 });
    expect(apOf(capped, ISLE).ssids[0]!.caps).toMatchObject({ all: { down: { kbps: 50_000 } } });
  });

  test('let clients ask anew when they come out elsewhere', () => {
    const back = appliedWith(
      roster,
      carried,
      set({ tunnel: QUAY, segment: 'Deck' }, { tunnel: null, segment: 'Segment 1' }),
    );
    expect(outagesOf(apOf(carried, ISLE), apOf(back, ISLE))).toEqual([
      { what: 'clients', where: [], vlans: [], seconds: 30 },
    ]);
    expect(outagesOf(apOf(carried, ISLE), apOf(carried, ISLE))).toEqual([]);
  });
});

describe('what is wrong with it', () => {
  test('is nothing where both ends share where their devices live', () => {
    expect(findings(carried, ISLE).filter(({ code }) => code.startsWith('wireless.'))).toEqual([]);
    expect(findings(carried, QUAY).filter(({ code }) => code.startsWith('wireless.'))).toEqual([]);
  });

  test.each([
    [{ tunnel: HUB, segment: 'Deck' }, 'The gateway of Site 0 routes no segment “Deck”'],
    [{ tunnel: QUAY, segment: 'Nothing' }, 'The gateway of Site 1 routes no segment “Nothing”'],
  ])('is said where the segment lacks there: %o', (change, words) => {
    const intent = appliedWith(roster, joined, add(change));
    expect(nowhere(intent)).toMatchObject([{ severity: 'error', reason: expect.stringContaining(words) }]);
    expect(apOf(intent, ISLE).ssids).toEqual([]);
    expect(findings(intent, ISLE).map(({ code }) => code)).not.toContain('wireless.no-segment');
  });

  test('is said where one end does not share, with a mend that lets both', () => {
    const own = carried.sites.get(ISLE)!.segments[1]!.id;
    const hidden = appliedWith(roster, carried, {
      ...{ type: 'member.set', memberId: sampleId(20, 2), from: { segments: 'all' }, to: { segments: [own] } },
    });
    const [finding] = nowhere(hidden);
    expect(finding!.reason).toContain('Site 2 does not share 10.0.32.0/24');
    const mended = appliedWith(roster, hidden, ...finding!.mend!.operations);
    expect(nowhere(mended)).toEqual([]);
    expect(nowhere(hidden, FAR)).toEqual([]);
  });

  test('is said where a site is joined no more', () => {
    const left = appliedWith(roster, carried, { type: 'member.remove', memberId: sampleId(20, 2) });
    expect(nowhere(left)).toMatchObject([{ reason: expect.stringContaining('Site 2 is not joined to other sites') }]);
  });

  const stop = (siteId: string, text: string): Operation => ({
    ...{ type: 'rule.add', siteId, behind: null },
    rules: [
      {
        ...{ id: sampleId(30, 0), verdict: 'deny', from: [{ kind: 'addresses', text }], to: [{ kind: 'any' }] },
        services: [{ protocol: 47 }],
      },
    ],
  });
  test('is said where rules stop its packets, at either end', () => {
    const here = appliedWith(roster, carried, stop(ISLE, '10.0.32.0/24'));
    expect(foundOf(here, ISLE, 'wireless.landing-stopped')).toMatchObject([
      { message: 'The tunnel of “Deck” to Site 1 is stopped at Site 2', severity: 'error' },
    ]);
    const there = appliedWith(roster, carried, stop(QUAY, '10.0.32.0/24'));
    expect(foundOf(there, QUAY, 'wireless.landing-refused')).toMatchObject([
      { message: 'What Site 2 carries to Deck is refused at Site 1', place: { kind: 'segment' } },
    ]);
    expect(foundOf(there, ISLE, 'wireless.landing-stopped')).toEqual([]);
  });

  test.each([
    [add({ tunnel: sampleId(9, 9) }), 'tunnel: That site is not joined'],
    [add({ byClass: true }), 'tunnel: Classes have segments of each site'],
    [add({ security: 'wpa2-psk', ring: [], passphrase: null }), 'tunnel: Keys of a ring lead to segments of each site'],
  ])('is refused with a word: %#', (operation, words) => {
    expect(refusedWith(roster, joined, operation)).toContain(words);
  });

  test('is not that the sites which send it have no such segment', () => {
    const rows = new AtSites(carried, roster, new Map()).of('ssid', ssidId)!;
    expect(rows.map(({ site, lacks, aps }) => [site, lacks, aps])).toEqual([
      ['Site 2', [], 1],
      ['Site 3', [], 1],
    ]);
  });
});

describe('a walk', () => {
  const probe = { ssidId, apId: sampleId(4, 2), band: '5', knowsPassphrase: false } as const;
  const uplinks = (id: string) => new Map([[`${sampleId(2, number(id))} wan1`, { up: true, address: '203.0.113.9' }]]);
  const walked = (intent: Intent, { up = ALL_UP, silent = false, known = true } = {}) => {
    const documents = told(intent, ISLE);
    const bundle = carriedBy(documents, probe);
    const across = bundle && acrossTo(intent.estate, ISLE, bundle.packet, bundle.to, up);
    const landing: LandingFact | null = across && {
      ...{ siteId: QUAY, name: across.name, way: across.steps, documents: told(intent, QUAY), links: linksAt(QUAY) },
      ...{ gatewayId: sampleId(2, 1), facts: { taken: new Set(), uplinks: uplinks(QUAY), minute: 0 } },
    };
    const facts = { taken: new Set<string>(), uplinks: uplinks(ISLE), minute: 0, silent };
    return walk(documents, linksAt(ISLE), probe, { ...facts, ...(landing && known ? { landing } : {}) });
  };
  const titles = (intent: Intent, more = {}) => walked(intent, more).steps.map(({ title }) => title);

  test('goes by the hub to the other site’s gateway, is given an address there, and leaves there', () => {
    const { steps, arrived } = walked(carried);
    expect(arrived).toBe(true);
    expect(steps.map(({ title }) => title)).toEqual(
      expect.arrayContaining([
        'Into the tunnel to 10.0.16.1',
        'Inside the tunnel to Site 0',
        'Handed on',
        'Out of the tunnel at s1-gw-01',
        'Given 10.0.18.20',
        '10.0.18.1 answers',
      ]),
    );
    expect(steps.find(({ title }) => title === 'Handed on')!.detail).toBe('By Site 0 it comes to Site 1.');
    expect(steps.find(({ address }) => address)!.address).toBe('10.0.18.20');
  });

  test.each([
    ['no tunnel between sites is up', { up: () => false }, 'Stopped'],
    ['the AP hears nothing from it', { silent: true }, 's1-gw-01 is silent'],
    ['nobody has the address', { known: false }, 'The tunnel ends nowhere'],
  ])('ends where %s', (_why, more, title) => {
    const all = titles(carried, more);
    expect(all.at(-1)).toBe(title);
    expect(walked(carried, more).arrived).toBe(false);
  });

  test('ends where the gateway there takes nothing of it', () => {
    const elsewhere = walk(told(carried, ISLE), linksAt(ISLE), probe, {
      ...{ taken: new Set<string>(), uplinks: uplinks(ISLE), minute: 0 },
      landing: {
        ...{ siteId: QUAY, name: 'Site 1', way: [], documents: told(joined, QUAY), links: linksAt(QUAY) },
        ...{ gatewayId: sampleId(2, 1), facts: { taken: new Set(), uplinks: new Map(), minute: 0 } },
      },
    });
    expect(elsewhere.steps.at(-1)).toMatchObject({
      ...{ passed: false, title: 'The tunnel ends nowhere' },
      detail: 's1-gw-01 takes nothing from the address that this AP sends from.',
    });
  });
});
