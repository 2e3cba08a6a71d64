import { expect, test } from 'vitest';
import type { Rule } from '../../rules';
import { readEnds, readServices } from '../../rules';
import { sampleSite } from '../../testing';
import { randomFrom } from '../../testing';
import { apply } from '../apply';
import type { Intent } from '../part';
import type { KeptSet } from '../set/set';
import type { Operation } from '../registry';
import { bookOf } from './apply';

const { intent: start, site } = sampleSite({ segments: 4, aps: 1 });
const siteId = site.id;
const none = () => undefined;
const rule = (id: string, from: string, to: string, services = 'any', verdict: Rule['verdict'] = 'deny'): Rule => ({
  id,
  verdict,
  from: readEnds(from),
  to: readEnds(to),
  services: readServices(services).services,
});
const add = (rules: readonly Rule[], behind: string | null = null): Operation => ({
  type: 'rule.add',
  siteId,
  rules,
  behind,
});
function done(intent: Intent, ...operations: Operation[]): Intent {
  for (const operation of operations) {
    const result = apply(intent, operation, none);
    if (!result.ok) throw new Error(result.flaws.map(({ message }) => message).join());
    intent = result.intent;
  }
  return intent;
}
const flawsOf = (intent: Intent, operation: Operation) => {
  const result = apply(intent, operation, none);
  return result.ok ? [] : result.flaws.map(({ code, field }) => `${code} ${field ?? ''}`.trim());
};
const ids = (intent: Intent): string[] => bookOf(intent, { siteId })!.map(({ id }) => id);
const set = (id: string, name: string, more: Partial<KeptSet> = {}): KeptSet => ({ id, name, ...more });

test('rules are put in, moved and taken out where they are wanted; each edit’s inverse brings back what was', () => {
  const random = randomFrom(7);
  let intent = done(start, add(['a', 'b', 'c', 'd', 'e'].map((id) => rule(id, 'any', 'segment Segment 1'))));
  for (let round = 0; round < 60; round++) {
    const book = ids(intent);
    const pick = random(book.length);
    const others = book.toSpliced(pick, 1);
    const to = random(book.length);
    const operation: Operation =
      round % 3 === 0
        ? { type: 'rule.move', siteId, ruleId: book[pick]!, from: book[pick - 1] ?? null, to: others[to - 1] ?? null }
        : round % 3 === 1
          ? { type: 'rule.remove', siteId, ruleIds: book.slice(pick, pick + 2) }
          : add([rule(`n${round}`, '10.0.0.1', 'any'), rule(`m${round}`, '10.0.0.2', 'any')], book[pick] ?? null);
    const result = apply(intent, operation, none);
    if (!result.ok) throw new Error(JSON.stringify(result.flaws));
    expect(apply(result.intent, result.inverse, none)).toMatchObject({ ok: true, intent });
    if (round % 3 === 0) expect(ids(result.intent).indexOf(book[pick]!)).toBe(to);
    intent = result.intent;
  }
});

test('an order that others changed meanwhile is not guessed at', () => {
  const intent = done(start, add([rule('a', 'any', 'any'), rule('b', 'any', 'any')]));
  expect(flawsOf(intent, { type: 'rule.move', siteId, ruleId: 'a', from: 'b', to: null })).toEqual(['rule.moved']);
  expect(flawsOf(intent, { type: 'rule.remove', siteId, ruleIds: ['b', 'a'] })).toEqual(['rule.moved']);
  expect(flawsOf(intent, add([rule('c', 'any', 'any')], 'gone'))).toEqual(['rule.moved']);
  const change = { from: { verdict: 'allow' as const }, to: { verdict: 'deny' as const } };
  expect(flawsOf(intent, { type: 'rule.set', siteId, ruleId: 'a', ...change })).toEqual(['rule.changed verdict']);
});

test('what is wrong with a rule is said at the rule and its field, and nothing of the list is taken', () => {
  const rules = [
    rule('a', 'segment Segment 1', 'internet', 'tcp 443'),
    rule('b', 'segment Gone', 'any'),
    rule('c', '10.0.0.9-10.0.0.1', 'any'),
    rule('d', '10.0.0.1', 'fd00::1'),
    { ...rule('e', 'any', 'any'), services: [{ protocol: 'icmp' as const, ports: ['80'] }] },
    rule('f', 'set Nobody', 'any'),
  ];
  expect(flawsOf(start, add(rules))).toEqual([
    'rule.segment rules.1.from',
    'rule.address rules.2.from',
    'rule.mixed rules.3.to',
    'rule.portless rules.4.ports',
    'set.unknown rules.5.from',
  ]);
  expect(bookOf(start, { siteId })).toEqual([]);
});

test('the estate’s rules may name what a site lacks, but not what nothing can be', () => {
  const before = (each: Rule): Operation => ({ type: 'rule.add', book: 'before', rules: [each], behind: null });
  const intent = done(start, before(rule('x', 'segment Somewhere', 'device Any-01')));
  expect(intent.estate.rulesBefore).toHaveLength(1);
  expect(flawsOf(start, before(rule('y', '10.0.0.300', 'any')))).toEqual(['rule.address rules.0.from']);
});

