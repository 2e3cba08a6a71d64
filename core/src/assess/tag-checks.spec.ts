import { expect, test } from 'vitest';
import type { Intent, Operation } from '../intent';
import { applied, sampleId, sampleSite } from '../testing';
import { consequencesOf } from '.';

const { intent: start, site, roster, links } = sampleSite({ segments: 3, aps: 3 });
const other = sampleId(9, 1);
const ssidId = sampleId(5, 0);
const aps = roster.filter(({ name }) => name.includes('-ap-')).map(({ id }) => id);
const found = (intent: Intent, code: string, facts: object) =>
  consequencesOf({ estate: intent.estate, site, roster, links, told: {}, ...facts }).findings.filter(
    (each) => each.code === code,
  );
const reach = (from: object, to: object) =>
  ({ type: 'ssid.set', ssidId, from: { reach: from }, to: { reach: to } }) as Operation;

test('a site that got the tag of an SSID, or lost it, is found, and mended by one press; nothing changes by itself', () => {
  const tagged = { kind: 'sites', siteIds: [other], tag: 'ferry' } as const;
  const elsewhere = applied(start, reach({ kind: 'estate' }, tagged));
  expect(found(elsewhere, 'shared.tag', { tags: [] })).toEqual([]);
  const [missing] = found(elsewhere, 'shared.tag', { tags: ['ferry'] });
  expect(missing).toMatchObject({
    severity: 'warning',
    message: '“SSID 1” is for sites tagged ferry, and not here yet',
  });
  const both = applied(elsewhere, ...missing!.mend!.operations);
  expect(both.estate.ssids[0]!.reach).toEqual({ ...tagged, siteIds: [other, site.id] });
  expect(found(both, 'shared.tag', { tags: ['ferry'] })).toEqual([]);
  const [left] = found(both, 'shared.tag', { tags: ['quay'] });
  expect(left).toMatchObject({ severity: 'info', message: '“SSID 1” is here without the tag ferry' });
  expect(applied(both, ...left!.mend!.operations).estate.ssids[0]!.reach).toEqual(tagged);
  // Its last site is not taken out: an SSID that reaches nobody says nothing.
  const alone = applied(start, reach({ kind: 'estate' }, { ...tagged, siteIds: [site.id] }));
  expect(found(alone, 'shared.tag', { tags: [] })[0]!.mend).toBeNull();
});

test('a route of many sites for those with a tag is found and mended alike', () => {
  const reach = { kind: 'sites', siteIds: [other], tag: 'ferry' } as const;
  const route = {
    id: sampleId(6, 0),
    name: 'Works',
    prefix: '172.20.0.0/16',
    via: { kind: 'nowhere' as const },
    reach,
  };
  const routed = applied(start, { type: 'sharedRoute.add', route });
  const [missing] = found(routed, 'shared.tag', { tags: ['ferry'] });
  expect(missing).toMatchObject({
    message: 'The route “Works” is for sites tagged ferry, and not here yet',
    place: { kind: 'route', id: route.id },
  });
  const both = applied(routed, ...missing!.mend!.operations);
  expect(both.estate.routes![0]!.reach).toEqual({ ...reach, siteIds: [other, site.id] });
  expect(found(both, 'shared.tag', { tags: ['ferry'] })).toEqual([]);
});

test('APs that got the tag by which others were chosen are named, and send it by one press', () => {
  const to = { aps: { [site.id]: [aps[0]!] }, apTags: { [site.id]: 'deck' } };
  const chosen = applied(start, { type: 'ssid.set', ssidId, from: { aps: {}, apTags: {} }, to });
  const tags = (...of: readonly number[]) => ({ deviceTags: Object.fromEntries(of.map((i) => [aps[i]!, ['deck']])) });
  expect(found(chosen, 'wireless.ap-tag', tags(0))).toEqual([]);
  const [more] = found(chosen, 'wireless.ap-tag', tags(0, 2));
  expect(more).toMatchObject({ severity: 'warning', reason: 'Tagged, and not sending it: x-ap-03.' });
  expect(applied(chosen, ...more!.mend!.operations).estate.ssids[0]!.aps).toEqual({ [site.id]: [aps[0]!, aps[2]!] });
  const [moved] = found(chosen, 'wireless.ap-tag', tags(1));
  expect(moved!.reason).toBe('Tagged, and not sending it: x-ap-02. Sending it without the tag: x-ap-01.');
  expect(found(chosen, 'wireless.ap-tag', {})[0]).toMatchObject({ severity: 'info', mend: null });
});
