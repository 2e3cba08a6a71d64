import { checkSegmentList, segmentTable } from '@iron-lattice/core/lattice';
import { apply, checkRuleList, ruleTable, type Intent, type Operation, type Segment } from '@iron-lattice/core/intent';
import { textFault } from '@iron-lattice/core/base';
import type { Rule, RuleEnd, RuleService } from '@iron-lattice/core/rules';
import { sampleSite } from '@iron-lattice/core/testing';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import writeXlsxFile from 'write-excel-file/node';
import { readTable, writeTable } from '../platform/list-table';

/** What people write out and read in again is what it was, whatever they call things. */
const { intent: start, site } = sampleSite({ segments: 3, aps: 1 });
const of = { siteId: site.id };
const seed = Number(process.env['SEED'] ?? 1);

const PIECES = [
  'any',
  '10.0.0.1',
  'segment',
  'set',
  'from',
  ' ',
  ',',
  ';',
  '"',
  "'",
  '=1+1',
  '+',
  '-',
  '@',
  '|',
  '\\',
  '“',
  'é',
  '渡',
  'x',
  '/',
  'tcp',
  '80',
  '""',
];
const name = fc
  .array(fc.constantFrom(...PIECES), { minLength: 1, maxLength: 5 })
  .map((pieces) => pieces.join('').trim())
  .filter((text) => text !== '' && textFault(text) === null);
const port = fc.nat(65_535).map(String);
const octet = fc.nat(255);
const service = (setName: fc.Arbitrary<string>): fc.Arbitrary<RuleService> =>
  fc.oneof(
    fc.record({ protocol: fc.constantFrom<RuleService['protocol']>('any', 'icmp', 0, 1, 47, 58, 132) }),
    fc.record({ protocol: fc.constantFrom<RuleService['protocol']>('icmp', 1, 58), type: octet }),
    fc.record({ protocol: fc.constantFrom<RuleService['protocol']>('icmp', 1, 58), type: octet, code: octet }),
    fc.record(
      {
        protocol: fc.constantFrom<RuleService['protocol']>('tcp', 'udp', 6, 17, 'any'),
        ports: fc.array(
          fc.oneof(
            port,
            setName.map((text) => `set ${text}`),
          ),
          { minLength: 1, maxLength: 3 },
        ),
        sourcePorts: fc.array(port, { minLength: 1, maxLength: 2 }),
      },
      { requiredKeys: ['protocol'] },
    ),
  );

/** A site with what nasty rules name, and the rules. */
const nasty = fc
  .record({
    segments: fc.uniqueArray(name, { minLength: 1, maxLength: 3, selector: (text) => text.toLowerCase() }),
    sets: fc.uniqueArray(name, { minLength: 1, maxLength: 3, selector: (text) => text.toLowerCase() }),
  })
  .chain(({ segments, sets }) => {
    const end = fc.oneof(
      fc.constantFrom<RuleEnd>({ kind: 'any' }, { kind: 'private' }, { kind: 'addresses', text: '10.1.2.3' }),
      fc.constantFrom(...segments).map((text): RuleEnd => ({ kind: 'segment', name: text })),
      fc.constantFrom(...sets).map((text): RuleEnd => ({ kind: 'set', name: text })),
    );
    const rule = fc.record(
      {
        verdict: fc.constantFrom<Rule['verdict']>('allow', 'deny'),
        from: fc.array(end, { minLength: 1, maxLength: 3 }),
        to: fc.array(end, { minLength: 1, maxLength: 3 }),
        services: fc.array(service(fc.constantFrom(...sets)), { minLength: 1, maxLength: 3 }),
        comment: name,
      },
      { requiredKeys: ['verdict', 'from', 'to', 'services'] },
    );
    return fc.record({
      segments: fc.constant(segments),
      sets: fc.constant(sets),
      rules: fc.array(rule, { minLength: 1, maxLength: 4 }),
    });
  });

function done(intent: Intent, operation: Operation): Intent | null {
  const result = apply(intent, operation, () => undefined);
  return result.ok ? result.intent : null;
}

