import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  apply,
  EVERYWHERE,
  resolve,
  type AccessClass,
  type EstatePart,
  type Intent,
  type Recipe,
  type SitePart,
  type Ssid,
} from '../intent';
import { stampRecipe } from '../lattice';
import { readEnds, readServices, type Rule } from '../rules';
import { sampleId, sampleSegment, sampleSite } from '../testing';
import { AtSites } from './at-sites';

const { intent, site, roster } = sampleSite({ segments: 3, aps: 2 });
const ids = [0, 1, 2, 3].map((i) => sampleId(9, i));
const NAMES = ['Segment 1', 'segment 1', 'Segment 2', 'Guests', 'Nowhere'];

/** Four sites: all three segments, two, one and a pool, and management alone. */
const sites = ids.map((id, i): SitePart => {
  const segments = site.segments.slice(0, 3 - i > 0 ? 4 - i : 1);
  const pools = i === 2 ? [{ id: sampleId(7, i), name: 'Guests', vlans: '10' }] : undefined;
  return { ...site, id, name: `Site ${i}`, code: `s${i}`, ports: {}, segments, ...(pools ? { pools } : {}) };
});
const reach = fc.oneof(
  fc.constant(EVERYWHERE),
  fc.subarray(ids, { minLength: 1 }).map((siteIds) => ({ kind: 'sites' as const, siteIds })),
);
const withShared = (shared: Partial<EstatePart>): Intent => ({
  estate: { ...intent.estate, ssids: [], ...shared },
  sites: new Map(sites.map((each) => [each.id, each])),
});
const [sample] = intent.estate.ssids;
const ssidOf = (segment: string, more: Partial<Ssid> = {}): Ssid => ({
  ...sample!,
  id: sampleId(5, 1),
  name: 'Deck',
  segment,
  reach: EVERYWHERE,
  ...more,
});
const tags = new Map([[ids[1]!, ['vessel']]]);
const at = (now: Intent) => new AtSites(now, roster, tags);

test('an SSID and a class lack their segment exactly at the sites that cannot look it up', () => {
  fc.assert(
    fc.property(reach, fc.constantFrom(...NAMES), (where, segment) => {
      const ssid = ssidOf(segment, { reach: where });
      const one: AccessClass = { id: sampleId(6, 1), name: 'Scanners', segment, members: [], reach: where };
      const now = withShared({ ssids: [ssid], classes: [one] });
      const resolved = sites.map((each) => resolve(now.estate, each));
      const lacking = (kind: 'ssid' | 'class', id: string) =>
        at(now)
          .of(kind, id)!
          .filter(({ lacks }) => lacks.length > 0)
          .map(({ siteId }) => siteId);
      expect(new Set(lacking('ssid', ssid.id))).toEqual(
        new Set(resolved.flatMap(({ id, ssids }) => (ssids[0] && !ssids[0].pool && !ssids[0].segmentId ? [id] : []))),
      );
      expect(new Set(lacking('class', one.id))).toEqual(
        new Set(resolved.flatMap(({ id, accessClasses: [here] }) => (here && here.segmentId === null ? [id] : []))),
      );
      const counts = at(now).counts();
      expect(counts.find(({ kind }) => kind === 'ssid')).toMatchObject({
        reached: resolved.filter(({ ssids }) => ssids.length > 0).length,
        lacking: lacking('ssid', ssid.id).length,
      });
    }),
  );
});

test('each site is told with what the SSID is there, those first that lack something', () => {
  const rows = at(withShared({ ssids: [ssidOf('Segment 2')] })).of('ssid', sampleId(5, 1))!;
  expect(rows.map((row) => [row.site, row.segment?.vlan ?? null, row.lacks.join(), row.aps])).toEqual([
    ['Site 2', null, 'segment Segment 2', 0],
    ['Site 3', null, 'segment Segment 2', 0],
    ['Site 0', 20, '', 2],
    ['Site 1', 20, '', 0],
  ]);
  const pooled = at(withShared({ ssids: [ssidOf('Guests')] })).of('ssid', sampleId(5, 1))!;
  expect(pooled.find((row) => row.site === 'Site 2')).toMatchObject({ pool: '10', lacks: [] });
});

test('rules and guarantees are told by all that they name, and guarantees by their tag', () => {
  const ends = (text: string) =>
    readEnds(text, { segment: ['Segment 1', 'Segment 2'], ssid: ['Deck'], set: ['Tills'], class: [], device: [] });
  const rule: Rule = {
    id: sampleId(8, 1),
    verdict: 'deny',
    from: ends('Segment 1, Deck'),
    to: ends('Tills'),
    services: readServices('tcp set Web').services,
  };
  const now = withShared({
    ssids: [ssidOf('Segment 1', { reach: { kind: 'sites', siteIds: [ids[0]!, ids[3]!] } })],
    rulesBefore: [rule],
    sets: [{ id: sampleId(8, 2), name: 'Web', ports: ['443'] }],
    guarantees: [
      { ...rule, id: sampleId(8, 3), kind: 'never', tag: 'vessel', from: ends('Segment 2'), to: ends('internet') },
    ],
  });
  expect(
    Object.fromEntries(
      at(now)
        .of('rule', rule.id)!
        .map(({ site: name, lacks }) => [name, lacks]),
    ),
  ).toEqual({
    'Site 0': ['set Tills'],
    'Site 1': ['SSID Deck', 'set Tills'],
    'Site 2': ['SSID Deck', 'set Tills'],
    'Site 3': ['segment Segment 1', 'set Tills'],
  });
  expect(at(now).of('guarantee', sampleId(8, 3))).toMatchObject([{ site: 'Site 1', lacks: [] }]);
  expect(at(now).of('guarantee', rule.id)).toBeNull();
});

test('a recipe is told where it was stamped, and where its segment is no longer as it says', () => {
  const recipe: Recipe = {
    id: sampleId(5, 9),
    name: 'Tills',
    vlan: 77,
    purpose: '',
    domain: '',
    length: 24,
    parent: '10.200.0.0/16',
    leaseSeconds: 28_800,
  };
  let next = 0;
  const stamps = stampRecipe(withShared({ recipes: [recipe] }), recipe, ids.slice(0, 2), () => sampleId(3, ++next));
  const edited = stamps.flatMap(({ operations }) => operations);
  const changed = { type: 'segment.set' as const, siteId: ids[1]!, segmentId: sampleId(3, 2) };
  const now = [...edited, { ...changed, from: { vlan: 77 }, to: { vlan: 78 } }].reduce(
    (before, operation) => {
      const done = apply(before, operation, () => undefined);
      if (!done.ok) throw new Error(done.flaws[0]!.message);
      return done.intent;
    },
    withShared({ recipes: [recipe] }),
  );
  expect(at(now).of('recipe', recipe.id)).toMatchObject([
    { site: 'Site 1', segment: { vlan: 78 }, differs: true },
    { site: 'Site 0', segment: { vlan: 77 }, differs: false },
  ]);
  expect(at(now).counts()).toEqual([{ kind: 'recipe', id: recipe.id, reached: 2, lacking: 1 }]);
});

test('names are told with the sites that have them', () => {
  expect(at(withShared({})).names().slice(0, 2)).toEqual([
    { kind: 'segment', name: sampleSegment(0).name, sites: 4, vlans: [1] },
    { kind: 'segment', name: 'Segment 1', sites: 3, vlans: [10] },
  ]);
});
