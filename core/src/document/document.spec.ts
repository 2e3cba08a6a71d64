import { expect, test } from 'vitest';
import { resolve } from '../intent';
import { compileSite } from '../rollout';
import { sampleSite } from '../testing';
import { canonicalJson, differenceOf, hashOf, hashOfDocument, isTold, secretsOf } from '.';

test('canonical JSON is that of the example in RFC 8785 §3.2.2 and §3.2.3', () => {
  const value = {
    numbers: [Number('333333333.33333329'), 1e30, 4.5, 2e-3, 0.000000000000000000000000001],
    string: '\u20ac$\u000F\u000aA\'\u0042\u0022\u005c\\"/',
    literals: [null, true, false],
  };
  expect(canonicalJson(value)).toBe(
    '{"literals":[null,true,false],"numbers":[333333333.3333333,1e+30,4.5,0.002,1e-27],"string":"€$\\u000f\\nA\'B\\"\\\\\\\\\\"/"}',
  );
  expect(() => canonicalJson(undefined)).toThrow(RangeError);
});

test('the hash is the SHA-256 of those bytes, whatever the order of keys', () => {
  // sha256 of {"a":1,"b":2}
  expect(hashOf({ b: 2, a: 1 })).toBe('43258cff783fe7036d8a43033f830adfc60ec037382473548ac742b888292777');
});

test('the hash of a document is that of its canonical JSON, for devices that share their lists too', () => {
  const { intent, site, roster } = sampleSite({ segments: 5, aps: 4 });
  for (const document of compileSite(resolve(intent.estate, site), roster).values()) {
    expect(hashOfDocument(document)).toBe(hashOf(document));
    const read = JSON.parse(JSON.stringify(document)) as typeof document;
    expect(isTold(document, read)).toBe(true);
    expect(isTold(read, { ...document, schema: 0 } as never)).toBe(false);
  }
});

test('a document that is what a device was told has that hash, and is told from another by it', () => {
  const { intent, site, roster } = sampleSite({ segments: 2, aps: 1 });
  const [document, other] = [...compileSite(resolve(intent.estate, site), roster).values()];
  const read = JSON.parse(JSON.stringify(document)) as typeof document;
  expect(isTold(document!, read!, hashOf(read))).toBe(true);
  expect(hashOfDocument(document!)).toBe(hashOf(document));
  expect(isTold(document!, other!, hashOf(other))).toBe(false);
});

test('devices with one list each hear what differs for themselves', () => {
  const { intent, site, roster } = sampleSite({ segments: 3, aps: 2 });
  const aps = [...compileSite(resolve(intent.estate, site), roster).values()].filter(({ kind }) => kind === 'ap');
  const [one, two] = aps as [(typeof aps)[0], (typeof aps)[0]];
  const ports = one.ports.map((port) => ({ ...port, tagged: [...port.tagged, 30] }));
  const lines = (before: typeof one, after: typeof one) => differenceOf(before, after).lines;
  const first = lines(one, { ...one, ports });
  expect(first).not.toEqual([]);
  // The same list after another, and beside another field that differs.
  expect(lines({ ...one, ports: [] }, { ...one, ports })).not.toEqual(first);
  expect(lines(one, { ...one, ports })).toEqual(first);
  const renamed = { ...two, ports, hostname: 'elsewhere' } as never;
  expect(lines({ ...two, ports: one.ports }, renamed)).toEqual(expect.arrayContaining([...first]));
  expect(lines({ ...two, ports: one.ports }, renamed).length).toBeGreaterThan(first.length);
});

test('one tag more reads as one line more', () => {
  const { intent, site, roster } = sampleSite({ segments: 3, aps: 1 });
  const before = compileSite(resolve(intent.estate, site), roster).get(roster[1]!.id)!;
  const ports = before.ports.map((port) => (port.name === '9' ? { ...port, tagged: [...port.tagged, 20] } : port));
  const after = { ...before, ports } as typeof before;
  expect(differenceOf(before, after)).toEqual({
    lines: [{ op: 'add', path: ['ports', '9', 'tagged'], before: null, after: '20' }],
    added: 1,
    removed: 0,
  });
  expect(differenceOf(after, before)).toMatchObject({ added: 0, removed: 1 });
});

test('a changed value counts as a line taken and a line added; nothing to compare with means all is new', () => {
  const { intent, site, roster } = sampleSite({ segments: 2, aps: 1 });
  const [gateway] = roster;
  const before = compileSite(resolve(intent.estate, site), roster).get(gateway!.id)!;
  const after = { ...before, device: { ...before.device, name: 'other' } };
  expect(differenceOf(before, after)).toEqual({
    lines: [{ op: 'change', path: ['device', 'name'], before: 'x-gw-01', after: 'other' }],
    added: 1,
    removed: 1,
  });
  expect(differenceOf(null, before).removed).toBe(0);
  expect(differenceOf(null, before).lines.map((line) => line.path.join(' '))).toContain('addressServices 10 subnet');
});

test('a document names its secrets by reference, each once', () => {
  const { intent, site, roster } = sampleSite({ segments: 3, aps: 1 });
  const documents = compileSite(resolve(intent.estate, site), roster);
  expect(secretsOf(documents.get(roster.at(-1)!.id)!)).toEqual(
    intent.estate.ssids.map((ssid) => ssid.passphrase!.secret),
  );
  expect(secretsOf(documents.get(roster[0]!.id)!)).toEqual([]);
});
