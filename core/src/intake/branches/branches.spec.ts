import { describe, expect, test } from 'vitest';
import { parsePrefix, overlaps } from '../../address';
import type { Intent, Operation, Recipe, RosterDevice } from '../../intent';
import { countryByName } from '../../regulation';
import { appliedWith, sampleId, sampleJoin, sampleSites } from '../../testing';
import { BRANCH_COLUMNS, BRANCH_SAMPLE, composeBranches, type BranchesCommon, type BranchMeans } from '.';

const recipe = (n: number, more: Partial<Recipe> = {}): Recipe => ({
  ...{ id: sampleId(30, n), name: ['Crew', 'Tills'][n]!, vlan: 20 + n, purpose: '', domain: '', length: 24 },
  ...{ parent: null, leaseSeconds: 3600, ...more },
});
const sample = sampleSites({ sites: 3, segments: 2 });
const based = appliedWith(
  sample.roster,
  sample.intent,
  ...sampleJoin(2, 0),
  ...[0, 1].map((n): Operation => ({ type: 'recipe.add', recipe: recipe(n) })),
);
const COMMON: BranchesCommon = {
  ...{ recipeIds: [sampleId(30, 0), sampleId(30, 1)], hubs: [...sample.siteIds.slice(0, 2)], shares: [] },
  ...{ leaves: 'here', like: null, pool: null },
};
function meansFor(intent: Intent = based, more: Partial<BranchMeans> = {}): BranchMeans {
  let [ids, keys] = [0, 0];
  return {
    ...{ intent, roster: sample.roster, heard: new Map(), country: 'IE', countryOf: countryByName },
    known: {
      models: new Set(['GW-4', 'SW-24P', 'AP-6', 'AP-6E']),
      serials: new Map([['GW-0', 's0-gw-01 at Site 0']]),
      names: new Map(),
    },
    idFor: () => sampleId(40, ids++),
    keyFor: () => ({ secret: sampleId(41, keys), public: `${String(keys++).padStart(42, 'B')}A=` }),
    ...more,
  };
}
type Row = Partial<Record<(typeof BRANCH_COLUMNS)[number]['key'], string>>;
const tableOf = (...rows: Row[]): string[][] => [
  BRANCH_COLUMNS.map(({ headings }) => headings[0]!),
  ...rows.map((row) => BRANCH_COLUMNS.map(({ key }) => row[key] ?? '')),
];
const harrow: Row = { name: 'Harrow Point', serial: '3a1-0201-11', model: 'gw-4', uplinks: 'dhcp 100/20' };
const compose = (rows: Row[], common: Partial<BranchesCommon> = {}, means = meansFor()) =>
  composeBranches({ table: tableOf(...rows), common: { ...COMMON, ...common } }, means);
const flawsOf = (row: Row, common: Partial<BranchesCommon> = {}, means = meansFor()) => {
  const { rows, flaws } = compose([{ ...harrow, ...row }], common, means);
  return (rows[0]?.flaws ?? flaws).map(({ field, message }) => [field, message]);
};
const partsOf = (row: Row, common: Partial<BranchesCommon> = {}, means = meansFor()) =>
  Object.fromEntries(
    (compose([{ ...harrow, ...row }], common, means).rows[0]!.good?.parts ?? []).map(({ what, is }) => [what, is]),
  );

