import fc from 'fast-check';
import { expect, test } from 'vitest';
import { apply, resolve, type Intent } from '../intent';
import { compileSite } from '../rollout';
import { moveSegment } from '../lattice';
import { sampleId, sampleSegment, sampleSite, type SampleSite } from '../testing';
import { consequencesOf, outcomeAt } from '.';

const inputOf = ({ intent, site, roster, links }: SampleSite) => ({
  estate: intent.estate,
  site,
  roster,
  links,
  told: {},
});
const [ap, gateway, firstSwitch] = [sampleId(4, 0), sampleId(2, 0), sampleId(3, 0)];

test('a site where everything is carried has no finding and no missing crossing', () => {
  const sample = sampleSite({ segments: 5, aps: 30 });
  const { findings, grid } = consequencesOf(inputOf(sample));
  expect(findings).toEqual([]);
  expect(grid.rows.flatMap((row) => Object.values(row.cells))).not.toContain('missing');
});

test('every mend removes its finding, adds only what lacks, and all mends leave none', () => {
  fc.assert(
    fc.property(fc.integer({ min: 1, max: 6 }), fc.integer(), (holes, seed) => {
      const sample = sampleSite({ segments: 5, aps: 25, holes, seed });
      const lookup = (id: string) => sample.roster.find((device) => device.id === id);
      let intent: Intent = sample.intent;
      let { findings } = consequencesOf(inputOf(sample));
      expect(findings.length).toBeGreaterThan(0);
      while (findings.length > 0) {
        const [finding] = findings;
        expect(finding!.mend!.operations).toHaveLength(1);
        for (const operation of finding!.mend!.operations) {
          expect(operation.type).toBe('port.tag');
          const result = apply(intent, operation, lookup);
          if (!result.ok) throw new Error(result.flaws[0]!.message);
          intent = result.intent;
        }
        const after = consequencesOf({ ...inputOf(sample), site: intent.sites.get(sample.site.id)! }).findings;
        expect(after.map((each) => each.key)).toEqual(findings.slice(1).map((each) => each.key));
        findings = after;
      }
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 25 },
  );
});

test('a port without management says whom it would cut off, and how to mend it', () => {
  const sample = sampleSite({ segments: 2, aps: 1 });
  const closed = sample.site.ports[firstSwitch];
  const cut = { untagged: null, tagged: [sampleSegment(1).id] };
  const site = { ...sample.site, ports: { [firstSwitch]: { ...closed, '1': cut } } };
  const { findings } = consequencesOf({ ...inputOf(sample), site });
  expect(findings).toMatchObject([
    {
      code: 'intake.cut-off',
      message: 'This would cut x-ap-01 off',
      place: { kind: 'port', id: firstSwitch, port: '1' },
      mend: {
        label: 'carry 1 untagged on port 1 of x-sw-01',
        operations: [{ type: 'port.untagged', from: null, to: sampleSegment(0).id }],
      },
    },
  ]);
});

test('only devices whose document differs from what they were told would change, from the gateway outwards', () => {
  const sample = sampleSite({ segments: 3, aps: 2 });
  const told = Object.fromEntries(compileSite(resolve(sample.intent.estate, sample.site), sample.roster));
  expect(consequencesOf({ ...inputOf(sample), told }).changes).toEqual([]);
  const site = { ...sample.site, segments: [...sample.site.segments, sampleSegment(7)] };
  const { changes } = consequencesOf({ ...inputOf(sample), site, told });
  expect(changes.map((change) => change.name)).toEqual(['x-gw-01', 'x-sw-01']);
});

test('what a site lacks is said', () => {
  const sample = sampleSite({ segments: 3, aps: 1 });
  const codes = (change: Partial<Parameters<typeof consequencesOf>[0]>) =>
    consequencesOf({ ...inputOf(sample), ...change }).findings.map((finding) => `${finding.severity} ${finding.code}`);
  expect(codes({ roster: sample.roster.filter((device) => device.id !== gateway) })).toContain(
    'error lattice.no-gateway',
  );
  expect(codes({ links: [] })).toEqual([
    'warning lattice.management-exposed',
    'info lattice.hang-unknown',
    'info lattice.hang-unknown',
  ]);
  const [one] = sample.intent.estate.ssids;
  expect(codes({ estate: { ...sample.intent.estate, ssids: [{ ...one!, segment: 'Elsewhere' }] } })).toEqual([
    'error wireless.no-segment',
  ]);
  const nine = Array.from({ length: 9 }, (_, i) => ({ ...one!, id: String(i), name: `N${i}` }));
  expect(codes({ estate: { ...sample.intent.estate, ssids: nine } })).toEqual([
    'error wireless.too-many',
    'error wireless.too-many',
    'error wireless.too-many',
    'warning radio.beacons',
  ]);
  const quiet = {
    ...sample.site,
    segments: sample.site.segments.map((segment, i) => (i === 1 ? { ...segment, addresses: null } : segment)),
  };
  expect(codes({ site: quiet })).toEqual(['warning lattice.no-addresses']);
});

test('the grid shows each segment from the air to the internet, and the gap where it breaks', () => {
  const sample = sampleSite({ segments: 2, aps: 1 });
  const site = { ...sample.site, ports: {} };
  const { grid } = consequencesOf({ ...inputOf(sample), site });
  const [management, segment] = grid.rows;
  const read = (row: typeof management) => grid.columns.map((column) => row!.cells[column.key] ?? '-');
  expect(grid.columns.map((column) => column.group)).toEqual([
    'On the air',
    'Access points',
    'x-sw-01',
    'x-sw-01',
    'Gateway',
    'Services',
    'Services',
  ]);
  expect(read(management)).toEqual(['-', 'untagged', 'untagged', 'untagged', 'routed', 'served', 'served']);
  expect(read(segment)).toEqual(['broadcast', 'tagged', 'missing', 'tagged', 'routed', 'served', 'served']);
  expect(grid.columns[1]!.deviceId).toBe(ap);
});

test('a fixed address goes along when its segment moves, and is an error where it has no place', () => {
  const sample = sampleSite({ segments: 2, aps: 2 });
  const fixed = { address: '10.1.1.9', length: 24, gateway: '10.1.1.1', dns: ['10.1.1.1', '192.0.2.53'] };
  const roster = sample.roster.map((device) => (device.id === ap ? { ...device, address: fixed } : device));
  const told = Object.fromEntries(compileSite(resolve(sample.intent.estate, sample.site), roster));
  const movedTo = (subnet: string) => {
    const segment = sample.site.segments[0]!;
    const { segment: to } = moveSegment(segment, subnet, roster)!;
    const pick = ({ subnet, gateway, addresses }: typeof to) => ({ subnet, gateway, addresses });
    const at = { siteId: sample.site.id, segmentId: segment.id };
    const moved = apply(
      sample.intent,
      { type: 'segment.set', ...at, from: pick(segment), to: pick(to) },
      () => undefined,
    );
    if (!moved.ok) throw new Error(moved.flaws[0]!.message);
    const { estate, sites } = moved.intent;
    return outcomeAt({ ...inputOf(sample), estate, site: sites.get(sample.site.id)!, roster, told });
  };
  const { findings, changes } = movedTo('10.7.1.0/24');
  expect(findings).toEqual([]);
  const lines = changes.find((change) => change.deviceId === ap)!.difference.lines;
  expect(lines.map(({ path, before, after }) => [path.join(' '), before, after])).toEqual([
    ['management address address', '10.1.1.9', '10.7.1.9'],
    ['management address dns', '10.1.1.1', null],
    ['management address dns', null, '10.7.1.1'],
    ['management address gateway', '10.1.1.1', '10.7.1.1'],
  ]);
  const kept = changes.find((change) => change.deviceId === gateway)!.difference.lines;
  expect(kept.find(({ path }) => path.at(-1) === 'former')).toMatchObject({ after: '10.1.1.1/24' }); // until all are told
  expect(movedTo('10.7.1.0/29').findings.map(({ code, place }) => [code, place.id])).toEqual([
    ['intake.fixed-outside', ap],
  ]);
});
