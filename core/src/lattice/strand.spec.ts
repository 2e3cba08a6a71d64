import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { DeviceDocument, PortDocument } from '../document';
import type { Link } from '../intent';
import { cross, traceStrand, type Documents } from './strand';

const seed = Number(process.env['SEED'] ?? 1);
const VLANS = [1, 2];

/** Any port: nothing, or one of two VLANs untagged, and any of them tagged. */
const anyPort = fc.tuple(fc.constantFrom(null, ...VLANS), fc.subarray(VLANS)).map(([untagged, tagged]) => ({
  untagged,
  tagged: tagged.filter((vlan) => vlan !== untagged),
}));

interface Plant {
  readonly documents: Documents;
  readonly links: readonly Link[];
}

/** Up to six switches cabled at random, the last of them a gateway with an interface in VLAN 2. */
const anyPlant: fc.Arbitrary<Plant> = fc.integer({ min: 2, max: 6 }).chain((count) =>
  fc
    .array(fc.tuple(fc.nat(count - 1), fc.nat(count - 1), anyPort, anyPort), { minLength: 1, maxLength: 9 })
    .map((cables) => {
      const ports = Array.from({ length: count }, (): PortDocument[] => []);
      const links: Link[] = [];
      for (const [a, b, near, far] of cables) {
        if (a === b) continue;
        const name = String(links.length);
        ports[a]!.push({ name, ...near });
        ports[b]!.push({ name, ...far });
        links.push({ a: { deviceId: String(a), port: name }, b: { deviceId: String(b), port: name } });
      }
      const documents = new Map(
        ports.map((own, i): [string, DeviceDocument] => {
          const common = {
            format: 'iron-lattice.document/1' as const,
            device: { name: `d${i}`, serial: `S${i}`, model: 'SW-8P' },
            site: { name: '', country: '', timeZone: '' },
            management: { vlan: 1 },
            ports: own,
          };
          if (i < count - 1) return [String(i), { ...common, kind: 'switch', vlans: [] }];
          const interfaces = [{ vlan: 2, name: 'two', address: '10.0.2.1/24' }];
          return [String(i), { ...common, kind: 'gateway', interfaces, addressServices: [], uplinks: [] }];
        }),
      );
      return { documents, links };
    }),
);

/** The definition, frame by frame: flood from a device and see whether a gateway’s interface hears it, and how soon. */
function floodLength({ documents, links }: Plant, start: string, vlan: number): number | null {
  let ring = [{ at: start, vlan }];
  const seen = new Set([`${start} ${vlan}`]);
  for (let hops = 0; ring.length > 0; hops++) {
    for (const { at, vlan: now } of ring) {
      const document = documents.get(at)!;
      if (document.kind === 'gateway' && document.interfaces.some((face) => face.vlan === now)) return hops;
    }
    ring = ring.flatMap(({ at, vlan: now }) =>
      links.flatMap((link) =>
        [
          [link.a, link.b],
          [link.b, link.a],
        ].flatMap(([near, far]) => {
          if (near!.deviceId !== at) return [];
          const out = documents.get(at)!.ports.find((port) => port.name === near!.port)!;
          const entry = documents.get(far!.deviceId)!.ports.find((port) => port.name === far!.port)!;
          const sends = out.untagged === now || out.tagged.includes(now);
          const arrives =
            out.untagged === now ? entry.untagged : entry.tagged.includes(now) || entry.untagged === now ? now : null;
          if (!sends || arrives === null || seen.has(`${far!.deviceId} ${arrives}`)) return [];
          seen.add(`${far!.deviceId} ${arrives}`);
          return [{ at: far!.deviceId, vlan: arrives }];
        }),
      ),
    );
  }
  return null;
}

test('a strand is whole exactly when a flood gets there, and then takes the fewest hops', () => {
  fc.assert(
    fc.property(anyPlant, fc.constantFrom(...VLANS), (plant, vlan) => {
      const strand = traceStrand(plant.documents, plant.links, '0', vlan);
      const flood = floodLength(plant, '0', vlan);
      expect(strand.state === 'whole').toBe(flood !== null);
      if (strand.state === 'whole') expect(strand.hops).toHaveLength(flood!);
    }),
    { seed, numRuns: 2000 },
  );
});

test('closing the gaps of a broken strand makes it whole', () => {
  fc.assert(
    fc.property(anyPlant, (plant) => {
      const strand = traceStrand(plant.documents, plant.links, '0', 2);
      if (strand.state !== 'broken') return;
      const documents = new Map(plant.documents);
      for (const { end, vlan, as } of strand.gaps) {
        const document = documents.get(end.deviceId)!;
        const ports = document.ports.map((port) => {
          if (port.name !== end.port) return port;
          return as === 'tagged' ? { ...port, tagged: [...port.tagged, vlan] } : { ...port, untagged: vlan };
        });
        documents.set(end.deviceId, { ...document, ports });
      }
      expect(traceStrand(documents, plant.links, '0', 2).state).toBe('whole');
    }),
    { seed, numRuns: 2000 },
  );
});

test('hops follow one another, and stop before the first gap', () => {
  fc.assert(
    fc.property(anyPlant, (plant) => {
      const strand = traceStrand(plant.documents, plant.links, '0', 2);
      if (strand.state === 'no-way') return;
      let at = '0';
      for (const hop of strand.hops) {
        expect(hop.from.deviceId).toBe(at);
        at = hop.to.deviceId;
      }
      if (strand.state === 'broken') expect(strand.gaps.length).toBeGreaterThan(0);
    }),
    { seed, numRuns: 1000 },
  );
});

test.each([
  [
    'untagged into its own VLAN',
    { untagged: 1, tagged: [] },
    { untagged: 1, tagged: [] },
    { as: 'untagged', leaves: true, enters: true, vlan: 1 },
  ],
  [
    'untagged into another',
    { untagged: 1, tagged: [] },
    { untagged: 2, tagged: [] },
    { as: 'untagged', leaves: true, enters: true, vlan: 2 },
  ],
  [
    'untagged into nothing',
    { untagged: 1, tagged: [] },
    { untagged: null, tagged: [1] },
    { as: 'untagged', leaves: true, enters: false, vlan: 1 },
  ],
  [
    'tagged into a trunk',
    { untagged: 2, tagged: [1] },
    { untagged: 2, tagged: [1] },
    { as: 'tagged', leaves: true, enters: true, vlan: 1 },
  ],
  [
    'tagged where it is not wanted',
    { untagged: null, tagged: [1] },
    { untagged: 2, tagged: [] },
    { as: 'tagged', leaves: true, enters: false, vlan: 1 },
  ],
  [
    'not sent at all',
    { untagged: 2, tagged: [] },
    { untagged: 2, tagged: [1] },
    { as: 'tagged', leaves: false, enters: true, vlan: 1 },
  ],
  [
    'not sent, wanted untagged',
    { untagged: null, tagged: [] },
    { untagged: 1, tagged: [] },
    { as: 'untagged', leaves: false, enters: true, vlan: 1 },
  ],
])('VLAN 1 crosses a cable %s', (_name, near, far, wanted) => {
  expect(cross({ name: 'a', ...near }, { name: 'b', ...far }, 1)).toEqual(wanted);
});

test('a cable to a port we do not know is no way', () => {
  expect(cross(undefined, { name: 'b', untagged: 1, tagged: [] }, 1)).toBeNull();
});