describe('a branch', () => {
  test('is a name and a gateway: all else is derived, and said what it follows from', () => {
    const { rows, made, after } = compose([harrow]);
    expect(rows[0]!.good!.parts.map(({ what, is, from }) => [what, is, from])).toEqual([
      ['Short form', 'hp', 'the name'],
      ['Country', 'IE', 'the estate'],
      ['Time zone', 'Europe/Dublin', 'the country'],
      ['Management', '10.1.1.0/24, its router 10.1.1.1', 'the address plan'],
      ['hp-gw-01', 'GW-4 3A1-0201-11, gateway, expected', 'the short form'],
      ['Crew', 'VLAN 20, 10.1.20.0/24', 'its recipe'],
      ['Tills', 'VLAN 21, 10.1.21.0/24', 'its recipe'],
      ['Uplink wan1', 'address by DHCP, 100/20 Mb/s', null],
      ['Joined', 'by Site 0, then Site 1', 'what all have'],
      ['Shares', '10.1.1.0/24, 10.1.20.0/24, 10.1.21.0/24', 'its segments'],
      ['Key', 'a pair of its own, made here and shown to nobody', 'the controller'],
    ]);
    const [site] = made.sites;
    expect(made.expected).toMatchObject([{ siteId: site!.part.id, name: 'hp-gw-01', model: 'GW-4' }]);
    // The same things as everywhere: the edits make it on the site as founded, beside the box that is expected.
    const box: RosterDevice = {
      ...made.expected[0]!,
      name: 'hp-gw-01',
      siteId: site!.part.id,
      expected: true,
    } as never;
    const founded = { ...based, sites: new Map(based.sites).set(site!.part.id, site!.part) };
    expect(appliedWith([...sample.roster, box], founded, ...made.operations)).toEqual(after);
    expect(after.sites.get(site!.part.id)!.uplinks).toEqual({ [box.id]: { wan1: { down: 100, up: 20 } } });
    expect(after.estate.members!.at(-1)).toMatchObject({ role: 'spoke', deviceId: box.id, segments: 'all' });
  });

  test('is said in more detail where somebody wants to', () => {
    const said = partsOf({
      ...{
        country: 'Portugal',
        timeZone: 'Atlantic/Madeira',
        code: 'HX',
        segments: 'tills',
        hubs: 's1',
        shares: 'Tills',
      },
      uplinks: 'pppoe ferry@line s3cret vlan 7; wan2 static 203.0.113.10/29 via 203.0.113.9 dns 192.0.2.53 standby',
      devices: 'SW-24P 5C2-0201-12; AP-6E 7K4-0201-13; AP-6 7K4-0201-14',
    });
    expect(said).toMatchObject({
      ...{ 'Short form': 'hx', Country: 'PT', 'Time zone': 'Atlantic/Madeira' },
      ...{ 'hx-sw-01': 'SW-24P 5C2-0201-12, switch, expected', 'hx-ap-02': 'AP-6 7K4-0201-14, AP, expected' },
      'Uplink wan1': 'PPPoE, as ferry@line, VLAN 7',
      'Uplink wan2': 'address of its own, 203.0.113.10/29 by 203.0.113.9, names by 192.0.2.53, stands by',
      ...{ Joined: 'by Site 1', Shares: '10.1.21.0/24' },
    });
    expect(said).not.toHaveProperty('Crew');
  });

  test('has a pair of gateways where a second one is named, with the uplinks of both tracked', () => {
    const row = { devices: 'SW-24P 5C2-0201-12; GW-4 3A1-0299-01' };
    expect(partsOf(row)).toMatchObject({
      'hp-gw-02': 'GW-4 3A1-0299-01, gateway, expected',
      'Pair of gateways': 'hp-gw-01 routes, hp-gw-02 takes over',
    });
    const { made, after } = compose([{ ...harrow, ...row }]);
    const [gateway, , second] = made.expected;
    expect(after.sites.get(made.sites[0]!.part.id)!.pair).toMatchObject({
      ...{ firstId: gateway!.id, secondId: second!.id },
      tracks: { first: ['wan1', 'wan2'], second: ['wan1', 'wan2'] },
    });
    expect(partsOf({})).not.toHaveProperty('Pair of gateways');
  });

  test('keeps what a provider knows it by a secret, which nobody is shown again', () => {
    const { rows, made } = compose([{ ...harrow, uplinks: 'pppoe ferry@line s3cret' }]);
    expect(Object.values(made.secrets)).toEqual(['s3cret']);
    expect(JSON.stringify([rows, made.operations])).not.toContain('s3cret');
  });

  test('has its router’s address out of a pool where there is one, the next that is free', () => {
    const pool = { prefix: '10.250.0.0/16', length: 26 };
    const { rows } = compose([harrow, { ...harrow, name: 'Saltmarsh', serial: '3A1-0202-10' }], { pool });
    expect(rows.map(({ good }) => good?.parts.find(({ what }) => what === 'Management'))).toMatchObject([
      { is: '10.250.0.0/26, its router 10.250.0.1', from: '10.250.0.0/16' },
      { is: '10.250.0.64/26, its router 10.250.0.65' },
    ]);
    expect(flawsOf({}, { pool: { prefix: '10.0.0.0/24', length: 24 } })).toEqual([
      ['name', 'No /24 is free in 10.0.0.0/24 any more.'],
    ]);
    expect(flawsOf({}, { pool: { prefix: 'elsewhere', length: 24 } })[0]![0]).toBe('pool');
    expect(flawsOf({}, { pool: { prefix: '10.250.0.0/24', length: 20 } })[0]![0]).toBe('pool');
  });

  test('is steered like another, as far as it can be', () => {
    const course = (n: number, name: string, segment: string, ports: string[]): Operation => ({
      type: 'course.add',
      siteId: sample.siteIds[2]!,
      course: {
        ...{ id: sampleId(50, n), deviceId: sampleId(2, 2), name, turn: n, how: 'first', otherwise: 'usual', ports },
        ...{ from: [{ kind: 'segment', name: segment }], to: [{ kind: 'any' }], services: [{ protocol: 'any' }] },
      },
    });
    const [first, second] = based.sites.get(sample.siteIds[2]!)!.segments;
    const steered = appliedWith(
      sample.roster,
      based,
      {
        ...{ type: 'segment.set', siteId: sample.siteIds[2]!, segmentId: second!.id },
        ...{ from: { name: second!.name }, to: { name: 'Tills' } },
      },
      {
        ...{ type: 'segment.set', siteId: sample.siteIds[2]!, segmentId: first!.id },
        ...{ from: { name: first!.name }, to: { name: 'Deck' } },
      },
      course(0, 'Tickets first', 'Tills', ['wan2', 'wan1']),
      course(1, 'Others', 'Deck', ['wan1']),
      {
        ...{ type: 'uplink.leaving', siteId: sample.siteIds[2]!, deviceId: sampleId(2, 2), from: null },
        to: { stay: false, parts: { [first!.id]: 4 } },
      },
    );
    const { rows, after, made } = compose([harrow], { like: sample.siteIds[2]! }, meansFor(steered));
    expect(
      rows[0]!.good!.parts.flatMap(({ what, is, from }) =>
        from === 'Site 2' ? [[what.replace('Course ', ''), is]] : [],
      ),
    ).toEqual([
      ['Tickets first', 'by wan2, then wan1'],
      ['Others', 'left out: it has no segment Deck'],
      ['Uplinks together', 'as there'],
    ]);
    const site = after.sites.get(made.sites[0]!.part.id)!;
    expect(site.courses).toMatchObject([{ name: 'Tickets first', deviceId: made.expected[0]!.id }]);
    expect(site.leaving).toEqual({ [made.expected[0]!.id]: { stay: false } });
  });

  test('that has a tag is reached by what is for it; one edit for all of them', () => {
    const tagged = appliedWith(sample.roster, based, {
      type: 'ssid.add',
      ssid: {
        ...{ id: sampleId(60, 0), name: 'Crew', security: 'open', passphrase: null, bands: ['5'], segment: 'Crew' },
        reach: { kind: 'sites', siteIds: [sample.siteIds[0]!], tag: 'terminal' },
      },
    });
    const rows = ['A', 'B', 'C'].map((name, i) => ({
      ...{ ...harrow, name: `Pier ${name}`, serial: `3A1-03${i}1-11`, tags: i === 1 ? 'pier' : 'Terminal; north' },
    }));
    const { shared, made, after } = compose(rows, {}, meansFor(tagged));
    expect(shared).toEqual([{ what: 'SSID Crew', is: 'reaches 2 of them too', from: 'the tag terminal' }]);
    expect(made.operations.filter(({ type }) => type === 'ssid.set')).toHaveLength(1);
    expect(after.estate.ssids[0]!.reach).toMatchObject({
      siteIds: [sample.siteIds[0], made.sites[0]!.part.id, made.sites[2]!.part.id],
    });
  });
});

