import { expect, test } from 'vitest';
import type { DeviceDocument } from '../document';
import { resolve, type RosterDevice, type SitePart } from '../intent';
import { randomSite, sampleSite } from '../testing';
import { compiler, part } from './part';
import { PARTS } from './parts';
import { fact, type Source } from './reads';

const sample = sampleSite({ segments: 3, aps: 2, switches: 2 });
const sourceOf = (site: SitePart = sample.site, roster: readonly RosterDevice[] = sample.roster): Source => ({
  site: resolve(sample.intent.estate, site),
  roster,
});

test('a part sees what it declares and nothing else, of the site, of the device and of what was told before', () => {
  let saw: unknown;
  const nosy = part({
    name: 'nosy',
    kinds: ['switch'],
    reads: { site: ['name'], estate: ['sets'], devices: ['name'], device: ['serial'], before: ['light'] },
    tells: (seen, device, before) => {
      saw = { seen, device, before };
      return {};
    },
  });
  const [, device] = sample.roster as [RosterDevice, RosterDevice];
  nosy.of(sourceOf())(device, { light: 'off', relays: [] });
  expect(saw).toEqual({
    seen: { name: sample.site.name, estate: {}, devices: sample.roster.map(({ name }) => ({ name })) },
    device: { serial: device.serial, ports: {}, radios: {} },
    before: { light: 'off' },
  });
});

test('a fact is worked out anew only for what it reads, and one that settles holds back what comes to the same', () => {
  const worked: string[] = [];
  const count = fact(
    { site: ['ports'] },
    ({ ports }) => {
      worked.push('count');
      return { devices: Object.keys(ports).length };
    },
    { settles: true },
  );
  const words = fact({ facts: { count } }, ({ count: { devices } }) => {
    worked.push('words');
    return `${devices} devices`;
  });
  const first = words(sourceOf());
  expect(words(sourceOf({ ...sample.site, country: 'XX' }))).toBe(first);
  expect(worked).toEqual(['count', 'words']);
  words(sourceOf({ ...sample.site, ports: { ...sample.site.ports } }));
  expect(worked).toEqual(['count', 'words', 'count']);
  expect(words(sourceOf({ ...sample.site, ports: { some: {} } }))).toBe('1 devices');
});

test('an edit of one port makes one document anew; the others are the very same objects', () => {
  const compile = compiler(PARTS);
  const before = compile(sourceOf());
  const sw = sample.roster.find(({ model }) => model.startsWith('SW'))!;
  const ports = { ...sample.site.ports, [sw.id]: { '3': { poe: 'off' as const } } };
  const after = compile(sourceOf({ ...sample.site, ports }));
  const anew = sample.roster.filter(({ id }) => before.get(id) !== after.get(id)).map(({ id }) => id);
  expect(anew).toEqual([sw.id]);
});

/** Fields that each kind always has, and those that it may have. */
const ALWAYS = ['format', 'kind', 'device', 'site', 'management', 'ports'];
const SOMETIMES = ['light', 'classes'];
const OF_KIND: Readonly<Record<DeviceDocument['kind'], { readonly has: string[]; readonly may: string[] }>> = {
  gateway: {
    has: ['interfaces', 'addressServices', 'uplinks'],
    may: ['relays', 'interfaces6', 'policy', 'tunnels', 'courses', 'routes', 'overlay'],
  },
  switch: { has: ['vlans'], may: ['addressServices', 'list'] },
  ap: { has: ['ssids'], may: ['interfaces', 'addressServices', 'radios', 'tunnel'] },
};

test('what parts tell together is a document of its kind, whole and with nothing of another kind', () => {
  const seen = new Set<string>();
  for (let seed = 1; seed <= 40; seed++) {
    const { intent, site, roster } = randomSite(seed);
    for (const document of compiler(PARTS)({ site: resolve(intent.estate, site), roster }).values()) {
      const fields = Object.keys(document);
      const { has, may } = OF_KIND[document.kind];
      expect(fields).toEqual(expect.arrayContaining([...ALWAYS, ...has]));
      expect([...ALWAYS, ...SOMETIMES, ...has, ...may]).toEqual(expect.arrayContaining(fields));
      seen.add(document.kind);
    }
  }
  expect([...seen].sort()).toEqual(['ap', 'gateway', 'switch']);
});
