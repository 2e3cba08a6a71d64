import { describe, expect, test } from 'vitest';
import { walk } from '../bench';
import { resolve, type Link, type MeshEntry, type SitePart } from '../intent';
import { compileSite } from '../rollout';
import { sampleId, sampleSite } from '../testing';
import type { AirFacts } from './air-facts';
import { consequencesOf, findingsOf } from './consequences';
import { linksAs, meshTree } from './mesh-tree';

const sample = sampleSite({ segments: 2, aps: 4, switches: 1 });
const [one, two, three, four] = sample.roster.filter(({ model }) => model.startsWith('AP')).map(({ id }) => id) as [
  string,
  string,
  string,
  string,
];
const nameOf = (id: string): string => sample.roster.find((device) => device.id === id)!.name;
const mesh = { when: 'never', band: '5', hops: 2, key: { secret: sampleId(8, 1) } } as const;
const saying = (meshAps: Readonly<Record<string, MeshEntry>>, more: Partial<SitePart> = {}): SitePart => ({
  ...sample.site,
  mesh,
  meshAps,
  ...more,
});
const always = { when: 'always' } as const;
const near = (...pairs: [string, string, number][]): AirFacts['near'] =>
  pairs.map(([a, b, loss]) => ({ band: '5' as const, a, b, loss }));
/** The links once the cable of some APs is pulled, and others hang by radio. */
const links = (pulled: readonly string[], hung: readonly [child: string, parent: string][] = []): Link[] => [
  ...sample.links.filter(({ a, b }) => ![a, b].some(({ deviceId }) => pulled.includes(deviceId))),
  ...hung.map(([child, parent]): Link => {
    const [a, b] = [child, parent].sort() as [string, string];
    return { a: { deviceId: a, port: 'mesh' }, b: { deviceId: b, port: 'mesh' }, hangs: a === child ? 'a' : 'b' };
  }),
];
const treeOf = (site: SitePart, given: readonly Link[], heard: AirFacts['near']) =>
  meshTree(site, sample.roster, given, heard);
const findings = (site: SitePart, given: readonly Link[], heard: AirFacts['near'] = []) =>
  findingsOf({
    estate: sample.intent.estate,
    site,
    roster: sample.roster,
    links: given,
    air: { near: heard, strangers: [] },
  }).filter(({ code }) => code.startsWith('mesh.') || code === 'lattice.not-carried');

describe('who hangs on whom', () => {
  test('an AP takes the parent over which a frame is the shortest on the air, hop by hop', () => {
    // Four hears one badly and three well; by three it is two hops, and faster all the same.
    const heard = near([four, one, 98], [four, three, 70], [three, one, 70], [three, two, 90]);
    const site = saying({ [three]: always, [four]: always });
    const { hangs, loose } = treeOf(site, links([three, four]), heard);
    expect(loose).toEqual([]);
    expect(hangs.get(three)).toMatchObject({ parentId: one, hops: 1, signal: -47 });
    expect(hangs.get(four)).toMatchObject({ parentId: three, hops: 2 });
    // Hops of one band share its air: half is left behind two that are as fast.
    expect(hangs.get(four)!.way! / hangs.get(four)!.link!).toBeCloseTo(0.5, 1);
    expect(hangs.get(three)!.way).toBeCloseTo(hangs.get(three)!.link!, 5);
    const few = treeOf({ ...site, mesh: { ...mesh, hops: 1 } }, links([three, four]), heard);
    expect(few.hangs.get(four)).toMatchObject({ parentId: one, hops: 1, signal: -75 });
  });

  test('one stays where it hangs while it may, be it never scanned', () => {
    const site = saying({ [four]: always });
    const heard = near([four, one, 60]);
    expect(treeOf(site, links([four], [[four, two]]), heard).hangs.get(four)).toMatchObject({
      parentId: two,
      signal: null,
    });
    const other = saying({ [four]: { ...always, parents: [one] } });
    expect(treeOf(other, links([four], [[four, two]]), heard).hangs.get(four)!.parentId).toBe(one);
  });

  test('while a cable holds one that hangs when it fails does not; who would take it then is known', () => {
    const site = saying({ [four]: { when: 'fallback' }, [three]: always });
    const heard = near([four, three, 60], [three, four, 60], [four, one, 80], [three, one, 85]);
    const { hangs, standby } = treeOf(site, links([three]), heard);
    expect(hangs.has(four)).toBe(false);
    // Three hangs on four, so that it is no help to it.
    expect(hangs.get(three)!.parentId).toBe(four);
    expect(standby.get(four)!.parentId).toBe(one);
    expect(treeOf(site, links([three, four]), heard).hangs.get(four)!.parentId).toBe(one);
  });

  test('links follow: by radio instead of a cable that is not used', () => {
    const site = saying({ [four]: always });
    const tree = treeOf(site, sample.links, near([four, one, 60]));
    const made = linksAs(tree, sample.roster, sample.links);
    expect(made).toHaveLength(sample.links.length);
    expect(made.filter(({ hangs }) => hangs)).toMatchObject([
      { a: { deviceId: one }, b: { deviceId: four }, hangs: 'b' },
    ]);
    expect(linksAs(treeOf(sample.site, sample.links, []), sample.roster, sample.links)).toBe(sample.links);
  });
});