describe('a list of branches', () => {
  test('of a hundred gives each room of its own, and keeps clear of what is there', () => {
    const rows = Array.from({ length: 100 }, (_, i) => ({
      ...{ ...harrow, name: `Stop ${i}`, serial: `3A1-${1000 + i}-11` },
    }));
    const { rows: seen, after } = compose(rows);
    expect(seen.filter(({ good }) => good === null)).toEqual([]);
    const all = [...after.sites.values()].flatMap(({ segments }) => segments.map(({ subnet }) => parsePrefix(subnet)!));
    expect(all).toHaveLength(306);
    all.sort((a, b) => (a.network < b.network ? -1 : 1));
    expect(all.slice(1).some((each, i) => overlaps(all[i]!, each))).toBe(false);
    expect(new Set([...after.sites.values()].map(({ code }) => code)).size).toBe(103);
  });

  test('says row by row what is wrong; what cannot be made leaves nothing behind', () => {
    const { rows, made, after } = compose([
      harrow,
      { ...harrow, name: 'Twin' },
      { ...harrow, name: 'harrow point', serial: '3A1-0203-09' },
      { ...harrow, name: 'Last', serial: '3A1-0204-08', code: 'hp' },
      { ...harrow, name: 'Good', serial: '3A1-0205-07' },
    ]);
    expect(rows.map(({ flaws }) => flaws.map(({ field }) => field))).toEqual([
      ...[[], ['serial'], ['name']],
      ...[[], []],
    ]);
    // Nobody is given a short form that another row asks for.
    expect(rows.map(({ good }) => good?.parts[0]?.is)).toEqual(['hr', undefined, undefined, 'hp', expect.any(String)]);
    expect([made.sites.length, made.expected.length, after.sites.size]).toEqual([3, 3, 6]);
    expect(made.operations.filter(({ type }) => type === 'member.add')).toHaveLength(3);
  });

  test.each<[string, Row, string, RegExp]>([
    ['no gateway', { serial: '' }, 'serial', /serial number of its gateway/],
    ['a serial number that a spreadsheet spoilt', { serial: '1.2E+05' }, 'serial', /Format the column/],
    ['a box that is known', { serial: 'gw-0' }, 'serial', /already known: s0-gw-01 at Site 0/],
    ['no model of a box that never called', { model: '' }, 'model', /never called/],
    ['a model that nobody knows', { model: 'GW-99' }, 'model', /no hardware sheet/],
    ['a switch for a gateway', { model: 'SW-24P' }, 'model', /no gateway/],
    ['a third gateway', { devices: 'GW-4 3A1-0299-01; GW-4 3A1-0299-02' }, 'devices', /a branch has two at most/],
    ['the same box twice', { devices: 'SW-24P 3A1-0201-11' }, 'devices', /named twice/],
    ['a country that is none', { country: 'Atlantis', timeZone: 'UTC' }, 'country', /no country/],
    ['a zone that is none', { timeZone: 'Sea/Deep' }, 'timeZone', /not a time zone/],
    ['a country of several zones', { country: 'PT' }, 'timeZone', /several time zones/],
    ['a place that is none', { coordinates: 'by the sea' }, 'coordinates', /no place/],
    ['a recipe that is none', { segments: 'Crew; Deck' }, 'segments', /no recipe “deck”/],
    ['a hub that is none', { hubs: 'Site 2' }, 'hubs', /Site 2 is no hub/],
    ['a hub that is no site', { hubs: 'Nowhere' }, 'hubs', /no site “nowhere”/],
    ['what it has not to share', { shares: 'Deck' }, 'shares', /no segment “deck”/],
    ['an uplink that is not understood', { uplinks: 'dhcp fast' }, 'uplinks', /“fast” is not understood/],
    [
      'an address without its gateway',
      { uplinks: 'static 203.0.113.10/29' },
      'uplinks',
      /wants its length, and the provider’s gateway/,
    ],
    ['more uplinks than ports', { uplinks: 'dhcp;dhcp;dhcp;dhcp;dhcp;dhcp' }, 'uplinks', /uplinks at most/],
    ['an uplink twice', { uplinks: 'wan1 dhcp; wan1 cellular' }, 'uplinks', /said twice/],
    ['half of PPPoE', { uplinks: 'pppoe ferry@line' }, 'uplinks', /a name and a password/],
  ])('%s is said at its cell', (_what, row, field, message) => {
    expect(flawsOf(row)).toEqual([[field, expect.stringMatching(message)]]);
  });

  test('with headings of our sample is good as it stands', () => {
    const { rows } = composeBranches({ table: BRANCH_SAMPLE, common: COMMON }, meansFor());
    expect(rows.map(({ flaws }) => flaws)).toEqual([[], []]);
  });

  test('a box that calls is known by its serial number, with its model, and stays the one that it is', () => {
    const heard = new Map([['3A1-0201-11', { id: sampleId(70, 0), model: 'GW-4' }]]);
    const { made } = compose([{ ...harrow, model: '' }], {}, meansFor(based, { heard }));
    expect(made.expected[0]).toMatchObject({ id: sampleId(70, 0), model: 'GW-4' });
    const other = new Map([['3A1-0201-11', { id: sampleId(70, 0), model: 'AP-6' }]]);
    expect(flawsOf({}, {}, meansFor(based, { heard: other }))).toEqual([['model', '3A1-0201-11 called, and is AP-6.']]);
  });

  test('is as long as it may be, and not empty', () => {
    expect(compose([]).flaws[0]!.message).toMatch(/list is empty/);
    const many = Array.from({ length: 201 }, (_, i) => ({ ...harrow, name: `Stop ${i}` }));
    expect(compose(many)).toMatchObject({ rows: [], flaws: [{ code: 'list.long' }] });
    const boxes = Array.from({ length: 51 }, (_, i) => `SW-24P 5C2-${1000 + i}`).join(';');
    expect(flawsOf({ devices: boxes })).toEqual([['devices', '50 more boxes at most.']]);
  });
});
