import fc from 'fast-check';
import { expect, test } from 'vitest';
import { resolve } from '../intent';
import { compileSite } from '../rollout';
import { sampleSite } from '../testing';
import { latticeGrid, packGrid, unpackGrid, type Crossing, type GridRow } from '.';

const CROSSINGS: readonly Crossing[] = ['untagged', 'tagged', 'tunnel', 'broadcast', 'routed', 'served', 'missing'];

test('what is packed comes out as it went in, whatever crosses where', () => {
  const { intent, site: part, roster, links } = sampleSite({ segments: 3, aps: 4, holes: 2 });
  const site = resolve(intent.estate, part);
  const { columns, rows } = latticeGrid(site, roster, compileSite(site, roster), links);
  const cells = fc.array(fc.option(fc.constantFrom(...CROSSINGS)), {
    minLength: columns.length,
    maxLength: columns.length,
  });
  fc.assert(
    fc.property(fc.array(cells, { maxLength: rows.length }), (crossings) => {
      const drawn = crossings.map((row, i): GridRow => {
        const met = columns.flatMap(({ key }, c) => (row[c] ? [[key, row[c]] as const] : []));
        const missing = met.flatMap(([key, crossing]) => (crossing === 'missing' ? [key] : []));
        return { segment: rows[i]!.segment, cells: Object.fromEntries(met), missing };
      });
      const grid = { columns, rows: drawn };
      expect(unpackGrid(JSON.parse(JSON.stringify(packGrid(grid))) as never)).toEqual(grid);
    }),
    { seed: Number(process.env['SEED'] ?? 1) },
  );
});