/** The site with these segments and sets, or null when core refuses a name of them. */
function siteWith(segments: readonly string[], sets: readonly string[]): Intent | null {
  let intent: Intent | null = start;
  for (const [i, text] of segments.entries()) {
    const segment = {
      id: `s${i}`,
      name: text,
      vlan: 900 + i,
      subnet: `10.200.${i}.0/24`,
      gateway: `10.200.${i}.1`,
      addresses: null,
    };
    intent &&= done(intent, { type: 'segment.add', ...of, segment });
  }
  for (const [i, text] of sets.entries())
    intent &&= done(intent, {
      type: 'set.add',
      ...of,
      set: { id: `t${i}`, name: text, addresses: ['10.9.9.9'], ports: ['80'] },
    });
  return intent;
}

/** Through a file as text, and through one that a spreadsheet saved. */
async function files(table: readonly (readonly string[])[]): Promise<(readonly (readonly string[])[])[]> {
  const text = await readTable(new TextEncoder().encode(writeTable(table)));
  // What a spreadsheet saves of the cells it was given: text as text.
  if (!text.ok) throw new Error(text.reason);
  const cells = text.table.map((row) => row.map((value) => ({ value, type: String })));
  const book = await readTable(await writeXlsxFile(cells as never).toBuffer());
  if (!book.ok) throw new Error(book.reason);
  return [text.table, book.table];
}

test('rules written as a file and read in are the same rules, however things are named', async () => {
  let accepted = 0;
  await fc.assert(
    fc.asyncProperty(nasty, async ({ segments, sets, rules }) => {
      const intent = siteWith(segments, sets);
      if (!intent) return;
      const listed = rules.map((rule, i): Rule => ({ id: `r${i}`, ...rule }));
      const added = apply(intent, { type: 'rule.add', ...of, rules: listed, behind: null }, () => undefined);
      if (!added.ok) return;
      accepted++;
      const kept = added.intent.sites.get(site.id)!.rules!;
      const known = { segment: intent.sites.get(site.id)!.segments.map((each) => each.name), set: sets };
      for (const table of await files(ruleTable(kept))) {
        let at = 0;
        const seen = checkRuleList(table, intent, of, null, known, () => `r${at++}`);
        expect(seen.rows.flatMap(({ flaws }) => flaws)).toEqual([]);
        expect(seen.rows.map(({ good }) => good)).toEqual(kept);
      }
    }),
    { seed, numRuns: 150 },
  );
  expect(accepted).toBeGreaterThan(40);
});

test('segments written as a file and read in are the same segments, however things are named', async () => {
  const text = fc.oneof(name, fc.constant(''));
  let accepted = 0;
  await fc.assert(
    fc.asyncProperty(name, text, fc.array(name, { maxLength: 3 }), async (called, purpose, clients) => {
      const segment: Segment = {
        id: 'n',
        name: called,
        vlan: 900,
        subnet: '10.200.0.0/24',
        gateway: '10.200.0.1',
        purpose,
        addresses: {
          first: '10.200.0.20',
          last: '10.200.0.200',
          leaseSeconds: 3600,
          reservations: clients.map((client, i) => ({
            mac: `02:00:00:00:00:0${i}`,
            address: `10.200.0.${30 + i}`,
            name: client,
          })),
        },
      };
      const intent = done(start, { type: 'segment.add', ...of, segment });
      if (!intent) return;
      accepted++;
      const kept = intent.sites.get(site.id)!.segments.find((each) => each.id === 'n')!;
      for (const table of await files(segmentTable([kept], []))) {
        const seen = checkSegmentList(table, start, site.id, [], () => 'n');
        expect(seen.rows.flatMap(({ flaws }) => flaws)).toEqual([]);
        expect(seen.operations).toEqual([{ type: 'segment.add', ...of, segment: kept }]);
      }
    }),
    { seed, numRuns: 150 },
  );
  expect(accepted).toBeGreaterThan(40);
});
