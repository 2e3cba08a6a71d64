import fc from 'fast-check';
import { expect, test } from 'vitest';
import { AXES, PacketSpace, SERVICE_END, type Box, type Coordinate, type Point, type Span } from './space';

const seed = Number(process.env['SEED'] ?? 1);
/** A corner of the whole in which packets can be counted one by one: 4 × 4 addresses, services around the edges, 3 ports. */
const SERVICES = [0, 1, 65_535, 65_536, 131_071, 131_072, 131_080, SERVICE_END - 1];
const [ADDRESSES, PORTS] = [
  [0, 1, 2, 3],
  [0, 1, 2],
];

const spans = (values: readonly number[], end: number): fc.Arbitrary<Span[] | null> =>
  fc.option(
    fc.uniqueArray(fc.constantFrom(...values, end), { minLength: 2, maxLength: 6 }).map((cuts) => {
      const sorted = [...cuts].sort((a, b) => a - b);
      return sorted.flatMap((first, i) =>
        i % 2 === 0 && sorted[i + 1] !== undefined ? [{ first, end: sorted[i + 1]! }] : [],
      );
    }),
    { freq: 3 },
  );
const box: fc.Arbitrary<Box> = fc
  .tuple(spans(ADDRESSES, 4), spans(ADDRESSES, 4), spans(SERVICES, SERVICE_END), spans(PORTS, 3))
  // Only services with ports have source ports.
  .map(([source, destination, service, sourcePort]) => {
    const ported = sourcePort ? (service ?? [{ first: 0, end: 131_072 }]).filter(({ end }) => end <= 131_072) : service;
    return ported?.length === 0 ? [source, destination, service, null] : [source, destination, ported, sourcePort];
  });
const within = (each: Box, point: Point): boolean =>
  each.every((list, axis) => !list || list.some(({ first, end }) => point[axis]! >= first && point[axis]! < end));
const points: Point[] = ADDRESSES.flatMap((source) =>
  ADDRESSES.flatMap((destination) =>
    SERVICES.flatMap((service) =>
      (service < 131_072 ? PORTS : [0]).map((port): Point => [source, destination, service, port]),
    ),
  ),
);

test('sets of packets are united, cut and taken away as looking at each packet does', () => {
  fc.assert(
    fc.property(
      fc.array(box, { minLength: 1, maxLength: 5 }),
      fc.array(box, { minLength: 1, maxLength: 5 }),
      (a, b) => {
        const space = new PacketSpace(4);
        const set = (boxes: readonly Box[]) =>
          boxes.reduce((sum, each) => space.unite(sum, space.box(each)), space.none);
        const [one, other] = [set(a), set(b)];
        const holds = (boxes: readonly Box[], point: Point): boolean => boxes.some((each) => within(each, point));
        for (const point of points) {
          const [x, y] = [holds(a, point), holds(b, point)];
          expect(space.at(one, point)).toBe(Number(x));
          expect(space.at(space.unite(one, other), point)).toBe(Number(x || y));
          expect(space.at(space.intersect(one, other), point)).toBe(Number(x && y));
          expect(space.at(space.subtract(one, other), point)).toBe(Number(x && !y));
        }
      },
    ),
    { seed, numRuns: 60 },
  );
});

test('equal sets are the same thing however they were made, and obey the laws of sets', () => {
  fc.assert(
    fc.property(box, box, box, (a, b, c) => {
      const space = new PacketSpace(4);
      const [x, y, z] = [space.box(a), space.box(b), space.box(c)];
      const { unite, intersect, subtract, none, all } = space;
      expect(unite(x, y)).toBe(unite(y, x));
      expect(intersect(x, intersect(y, z))).toBe(intersect(intersect(x, y), z));
      expect(intersect(x, unite(y, z))).toBe(unite(intersect(x, y), intersect(x, z)));
      expect(subtract(x, unite(y, z))).toBe(intersect(subtract(x, y), subtract(x, z)));
      expect(subtract(all, subtract(all, x))).toBe(x);
      expect(unite(subtract(x, y), intersect(x, y))).toBe(x);
      expect(intersect(x, subtract(all, x))).toBe(none);
      expect(unite(x, none)).toBe(x);
    }),
    { seed },
  );
});

test('packets are counted as one by one, and an example is one of them', () => {
  fc.assert(
    fc.property(fc.array(box, { minLength: 1, maxLength: 6 }), (boxes) => {
      const space = new PacketSpace(4);
      // Each of the services alone, so that there are as many packets as points.
      const corner = space.box([
        [{ first: 0, end: 4 }],
        [{ first: 0, end: 4 }],
        merged(SERVICES.map((first) => ({ first, end: first + 1 }))),
        null,
      ]);
      const fewPorts = space.unite(
        space.intersect(corner, space.box([null, null, [{ first: 0, end: 131_072 }], [{ first: 0, end: 3 }]])),
        space.intersect(corner, space.box([null, null, [{ first: 131_072, end: SERVICE_END }], null])),
      );
      const set = boxes.reduce((sum, each) => space.unite(sum, space.box(each)), space.none);
      const small = space.intersect(set, fewPorts);
      const wanted = points.filter((point) => boxes.some((each) => within(each, point)));
      expect(space.count(small)).toBe(BigInt(wanted.length));
      const example = space.example(small);
      if (wanted.length === 0) expect(example).toBeNull();
      else expect(space.at(small, example!)).toBe(1);
    }),
    { seed },
  );
});

const merged = (list: readonly Span[]): Span[] => {
  const out: Span[] = [];
  for (const span of list) {
    const open = out.at(-1);
    if (open?.end === span.first) out[out.length - 1] = { first: open.first, end: span.end };
    else out.push(span);
  }
  return out;
};

test('the whole of each version is what its addresses, services and ports make', () => {
  const services = 2n * 65_536n * 65_536n + BigInt(SERVICE_END - 131_072);
  expect(new PacketSpace(4).count(-2)).toBe((1n << 64n) * services);
  expect(new PacketSpace(6).count(-2)).toBe((1n << 256n) * services);
  const six = new PacketSpace(6);
  const top: Coordinate = (1n << 128n) - 1n;
  const last = six.box([[{ first: top, end: top + 1n }], null, null, null]);
  expect(six.example(six.subtract(six.all, last))).toEqual([0n, 0n, 0, 0]);
  expect(six.count(last)).toBe((1n << 128n) * services);
  expect(AXES).toHaveLength(4);
});
