import { describe, expect, test } from 'vitest';
import { Joi, type ObjectSchema, type Schema } from '../schema';
import { sampleId, sampleSegment, sampleSite } from '../testing';
import { apply, editSchema, everyNoun, nounOf, wordsOf, type Operation } from '.';
import type { EditContext } from './edit';
import { byName, editsOfList, wordsOfList, type FieldsOf, type KeptOperation, type OfScope } from './kept-list';
import type { Noun } from './noun';
import { NOUNS } from './registry';
import { shapesOfList, text, type Shapes } from './shape';
import { SHAPES } from './shapes';

/** Types of the edits that a shape takes. */
const typesOf = (shape: Schema): string[] =>
  ((shape as ObjectSchema).extract('type').describe() as unknown as { allow: string[] }).allow;

test.each(Object.keys(NOUNS))('edits of the noun %s begin with its name, and each type has its shapes', (name) => {
  const types = SHAPES[name as keyof typeof NOUNS].flatMap(typesOf);
  expect(types.length).toBeGreaterThan(0);
  for (const type of types) expect(nounOf({ type })).toBe(NOUNS[name as keyof typeof NOUNS]);
});

test('what is of no noun is refused on entry', () => {
  const sent = { head: 0, operations: [{ type: 'pier.add', siteId: sampleId(1, 0) }] };
  expect(editSchema.validate(sent).error).toBeDefined();
  expect(() => nounOf({ type: 'constructor.add' })).toThrow(RangeError);
});

test('edits are told in words', () => {
  const siteId = sampleId(1, 0);
  const segment = sampleSegment(1);
  const told: [Operation, string][] = [
    [{ type: 'segment.add', siteId, segment }, `the segment “${segment.name}” added`],
    [
      { type: 'segment.set', siteId, segmentId: segment.id, from: { name: 'Crew' }, to: { name: 'Mess', vlan: 7 } },
      'name, vlan of the segment “Crew” changed',
    ],
    [{ type: 'pool.remove', siteId, poolId: sampleId(2, 0) }, 'a pool taken away'],
    [{ type: 'rule.remove', siteId, ruleIds: ['a', 'b'] }, '2 rules taken away'],
    [{ type: 'controller.set', from: [], to: ['10.0.0.1'] }, 'where this controller answers changed'],
  ];
  for (const [operation, words] of told) expect(wordsOf(operation)).toBe(words);
});

