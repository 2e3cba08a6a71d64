import { expect, test } from 'vitest';
import { sampleSite } from '../testing';
import { apply } from './apply';
import { checkRuleList, ruleTable } from './rule-list';

const { intent, site } = sampleSite({ segments: 3, aps: 1 });
const of = { siteId: site.id };
const known = { segment: site.segments.map(({ name }) => name) };
let count = 0;
const look = (table: readonly (readonly string[])[]) =>
  checkRuleList(table, intent, of, null, known, () => `id-${++count}`);
const HEAD = ['verdict', 'from', 'to', 'services', 'times', 'log', 'off', 'comment', 'at'];

test('rules written as a list are read back without loss', () => {
  const rows = [
    ['allow', 'Segment 1', 'internet', 'tcp 80,443; udp 53', 'Mon-Fri 08:00-18:00', 'yes', '', 'Web, by day', ''],
    ['deny', 'segment Segment 1, 10.9.0.0/16', 'segment Segment 2', 'icmp 8', '', '', 'yes', '', 'switches'],
  ];
  const seen = look([HEAD, ...rows]);
  const rules = seen.rows.map(({ good }) => good!);
  const again = look(ruleTable(rules));
  const plain = (list: typeof rules) => list.map(({ id: _id, ...rest }) => rest);
  expect(plain(again.rows.map(({ good }) => good!))).toEqual(plain(rules));
  const result = apply(intent, seen.operations[0]!, () => undefined);
  expect(result.ok && result.intent.sites.get(site.id)!.rules).toHaveLength(2);
});

test('hours of the estate stand in a list by their name, and are looked up by it', () => {
  const hours = { id: '00000000-0000-4000-8000-00000000000a', name: 'Sailing days', times: [] };
  const known_ = { ...intent, estate: { ...intent.estate, hours: [hours] } };
  const look_ = (times: string) =>
    checkRuleList([HEAD, ['deny', 'any', 'internet', 'any', times]], known_, of, null, known, () => 'id').rows[0]!;
  expect(look_('hours sailing days').good).toMatchObject({ hours: hours.id });
  expect(ruleTable([look_('hours sailing days').good!], [hours])[1]![4]).toBe('hours Sailing days');
  expect(look_('hours of prayer')).toMatchObject({ good: null, flaws: [{ code: 'rule.hours', field: 'times' }] });
});

test('of ten thousand rows with three wrong ones, the three are told where and why, and the others may be taken', () => {
  const rows = Array.from({ length: 10_000 }, (_, i) => [
    'deny',
    `10.${(i >> 8) & 255}.${i & 255}.0/24`,
    'internet',
    'tcp 443',
  ]);
  rows[17] = ['maybe', 'any', 'any', 'any'];
  rows[4711] = ['deny', '10.0.0.9-10.0.0.1', 'internet', 'tcp 443'];
  rows[9999] = ['deny', 'any', 'any', 'tcp 99999'];
  const seen = look(rows);
  const bad = seen.rows.filter(({ good }) => good === null);
  expect(bad.map(({ line, flaws }) => `${line} ${flaws[0]!.code} ${flaws[0]!.field}`)).toEqual([
    '18 rule.verdict verdict',
    '4712 rule.address from',
    '10000 rule.service services',
  ]);
  const [operation] = seen.operations;
  expect(operation?.type === 'rule.add' && operation.rules.length).toBe(9997);
});

test('a place that is none is told at its row', () => {
  const seen = look([HEAD, ['deny', 'any', 'any', '', '', '', '', '', 'roof']]);
  expect(seen.rows[0]!.flaws.map(({ code, field }) => [code, field])).toEqual([['rule.at', 'at']]);
});
