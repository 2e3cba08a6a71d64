import { expect, test } from 'vitest';
import { secretsOf, type ApDocument } from '../../document';
import { resolve, type SitePart } from '../../intent';
import { sampleId, sampleSite } from '../../testing';
import { compileSite } from '../compile';

const sample = sampleSite({ segments: 3, aps: 3 });
const [one, two, three] = sample.roster.filter(({ model }) => model.startsWith('AP'));
const mesh = { when: 'never', band: '5', hops: 2, key: { secret: sampleId(8, 1) } } as const;
const told = (more: Partial<SitePart>) => {
  const documents = compileSite(resolve(sample.intent.estate, { ...sample.site, ...more }), sample.roster);
  return [one!, two!, three!].map(({ id }) => documents.get(id) as ApDocument);
};

test('nobody is told of hanging by radio while nobody does', () => {
  expect(told({ mesh })).toEqual(told({}));
});

test('one that hangs is told how, those it may hang on that others may, and both carry everything there', () => {
  const meshAps = { [one!.id]: { when: 'always', parents: [three!.id, two!.id], hops: 1 } } as const;
  const [hangs, carries, other] = told({ mesh, meshAps });
  expect(hangs!.mesh).toEqual({
    key: mesh.key,
    hang: { when: 'always', band: '5', hops: 1, parents: [two!.serial, three!.serial].sort() },
  });
  expect(carries!.mesh).toEqual({ key: mesh.key, carries: true });
  expect(other!.mesh).toEqual(carries!.mesh);
  for (const document of [carries!, other!]) {
    expect(document.ports.at(-1)).toEqual({ name: 'mesh', untagged: 1, tagged: [10, 20] });
    expect(document.ports[0]!.tagged).toEqual([10, 20]);
  }
  expect(hangs!.ports.at(-1)).toMatchObject({ name: 'mesh', untagged: 1 });
  expect(secretsOf(carries!)).toContain(mesh.key.secret);
});

test('while it may be any, each may be hung on, those that hang as well', () => {
  const documents = told({ mesh: { ...mesh, when: 'fallback' } });
  expect(documents.map((document) => document.mesh?.carries)).toEqual([true, true, true]);
  expect(documents.map((document) => document.mesh?.hang?.when)).toEqual(['fallback', 'fallback', 'fallback']);
});
