import fc from 'fast-check';
import { expect, test } from 'vitest';
import { apply, resolve, touchedSites, USUAL_SERVER, type Intent, type Operation, type SitePart } from '../intent';
import { compileSite } from '../rollout';
import { readEnds, readServices } from '../rules';
import { sampleId, sampleSite } from '../testing';
import { outcomeAt } from './consequences';
import { reviewOf } from './site-review';

const { intent, site, roster, links } = sampleSite({ segments: 4, aps: 2, holes: 1 });
const ids = [site.id, sampleId(9, 1), sampleId(9, 2)];
const sites = ids.map((id, i): SitePart => ({ ...site, id, name: `Site ${i}`, code: `s${i}` }));
const start: Intent = { ...intent, sites: new Map(sites.map((each) => [each.id, each])) };
const [ssid] = start.estate.ssids;
const device = (id: string) => roster.find((each) => each.id === id);

const reach = fc.oneof(
  fc.constant({ kind: 'estate' as const }),
  fc.subarray(ids, { minLength: 1 }).map((siteIds) => ({ kind: 'sites' as const, siteIds })),
);
const rule = (id: number) => ({
  id: sampleId(8, id),
  verdict: 'deny' as const,
  from: readEnds('any'),
  to: readEnds('10.9.0.0/16'),
  services: readServices('tcp 443').services,
  comment: '',
});
type Edit = (now: Intent) => Operation;
const edits: fc.Arbitrary<Edit> = fc.oneof(
  reach.map((to): Edit => ({ estate }) => {
    const from = estate.ssids.find(({ id }) => id === ssid!.id)!;
    return { type: 'ssid.set', ssidId: from.id, from: { reach: from.reach }, to: { reach: to } };
  }),
  fc.constantFrom('Segment 1', 'Segment 2').map((segment): Edit => ({ estate }) => {
    const from = estate.ssids.find(({ id }) => id === ssid!.id)!;
    return { type: 'ssid.set', ssidId: from.id, from: { segment: from.segment }, to: { segment } };
  }),
  fc.tuple(fc.nat(2), fc.nat(3)).map(([at, i]): Edit => (now) => {
    const of = now.sites.get(ids[at]!)!;
    const { id: segmentId, domain = null } = of.segments[i]!;
    return { type: 'segment.set', siteId: of.id, segmentId, from: { domain }, to: { domain: 'pier.example' } };
  }),
  fc.nat(3).map((i): Edit => ({ estate }) => {
    const behind = estate.rulesBefore?.at(-1)?.id ?? null;
    return { type: 'rule.add', book: 'before', behind, rules: [rule(i)] };
  }),
  fc.tuple(fc.nat(3), reach).map(([i, to]): Edit => () => {
    const accessClass = { id: sampleId(6, i), name: `Class ${i}`, segment: 'Segment 1', members: [], reach: to };
    return { type: 'class.add', accessClass };
  }),
  fc.tuple(fc.nat(3), reach).map(([i, to]): Edit => () => {
    const at = { name: `Server ${i}`, address: `198.51.100.${i}`, secret: { secret: sampleId(4, i) } };
    return { type: 'radius.add', radius: { ...USUAL_SERVER, id: sampleId(7, i), ...at, unsigned: true, reach: to } };
  }),
);
/** All that follows from intent at a site. */
const follows = ({ estate, sites }: Intent, id: string): unknown => {
  const part = sites.get(id)!;
  return [
    [...compileSite(resolve(estate, part), roster)],
    reviewOf(outcomeAt({ estate, site: part, roster, links, told: {} })),
  ];
};

test('nothing of what follows from intent differs at a site that was not touched', () => {
  let [untouched, touchedAtAll] = [0, 0];
  fc.assert(
    fc.property(fc.array(edits, { minLength: 1, maxLength: 4 }), (made) => {
      let now = start;
      for (const edit of made) {
        const result = apply(now, edit(now), device);
        if (result.ok) now = result.intent;
      }
      const touched = new Set(touchedSites(start, now));
      touchedAtAll += touched.size;
      for (const id of ids) {
        if (touched.has(id)) continue;
        untouched++;
        expect(follows(now, id)).toEqual(follows(start, id));
      }
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 120 },
  );
  expect([untouched > 20, touchedAtAll > 20]).toEqual([true, true]);
});

test('an edit of one site touches that site; of what sites share, those it reaches, before or after', () => {
  const of = (...operations: Operation[]) => {
    let now = start;
    for (const operation of operations) {
      const result = apply(now, operation, device);
      if (!result.ok) throw new Error(result.flaws[0]!.message);
      now = result.intent;
    }
    return touchedSites(start, now);
  };
  expect(of()).toEqual([]);
  const [first, second] = [site.segments[1]!, ids[1]!];
  expect(
    of({ type: 'segment.set', siteId: second, segmentId: first.id, from: { name: first.name }, to: { name: 'Deck' } }),
  ).toEqual([second]);
  const narrowed = { kind: 'sites' as const, siteIds: [ids[2]!] };
  const set = { type: 'ssid.set' as const, ssidId: ssid!.id };
  expect(of({ ...set, from: { reach: ssid!.reach }, to: { reach: narrowed } })).toContain(site.id);
  expect(of({ type: 'rule.add', book: 'after', behind: null, rules: [rule(1)] })).toEqual(ids);
  expect(
    of({
      type: 'recipe.add',
      recipe: {
        id: sampleId(5, 1),
        name: 'Radio',
        vlan: 77,
        length: 24,
        parent: null,
        leaseSeconds: 3600,
        domain: '',
        purpose: '',
      },
    }),
  ).toEqual([]);
});

test('a review says once what many devices would be told, and counts what it does not list', () => {
  const review = reviewOf(outcomeAt({ estate: start.estate, site, roster, links, told: {} }));
  expect(review.changes.map(({ name }) => name)).toEqual(roster.map(({ name }) => name));
  expect(Object.keys(review.differences).length).toBeLessThanOrEqual(review.changes.length);
  for (const { told } of review.changes) expect(review.differences[told]!.lines.length).toBeGreaterThan(0);
  expect(review.counts.error).toBe(review.findings.filter(({ severity }) => severity === 'error').length);
  expect(review.counts.error).toBeGreaterThan(0);
});
