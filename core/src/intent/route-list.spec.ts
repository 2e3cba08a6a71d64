import { expect, test } from 'vitest';
import { sampleSite } from '../testing';
import { checkRouteList, routeTable } from './route-list';
import { routesOf } from './route/route';
import { apply } from '.';

const sample = sampleSite({ segments: 3, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const siteId = sample.site.id;
const lookup = (id: string) => sample.roster.find((each) => each.id === id);
const host = (n: number): string => sample.site.segments[1]!.subnet.replace(/\.\d+\/\d+$/, `.${n}`);
const check = (table: readonly (readonly string[])[], intent = sample.intent) => {
  let n = 0;
  const of = {
    siteId,
    deviceId: gateway.id,
    titles: new Map([
      ['wan1', 'wan1'],
      ['tidewire', 'wan1'],
    ]),
  };
  return checkRouteList(table, intent, of, lookup, () => `r${n++}`);
};

test('a list of routes is looked at row by row, and good rows may be taken beside those that are not', () => {
  const { rows, operations } = check([
    ['Name', 'Destination', 'Next hop', 'Metric', 'Off'],
    ['Works', '172.20.0.0/16', host(5), '', ''],
    ['Works by cable', '172.20.0.0/16', 'Tidewire', '20', ''],
    ['Closed', '203.0.113.0/24', 'nowhere', '', ''],
    ['Later', '172.30.0.0/16', host(5), '', 'yes'],
    ['Works', '172.21.0.0/16', host(5), '', ''],
    ['Other', '172.20.0.0/16', host(6), '', ''],
    ['No prefix', '172.22.0.0', host(5), '', ''],
    ['No hop', '172.23.0.0/16', 'Hillcrest', '', ''],
    ['No number', '172.24.0.0/16', host(5), 'a lot', ''],
  ]);
  expect(operations).toHaveLength(4);
  expect(rows.map(({ good, flaws }) => (good ? 'good' : flaws.map(({ field }) => field).join()))).toEqual([
    ...['good', 'good', 'good', 'good', 'name', 'metric', 'prefix', 'via', 'metric'],
  ]);
  expect(rows.map(({ line }) => line)).toEqual([2, 3, 4, 5, 6, 7, 8, 9, 10]);
  expect(
    check([
      ['Name', 'Metric'],
      ['Works', '1'],
    ]).flaws.length,
  ).toBeGreaterThan(0);
});

test('routes that are written are read back as the same ones', () => {
  const table = [
    ['name', 'for', 'goes', 'metric', 'tracks', 'off'],
    ['Closed', '203.0.113.0/24', 'nowhere', '', '', ''],
    ['Later', '172.30.0.0/16', host(5), '', '', 'yes'],
    ['Six', 'fd00:60::/32', 'wan1', '', 'fd00:60::1', ''],
    ['Works', '172.20.0.0/16', host(5), '7', 'itself', ''],
  ];
  const { operations } = check(table);
  const intent = operations.reduce((now, operation) => {
    const done = apply(now, operation, lookup);
    if (!done.ok) throw new Error(JSON.stringify(done.flaws));
    return done.intent;
  }, sample.intent);
  expect(routeTable(routesOf(intent.sites.get(siteId)!, gateway.id))).toEqual(table);
  // What is there already is not added twice.
  expect(check(table, intent).operations).toEqual([]);
});