describe('what follows', () => {
  const heard = near([four, one, 60], [three, one, 85], [three, four, 70]);

  test('strands and walks lead over the radio, and what the other lacks is found there', () => {
    const site = saying({ [four]: always });
    expect(findings(site, links([four]), heard)).toEqual([]);
    const resolved = resolve(sample.intent.estate, site);
    const documents = compileSite(resolved, sample.roster);
    const tree = treeOf(site, links([four]), heard);
    const [ssid] = resolved.ssids;
    const probe = { apId: four, ssidId: ssid!.id, band: '5' as const, knowsPassphrase: true };
    const made = linksAs(tree, sample.roster, links([four]));
    const { steps } = walk(documents, made, probe, { taken: new Set(), uplinks: new Map(), minute: 0 });
    expect(steps.map(({ title }) => title)).toContain(`By radio to ${nameOf(one)}`);
    const port = links([]).flatMap(({ a, b }) => (a.deviceId === one ? [b] : b.deviceId === one ? [a] : []))[0]!;
    const narrow = {
      ...site.ports,
      [port.deviceId]: { ...site.ports[port.deviceId], [port.port]: { untagged: site.managementId, tagged: [] } },
    };
    expect(findings({ ...site, ports: narrow }, links([four]), heard).map(({ code }) => code)).toContain(
      'lattice.not-carried',
    );
  });

  test('one that nobody takes is a fault, for the reason that there is', () => {
    const text = (site: SitePart, near = heard) => {
      const [found] = findings(site, links([four]), near).filter(({ code }) => code === 'mesh.nobody');
      return found?.reason;
    };
    expect(text(saying({ [four]: { ...always, parents: [two] } }))).toContain('Scan the air');
    expect(text(saying({ [four]: always }, { radios: { [four]: { '5': { on: false } } } }))).toBe(
      'Its 5 GHz radio is off.',
    );
    expect(
      text(saying({ [four]: { ...always, parents: [one] } }, { radios: { [one]: { '5': { on: false } } } })),
    ).toContain('none of them sends there');
    expect(text(saying({ [four]: always }), near([four, one, 110]))).toContain('-87 dBm');
    expect(text(saying({ [four]: { ...always, hops: 1, parents: [three] }, [three]: always }))).toContain(
      'more than 0 hops',
    );
  });

  test('a draft that takes one off its only parent says so, with the way back', () => {
    const now = links([four], [[four, one]]);
    const [cut] = findings(saying({}), now, heard).filter(({ severity }) => severity === 'error');
    expect(cut).toMatchObject({ code: 'mesh.cut', place: { kind: 'mesh', id: four } });
    const [operation] = cut!.mend!.operations;
    expect(operation).toMatchObject({ type: 'mesh.set', to: { when: 'fallback' } });
    const off = saying({ [four]: always }, { radios: { [one]: { '5': { on: false } } } });
    expect(findings(off, now, near([four, one, 60])).map(({ code }) => code)).toContain('mesh.nobody');
  });

  test('weak links, channels shared with radar, and cables without anybody behind them are told', () => {
    const weak = findings(saying({ [three]: always }), links([three]), near([three, one, 98]));
    expect(weak).toMatchObject([{ code: 'mesh.weak', severity: 'warning' }]);
    const on100 = { bands: { '5': { radar: true } }, radios: { [one]: { '5': { channel: 100 } } } };
    expect(findings(saying({ [four]: always }, on100), links([four]), heard).map(({ code }) => code)).toContain(
      'mesh.radar',
    );
    const lone = findings(saying({ [two]: { when: 'fallback' } }), links([]), heard);
    expect(lone).toMatchObject([{ code: 'mesh.no-standby', severity: 'info' }]);
  });

  test('an AP is told after the one it starts to hang on and before the one it leaves; what is away at one is away behind it', () => {
    const told = (site: SitePart) =>
      Object.fromEntries(compileSite(resolve(sample.intent.estate, site), sample.roster));
    const after = (before: SitePart, site: SitePart, given: readonly Link[]) =>
      consequencesOf({
        estate: sample.intent.estate,
        site,
        roster: sample.roster,
        links: given,
        told: told(before),
        air: { near: heard, strangers: [] },
      }).changes;
    const order = (changes: ReturnType<typeof after>) => changes.map(({ deviceId }) => deviceId);
    const hung = saying({ [one]: { ...always, parents: [four] } });
    expect(order(after(sample.site, hung, sample.links))).toEqual([four, one]);
    const back = order(after(hung, saying({}), links([], [[one, four]])));
    expect(back).toEqual([one, four]);
    const moved = saying({ [one]: { ...always, parents: [four] } }, { radios: { [four]: { '5': { channel: 44 } } } });
    const change = after(hung, moved, links([one], [[one, four]])).find(({ deviceId }) => deviceId === four);
    expect(change!.outages).toContainEqual({ what: 'branch', where: [nameOf(one)], vlans: [10], seconds: 30 });
  });
});
