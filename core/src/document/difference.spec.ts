import fc from 'fast-check';
import { expect, test } from 'vitest';
import { canonicalJson, differenceOf, tallyOf, type DeviceDocument } from '.';

const GATEWAY = {
  format: 'iron-lattice.document/1',
  kind: 'gateway',
  device: { name: 'a-gw-01', serial: 'GW-0001', model: 'GW-4' },
  site: { name: 'Pier', country: 'IE', timeZone: 'Europe/Dublin' },
  management: { vlan: 1 },
  ports: [{ name: '1', untagged: 1, tagged: [10, 20] }],
  interfaces: [{ vlan: 1, name: 'Management', address: '10.5.1.1/24' }],
  addressServices: [],
  uplinks: [{ port: 'wan', method: 'dhcp', translate: true }],
} as const satisfies DeviceDocument;
const with_ = (more: object): DeviceDocument => ({ ...GATEWAY, ...more });
const rule = (id: string, name: string, more: object = {}) => ({
  id,
  name,
  verdict: 'allow',
  from: ['any'],
  to: ['any'],
  services: [{ protocol: 'tcp', ports: ['443'] }],
  ...more,
});
const policed = (...rules: object[]) => with_({ policy: { otherwise: 'allow', rules } });
const lines = (before: DeviceDocument | null, after: DeviceDocument) =>
  differenceOf(before, after).lines.map(({ op, path, before: was, after: is }) => [op, path.join(' › '), was, is]);

test('a tag more is one line, a changed value one line with both', () => {
  const ports = [{ name: '1', untagged: 10, tagged: [10, 20, 30] }];
  expect(lines(GATEWAY, with_({ ports }))).toEqual([
    ['add', 'ports › 1 › tagged', null, '30'],
    ['change', 'ports › 1 › untagged', '1', '10'],
  ]);
});

test('services are lines as one types them; a type of ICMP that changes shows', () => {
  const icmp = (type: number) =>
    policed(rule('r', 'Ping', { services: [{ protocol: 58, type }, { protocol: 'any' }] }));
  expect(lines(icmp(128), icmp(129))).toEqual([
    ['remove', 'policy › rules › Ping › services', '58 128', null],
    ['add', 'policy › rules › Ping › services', null, '58 129'],
  ]);
});

test('two rules of one name are two, and each is told by what it is', () => {
  const before = policed(rule('a', 'Web'), rule('b', 'Web', { verdict: 'deny' }));
  const after = policed(rule('a', 'Web', { verdict: 'deny' }), rule('b', 'Web'));
  expect(lines(before, after)).toEqual([
    ['change', 'policy › rules › Web › verdict', 'allow', 'deny'],
    ['change', 'policy › rules › Web (2) › verdict', 'deny', 'allow'],
  ]);
});

test('a radio is told by its band: a channel that changes is a line', () => {
  const air = (channel: number) =>
    with_({
      radios: [
        { band: '2.4', channel: 1 },
        { band: '5', channel },
      ],
    });
  expect(lines(air(36), air(100))).toEqual([['change', 'radios › 5 › channel', '36', '100']]);
});

test.each([
  ['objects that nothing tells apart', { beams: [{ width: 3 }, { width: 4 }] }],
  ['objects beside plain values', { beams: [{ name: 'a' }, 4] }],
  ['lists of lists', { beams: [{ name: 'a' }, ['b']] }],
])('a list of %s is refused rather than shown wrong', (_name, more) => {
  expect(() => differenceOf(GATEWAY, with_(more))).toThrow(RangeError);
});

test('a document that differs in anything but ids and the order of sets shows a line, and one that does not shows none', () => {
  const value = fc.oneof(fc.nat(5), fc.constantFrom('a', 'b', 'c'));
  const element = fc.record(
    { name: fc.constantFrom('x', 'y', 'z'), speed: value, tagged: fc.array(fc.nat(4), { maxLength: 3 }) },
    { requiredKeys: ['name'] },
  );
  const anything = fc.record(
    { ports: fc.array(element, { maxLength: 4 }), classes: fc.array(element, { maxLength: 3 }), light: value },
    { requiredKeys: ['ports'] },
  );
  /** Sets have no order, and lists that are told by name have none of names that differ. */
  const plain = ({ ports, ...rest }: { ports: object[] }): string => {
    const sorted = (list: object[] = []) => {
      const met = new Map<string, number>();
      return list
        .map((each) => {
          const { name, tagged = [], ...more } = each as { name: string; tagged?: number[] };
          const count = (met.get(name) ?? 0) + 1;
          met.set(name, count);
          return canonicalJson({ name: `${name} ${count}`, tagged: [...new Set(tagged)].sort(), ...more });
        })
        .sort();
    };
    return JSON.stringify([
      sorted(ports),
      sorted((rest as { classes?: object[] }).classes),
      (rest as { light?: unknown }).light ?? null,
    ]);
  };
  fc.assert(
    fc.property(anything, anything, (a, b) => {
      const same = plain(a) === plain(b);
      const { lines, ...tally } = differenceOf(with_(a), with_(b));
      expect(lines.length === 0).toBe(same);
      expect(tallyOf(with_(a), with_(b))).toEqual(tally);
      const { lines: _all, ...whole } = differenceOf(null, with_(b));
      expect(tallyOf(null, with_(b))).toEqual(whole);
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 400 },
  );
});

test('what stands beside an element of a list says nothing of it: lines are the same whatever else is in the list', () => {
  const value = fc.oneof(fc.nat(3), fc.constantFrom('a', 'b'));
  const inner = fc.array(fc.record({ band: fc.constantFrom('2.4', '5'), power: value }), { maxLength: 2 });
  const element = fc.record(
    { speed: value, tagged: fc.array(fc.nat(3), { maxLength: 2 }), inner },
    { requiredKeys: [] },
  );
  const of = (list: object[]) => with_({ ssids: list.map((each, i) => ({ name: `n${i}`, ...each })) });
  fc.assert(
    fc.property(fc.array(fc.tuple(element, element, fc.boolean()), { minLength: 1, maxLength: 5 }), (pairs) => {
      const before = pairs.map(([a]) => a);
      const after = pairs.map(([a, b, changes]) => (changes ? b : a));
      const found = lines(of(before), of(after));
      // With one more on one side nothing is left out beforehand.
      const more = lines(of(before), of([...after, { speed: 9 }]));
      const extra = `ssids › n${pairs.length}`;
      expect(more.filter(([, path]) => !String(path).startsWith(extra))).toEqual(found);
      expect(found.every(([, path]) => pairs[Number(/n(\d)/.exec(String(path))![1])]![2])).toBe(true);
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 400 },
  );
});