describe('a noun made by what every list has in common', () => {
  interface Pier {
    readonly id: string;
    readonly name: string;
    readonly berths: number;
  }
  type PierOperation = KeptOperation<'pier', Pier, OfScope>;
  const fields = { name: text(40), berths: Joi.number().integer().required() } satisfies Shapes<FieldsOf<Pier>>;
  const pier: Noun<PierOperation> = {
    apply: editsOfList<PierOperation, Pier, 'scope'>({
      noun: 'pier',
      where: 'scope',
      list: 'piers' as 'sets', // a part has no piers; a noun of ours names its own field
      order: byName,
      normal: (each) => ({ ...each, name: each.name.trim() }),
      check: (_intent, _home, { berths }) =>
        berths > 0 ? [] : [{ code: 'pier.berths', message: 'A pier has berths.', field: 'berths' }],
      stays: (_intent, _home, { name }) => (name === 'Quay' ? { code: 'pier.quay', message: 'The quay stays.' } : null),
    }),
    words: wordsOfList('pier', 'pier'),
  };
  const { intent, site } = sampleSite({ segments: 2, aps: 1 });
  const context: EditContext = { roster: () => undefined, userOf: () => null };
  const north = { id: sampleId(9, 1), name: ' North', berths: 2 };
  const quay = { id: sampleId(9, 2), name: 'Quay', berths: 9 };
  const of = { siteId: site.id };
  const then = (operations: readonly PierOperation[], from = intent) =>
    operations.reduce((now, operation) => {
      const outcome = pier.apply(now, operation, context);
      if (!outcome.ok) throw new Error(outcome.flaws[0]!.code);
      return outcome.intent;
    }, from);
  const why = (operation: PierOperation, from = intent): string[] => {
    const outcome = pier.apply(from, operation, context);
    return outcome.ok ? [] : outcome.flaws.map(({ code }) => code);
  };
  const piersOf = (now: typeof intent): unknown => (now.sites.get(site.id) as unknown as { piers?: unknown }).piers;

  test('is added, changed field by field, taken away, and every edit is taken back', () => {
    const both = then([
      { type: 'pier.add', pier: quay, ...of },
      { type: 'pier.add', pier: north, ...of },
    ]);
    expect(piersOf(both)).toEqual([{ ...north, name: 'North' }, quay]);
    const wider: PierOperation = { type: 'pier.set', pierId: north.id, from: { berths: 2 }, to: { berths: 3 }, ...of };
    const outcome = pier.apply(both, wider, context);
    if (!outcome.ok) throw new Error('refused');
    expect(piersOf(outcome.intent)).toEqual([{ ...north, name: 'North', berths: 3 }, quay]);
    expect(piersOf(then([outcome.inverse], outcome.intent))).toEqual(piersOf(both));
    const gone = pier.apply(both, { type: 'pier.remove', pierId: north.id, ...of }, context);
    if (!gone.ok) throw new Error('refused');
    expect(piersOf(gone.intent)).toEqual([quay]);
    expect(piersOf(then([gone.inverse], gone.intent))).toEqual(piersOf(both));
    expect(piersOf(intent)).toBeUndefined(); // what was given is as it was
  });

  test('is refused with what is wrong', () => {
    const both = then([
      { type: 'pier.add', pier: quay, ...of },
      { type: 'pier.add', pier: north, ...of },
    ]);
    const set = (from: Partial<Pier>, to: Partial<Pier>, pierId = north.id): PierOperation => {
      return { type: 'pier.set', pierId, from, to, ...of };
    };
    expect(why({ type: 'pier.add', pier: north, siteId: sampleId(1, 99) })).toEqual(['site.unknown']);
    expect(why({ type: 'pier.add', pier: { ...north, berths: 0 }, ...of })).toEqual(['pier.berths']);
    expect(why({ type: 'pier.add', pier: north, ...of }, both)).toEqual(['pier.exists']);
    expect(why(set({ berths: 1 }, { berths: 3 }), both)).toEqual(['pier.changed']);
    expect(why(set({}, { berths: 3 }), both)).toEqual(['pier.changed']);
    expect(why(set({ berths: 2 }, { berths: 0 }), both)).toEqual(['pier.berths']);
    expect(why(set({ berths: 2 }, { berths: 3 }, sampleId(9, 7)), both)).toEqual(['pier.unknown']);
    expect(why({ type: 'pier.remove', pierId: quay.id, ...of }, both)).toEqual(['pier.quay']);
    // The estate's are others than a site's.
    expect(why({ type: 'pier.remove', pierId: north.id, shared: true }, both)).toEqual(['pier.unknown']);
  });

  test('has shapes that take its edits, of a site and of the estate, and nothing else', () => {
    const shape = Joi.alternatives(...shapesOfList('pier', 'scope', fields)).match('any');
    const fits = (value: unknown): boolean => shape.validate(value).error === undefined;
    expect(fits({ type: 'pier.add', pier: north, ...of })).toBe(true);
    expect(fits({ type: 'pier.add', pier: north, shared: true })).toBe(true);
    expect(fits({ type: 'pier.add', pier: north })).toBe(false);
    expect(fits({ type: 'pier.set', pierId: north.id, from: { berths: 2 }, to: { berths: 3 }, ...of })).toBe(true);
    expect(fits({ type: 'pier.set', pierId: north.id, from: {}, to: { depth: 3 }, ...of })).toBe(false);
    expect(fits({ type: 'pier.add', pier: { ...north, depth: 3 }, ...of })).toBe(false);
  });
});

test('whatever a thing is called by follows it to another name, at its site or everywhere', () => {
  const { intent, site } = sampleSite({ segments: 2, aps: 1 });
  const [, segment] = site.segments;
  const rule = {
    id: 'r',
    verdict: 'deny' as const,
    from: [{ kind: 'segment' as const, name: segment!.name }],
    to: [{ kind: 'any' as const }],
    services: [{ protocol: 'any' as const }],
  };
  const steps: Operation[] = [
    { type: 'rule.add', siteId: site.id, rules: [rule], behind: null },
    {
      type: 'guarantee.add',
      siteId: site.id,
      guarantee: { id: sampleId(8, 1), kind: 'never', from: rule.from, to: rule.to, services: rule.services },
    },
    {
      type: 'segment.set',
      siteId: site.id,
      segmentId: segment!.id,
      from: { name: segment!.name },
      to: { name: 'Mess' },
    },
  ];
  const now = steps.reduce((before, operation) => {
    const outcome = apply(before, operation, () => undefined);
    if (!outcome.ok) throw new Error(outcome.flaws[0]!.message);
    expect('renamed' in outcome).toBe(false);
    return outcome.intent;
  }, intent);
  const then = now.sites.get(site.id)!;
  expect(then.rules![0]!.from).toEqual([{ kind: 'segment', name: 'Mess' }]);
  expect(then.guarantees![0]!.from).toEqual([{ kind: 'segment', name: 'Mess' }]);
  const users = (name: string): (string | null)[] =>
    everyNoun().flatMap(({ naming }) => naming?.userOf(then, 'segment', name) ?? []);
  expect(users('Mess')).toEqual([`a rule of ${site.name}`, `a guarantee of ${site.name}`]);
  expect(users(segment!.name)).toEqual([]);
});
