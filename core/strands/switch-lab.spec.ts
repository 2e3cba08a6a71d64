import { afterAll, expect, test } from 'vitest';
import { startSwitchLab, type SwitchLab } from '../../tools/lab/switch-lab.mjs';
import { resolve } from '../src/intent';
import { floodFrom, readStrands, strandsOf, type Documents } from '../src/lattice';
import { compileSite } from '../src/rollout';
import { randomSite } from '../src/testing';

const labs: SwitchLab[] = [];
afterAll(async () => {
  for (const lab of labs) await lab.stop();
});

/** A switch of somebody else's, configured with the very documents. */
async function labOf(documents: Documents, cables: readonly (readonly [string, string])[]): Promise<SwitchLab> {
  const bridges = Object.fromEntries([...documents].map(([id, { ports }]) => [id, ports]));
  const lab = await startSwitchLab({ bridges, cables });
  labs.push(lab);
  return lab;
}

const seed = Number(process.env['SEED'] ?? 1);

test.each(Array.from({ length: 16 }, (_, i) => seed * 100 + i))(
  'site %i: a frame on every segment reaches exactly the ports, with exactly the tags, that a software switch sends it to',
  async (number) => {
    const { intent, site, roster, links } = randomSite(number);
    const documents = compileSite(resolve(intent.estate, site), roster);
    const end = ({ deviceId, port }: { deviceId: string; port: string }): string => `${deviceId}.${port}`;
    const lab = await labOf(
      documents,
      links.map(({ a, b }) => [end(a), end(b)] as const),
    );
    const cabled = new Set(links.flatMap(({ a, b }) => [end(a), end(b)]));
    let [frames, heard] = [0, 0];
    for (const [deviceId, { ports }] of documents)
      for (const port of ports) {
        if (cabled.has(end({ deviceId, port: port.name }))) continue;
        for (const tag of [null, ...site.segments.map((segment) => segment.vlan), 3999]) {
          const ours = floodFrom(documents, links, { deviceId, port: port.name }, tag)
            .map((out) => `${end(out.end)}${out.tag === null ? '' : `@${out.tag}`}`)
            .sort();
          const theirs = await lab.frame(end({ deviceId, port: port.name }), tag);
          expect(ours, `from ${deviceId} port ${port.name}, tag ${tag}`).toEqual(theirs);
          frames++;
          heard += ours.length;
        }
      }
    expect(frames).toBeGreaterThan(20);
    expect(heard).toBeGreaterThan(0);
  },
);

const file = {
  format: 'iron-lattice.strands/1',
  segments: [
    { name: 'Crew', vlan: 10 },
    { name: 'Passengers', vlan: 40 },
  ],
  devices: [
    {
      name: 'bm-sw-01',
      ports: [
        { name: '1', untagged: 'Crew' },
        { name: '2', untagged: 'Passengers' },
        { name: 'u', tagged: 'all' },
      ],
    },
    {
      name: 'bm-sw-02',
      ports: [
        { name: '1', untagged: 'Crew', tagged: ['Passengers'] },
        { name: 'u', tagged: ['Crew'] },
      ],
    },
  ],
  cables: [['bm-sw-01.u', 'bm-sw-02.u']],
};

test('a file of a site says what reaches what, as the software switch does', async () => {
  const plant = readStrands(file);
  const strands = strandsOf(plant);
  expect(strands).toEqual([
    { segment: 'Crew', from: 'bm-sw-01.1', tag: null, reaches: ['bm-sw-02.1'] },
    { segment: 'Crew', from: 'bm-sw-02.1', tag: null, reaches: ['bm-sw-01.1'] },
    { segment: 'Passengers', from: 'bm-sw-01.2', tag: null, reaches: [] },
    { segment: 'Passengers', from: 'bm-sw-02.1', tag: 40, reaches: [] },
  ]);
  const lab = await labOf(plant.documents, plant.file.cables);
  for (const { from, tag, reaches } of strands) expect(await lab.frame(from, tag)).toEqual(reaches);
});

test.each([
  ['an unknown segment', { ...file, segments: [] }, 'bm-sw-01.1 names the segment “Crew”, which is not there'],
  [
    'a cable to nowhere',
    { ...file, cables: [['bm-sw-01.u', 'bm-sw-09.1']] },
    'a cable ends at “bm-sw-09.1”, which is no port of any device',
  ],
  [
    'two cables at a port',
    { ...file, cables: [...file.cables, ['bm-sw-01.1', 'bm-sw-02.u']] },
    'two cables end at “bm-sw-02.u”',
  ],
  ['another format', { ...file, format: 'x' }, '"format" must be [iron-lattice.strands/1]'],
])('a file with %s is refused with the place', (_name, value, message) => {
  expect(() => readStrands(value)).toThrow(message);
});