test('a set keeps its name and its place while it is used, and never holds itself', () => {
  const shared = { shared: true } as const;
  let intent = done(
    start,
    { type: 'set.add', set: set('p', ' Printers ', { addresses: ['10.1.10.5', ''] }), siteId },
    { type: 'set.add', set: set('w', 'Web', { ports: ['443', '80'] }), ...shared },
    add([rule('a', 'segment Segment 1', 'set Printers', 'tcp set Web')]),
  );
  expect(intent.sites.get(siteId)!.sets).toEqual([{ id: 'p', name: 'Printers', addresses: ['10.1.10.5'] }]);
  expect(flawsOf(intent, { type: 'set.remove', setId: 'p', siteId })).toEqual(['set.used']);
  expect(flawsOf(intent, { type: 'set.remove', setId: 'w', ...shared })).toEqual(['set.used']);
  const rename = { from: { name: 'Printers' }, to: { name: 'Paper' } };
  expect(flawsOf(intent, { type: 'set.set', setId: 'p', siteId, ...rename })).toEqual(['set.used name']);
  expect(flawsOf(intent, { type: 'set.add', set: set('q', 'printers'), ...shared })).toEqual(['set.name-taken name']);
  intent = done(intent, { type: 'set.add', set: set('o', 'Office', { sets: ['Printers'] }), siteId });
  const nest = { from: { sets: undefined }, to: { sets: ['Office'] } };
  expect(flawsOf(intent, { type: 'set.set', setId: 'p', siteId, ...nest })).toEqual(['set.within-itself sets']);
  const unseen = { from: {}, to: { addresses: ['10.1.10.6'] } };
  expect(flawsOf(intent, { type: 'set.set', setId: 'p', siteId, ...unseen })).toEqual(['set.changed addresses']);
  const bad = { from: { addresses: ['10.1.10.5'] }, to: { addresses: ['10.1.10.5', '10.1.10.9-10.1.10.5'] } };
  expect(flawsOf(intent, { type: 'set.set', setId: 'p', siteId, ...bad })).toEqual(['set.address addresses']);
});

test('an empty set in a rule is refused: it is never taken for anything', () => {
  const intent = done(start, { type: 'set.add', set: set('e', 'Empty'), siteId });
  expect(flawsOf(intent, add([rule('a', 'set Empty', 'any')]))).toEqual(['rule.empty-set rules.0.from']);
});

test('a guarantee is checked as a rule is, and taken back by its inverse', () => {
  const guarantee = {
    id: 'g',
    kind: 'never' as const,
    from: readEnds('segment Segment 1'),
    to: readEnds('private'),
    services: readServices('any').services,
  };
  const result = apply(start, { type: 'guarantee.add', guarantee, siteId }, none);
  if (!result.ok) throw new Error('refused');
  expect(result.intent.sites.get(siteId)!.guarantees).toEqual([guarantee]);
  expect(apply(result.intent, result.inverse, none)).toMatchObject({ ok: true, intent: start });
  const lost = { ...guarantee, from: readEnds('segment Gone') };
  expect(flawsOf(start, { type: 'guarantee.add', guarantee: lost, siteId })).toEqual(['rule.segment from']);
  expect(flawsOf(start, { type: 'controller.set', from: [], to: ['203.0.113.999'] })).toEqual([
    'controller.address controller',
  ]);
});

test('rules and guarantees follow a segment or an SSID to another name, and back', () => {
  const ssid = start.estate.ssids[0]!;
  const guarantee = {
    id: 'g',
    kind: 'never' as const,
    from: readEnds('segment Segment 1'),
    to: readEnds('private'),
    services: readServices('any').services,
    besides: readEnds('segment Segment 1, segment Segment 2'),
  };
  const before = done(
    start,
    add([rule('a', 'segment Segment 1', 'internet'), rule('b', 'segment Segment 2', 'any')]),
    { type: 'guarantee.add', siteId, guarantee },
    { type: 'rule.add', book: 'before', rules: [rule('c', `SSID "${ssid.name}"`, 'any')], behind: null },
  );
  const { id: segmentId } = site.segments[1]!;
  const rename: Operation = {
    type: 'segment.set',
    siteId,
    segmentId,
    from: { name: 'Segment 1' },
    to: { name: 'Deck' },
  };
  const renamed = apply(before, rename, none);
  if (!renamed.ok) throw new Error(renamed.flaws[0]!.message);
  const part = renamed.intent.sites.get(siteId)!;
  expect(part.rules!.map(({ from }) => from)).toEqual([readEnds('segment Deck'), readEnds('segment Segment 2')]);
  expect([part.guarantees![0]!.from, part.guarantees![0]!.besides]).toEqual([
    readEnds('segment Deck'),
    readEnds('segment Deck, segment Segment 2'),
  ]);
  expect(apply(renamed.intent, renamed.inverse, none)).toMatchObject({ ok: true, intent: before });
  const air = apply(
    before,
    { type: 'ssid.set', ssidId: ssid.id, from: { name: ssid.name }, to: { name: 'Bridge' } },
    none,
  );
  if (!air.ok) throw new Error(air.flaws[0]!.message);
  expect(air.intent.estate.rulesBefore![0]!.from).toEqual(readEnds('SSID Bridge'));
  expect(apply(air.intent, air.inverse, none)).toMatchObject({ ok: true, intent: before });
});
