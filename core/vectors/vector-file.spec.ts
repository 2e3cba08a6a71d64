import { expect, test } from 'vitest';
import { ADAPTER } from './adapter';
import own from './own.json';
import { differ, MORE, runVectors, type VectorFile } from './vector-file';

test('our own vectors of prefixes, VLANs, rules and routes all pass', () => {
  const tallies = runVectors(own as VectorFile, ADAPTER);
  const failures = [...tallies].flatMap(([name, tally]) => tally.failures.map((failure) => `${name} ${failure}`));
  expect(failures).toEqual([]);
  expect([...tallies.values()].every((tally) => tally.missing === 0 && tally.passed > 0)).toBe(true);
  expect(tallies.size).toBeGreaterThanOrEqual(23);
});

test('a wrong answer fails, an unknown name is missing, and both are told apart', () => {
  const file: VectorFile = {
    sections: {
      a: [
        { id: '1', fn: 'vlan.valid_id', in: { vid: 0 }, out: { valid: true }, tol: 'exact' },
        { id: '2', fn: 'no.such', in: {}, out: {}, tol: 'exact' },
        { id: '3', fn: 'ip.relation', in: { a: 'x', b: 'y' }, out: {}, tol: 'exact' },
      ],
    },
  };
  const tallies = runVectors(file, ADAPTER);
  expect(tallies.get('vlan.valid_id')).toMatchObject({
    passed: 0,
    failed: 1,
    failures: ['1: valid is false, not true for {"vid":0}'],
  });
  expect(tallies.get('no.such')).toMatchObject({ missing: 1, failed: 0 });
  expect(tallies.get('ip.relation')).toMatchObject({ failed: 1, failures: ['3: cannot read x'] });
});

test('tolerances let numbers off, and nothing else', () => {
  expect(differ({ a: 1.05 }, { a: 1 }, { abs: 0.1 })).toBeNull();
  expect(differ({ a: 1.2 }, { a: 1 }, { abs: 0.1 })).toBe('a is 1.2, not 1');
  expect(differ({ a: 101 }, { a: 100 }, { rel: 0.02 })).toBeNull();
  expect(differ({ a: 1.2, b: 1.2 }, { a: 1, b: 1 }, { abs: 0.1, fields: { a: 0.5 } })).toBe('b is 1.2, not 1');
  expect(differ({ a: 1 }, { a: 1, b: 2 }, { abs: 9 })).toBe('b is undefined, not 2');
  expect(differ({ a: 1, b: 2 }, { a: 1 }, { abs: 9 })).toBe('b is 2, not undefined');
  expect(differ({ a: 1, [MORE]: { b: 2 } }, { a: 1 }, 'exact')).toBeNull();
  expect(differ({ a: 1, [MORE]: { b: 2 } }, { a: 1, b: 3 }, 'exact')).toBe('b is 2, not 3');
  expect(differ([1, 2], [1], { abs: 9 })).toBe('1 is 2, not undefined');
  expect(differ(['x'], ['y'], { abs: 9 })).toBe('0 is "x", not "y"');
});
