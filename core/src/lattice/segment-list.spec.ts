import { expect, test } from 'vitest';
import { normaliseSegment, apply, type Intent } from '../intent';
import { richSegments, sampleSegment, sampleSite } from '../testing';
import { checkSegmentList, segmentTable } from './segment-list';

const sample = sampleSite({ segments: 2, aps: 1 });
let made = 0;
const check = (table: readonly (readonly string[])[], intent: Intent = sample.intent) =>
  checkSegmentList(table, intent, sample.site.id, sample.roster, () => `new-${made++}`);

test.each([1, 2, 3, 4, 5, 6, 7, 8])('segments written as a table come back without loss (seed %i)', (seed) => {
  const segments = richSegments(seed, 12).map(normaliseSegment);
  const [management] = sample.site.segments;
  const bare = {
    ...sample.site,
    segments: [
      { ...management!, subnet: '10.250.0.0/24', gateway: '10.250.0.1', addresses: null, vlan: 4000, name: 'Old' },
    ],
  };
  const intent = { ...sample.intent, sites: new Map([[bare.id, bare]]) };
  const { rows, operations } = check(segmentTable(segments, sample.roster), intent);
  expect(rows.flatMap((row) => row.flaws)).toEqual([]);
  let now: Intent = intent;
  for (const operation of operations) {
    const result = apply(now, operation, () => undefined);
    if (!result.ok) throw new Error(result.flaws[0]!.message);
    now = result.intent;
  }
  const back = now.sites.get(bare.id)!.segments.filter((segment) => segment.name !== 'Old');
  const plain = (list: typeof back) => list.map(({ id: _id, ...rest }) => rest);
  expect(plain(back)).toEqual(plain(segments));
});

test('what is the same makes no edit; what differs is changed by name; the rest is added, derived where cells are empty', () => {
  const [first, second] = sample.site.segments;
  const table = segmentTable([first!, { ...second!, domain: 'x.example' }], sample.roster);
  const { operations } = check([...table, ['Voice', '60']]);
  expect(operations).toMatchObject([
    { type: 'segment.set', segmentId: second!.id, from: { domain: null }, to: { domain: 'x.example' } },
    { type: 'segment.add', segment: { name: 'Voice', vlan: 60, subnet: '10.1.60.0/24', gateway: '10.1.60.1' } },
  ]);
});

test('columns that a list lacks leave what is there', () => {
  const rich = { ...sampleSegment(1), domain: 'crew.example', purpose: 'Crew' };
  const site = { ...sample.site, segments: [sample.site.segments[0]!, rich] };
  const intent = { ...sample.intent, sites: new Map([[site.id, site]]) };
  expect(
    check(
      [
        ['name', 'vlan id'],
        [rich.name, '11'],
      ],
      intent,
    ).operations,
  ).toMatchObject([{ type: 'segment.set', from: { vlan: 10 }, to: { vlan: 11 } }]);
});

test('each bad row says what is wrong and in which column; good rows stand', () => {
  const { rows, operations } = check([
    ['name', 'vlan id', 'subnet', 'ranges', 'reservations', 'served from', 'ipv6'],
    ['Voice', '60', '10.1.10.0/25', '', '', '', ''],
    ['Tills', '5000', '10.1.61.0/24', '', '', '', ''],
    ['Cams', '62', '10.1.62.0/24', '10.1.62.99-10.1.62.20', '', '', ''],
    ['Berths', '63', '10.1.63.0/24', '', 'printer 10.1.63.9', '', ''],
    ['Guests', '64', '10.1.64.0/24', '', '', 'the cellar', ''],
    ['Six', '65', '', '', '', '', '2001:db8::/64 2001:db8::1 always'],
    ['Fine', '66', '', '', '', '', ''],
    ['fine', '67', '', '', '', '', ''],
  ]);
  expect(
    rows.map((row) => [row.line, row.good !== null, row.flaws.map((each) => `${each.field} ${each.code}`)]),
  ).toEqual([
    [2, false, ['subnet segment.subnet-overlap']],
    [3, false, ['vlan segment.vlan-range']],
    [4, false, ['ranges segment.range-reversed']],
    [5, false, ['reservations segment.reservation-mac']],
    [6, false, ['served segment.served-malformed']],
    [7, false, ['ipv6 segment.v6-mode']],
    [8, true, []],
    [9, false, ['name segment.name-taken']],
  ]);
  expect(operations).toHaveLength(1);
});
