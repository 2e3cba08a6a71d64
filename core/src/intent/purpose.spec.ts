import { expect, test } from 'vitest';
import type { SearchHit } from '../base';
import { compileSite } from '../rollout';
import { readServices } from '../rules';
import { sampleId, sampleSite } from '../testing';
import { apply, editSchema, everyNoun, EVERYWHERE, resolve, wordsOf, type Operation } from '.';

const { intent, site, roster } = sampleSite({ segments: 3, aps: 1 });
const lookup = (id: string) => roster.find((each) => each.id === id);
const purpose = '  Tickets at the pier ';
const of = { siteId: site.id };
const ends = { from: [{ kind: 'any' as const }], to: [{ kind: 'internet' as const }], ...readServices('any') };
const rule = { from: ends.from, to: ends.to, services: ends.services };
const [ssid] = intent.estate.ssids;

/** A thing of each noun, with what it is for. */
const EDITS: readonly Operation[] = [
  { type: 'ssid.set', ssidId: ssid!.id, from: {}, to: { purpose } },
  {
    type: 'class.add',
    accessClass: { id: sampleId(6, 1), name: 'Gates', segment: 'Segment 1', members: [], reach: EVERYWHERE, purpose },
  },
  { type: 'set.add', shared: true, set: { id: sampleId(6, 2), name: 'Web', ports: ['443'], purpose } },
  { type: 'guarantee.add', ...of, guarantee: { id: sampleId(6, 3), kind: 'never', ...rule, purpose } },
  { type: 'pool.add', ...of, pool: { id: sampleId(6, 4), name: 'Many', vlans: '10,20', purpose } },
  { type: 'duty.add', ...of, duty: { id: sampleId(6, 7), name: 'Desk', untagged: null, tagged: [], purpose } },
  { type: 'segment.set', ...of, segmentId: site.segments[1]!.id, from: {}, to: { purpose } },
  {
    type: 'rule.add',
    book: 'after',
    behind: null,
    rules: [{ id: sampleId(6, 5), verdict: 'allow', ...rule, comment: purpose.trim() }],
  },
  {
    type: 'recipe.add',
    recipe: {
      id: sampleId(6, 6),
      name: 'Tills',
      vlan: 70,
      purpose: purpose.trim(),
      domain: '',
      length: 24,
      parent: null,
      leaseSeconds: null,
    },
  },
];

const edited = EDITS.reduce((now, operation) => {
  const done = apply(now, operation, lookup);
  if (!done.ok) throw new Error(done.flaws[0]!.message);
  return done.intent;
}, intent);

test('edits that say what a thing is for are taken on entry, and told in words', () => {
  expect(editSchema.validate({ head: 0, operations: EDITS }).error).toBeUndefined();
  expect(wordsOf(EDITS[0]!)).toContain('purpose');
});

test('each is found by what it is for, whatever its noun', () => {
  const matches = (...texts: string[]): boolean => texts.some((text) => text.toLowerCase().includes('tickets'));
  const hits = everyNoun().flatMap((noun): SearchHit[] => [...(noun.find?.(edited, matches) ?? [])]);
  expect(new Set(hits.map(({ kind }) => kind))).toEqual(
    new Set(['ssid', 'class', 'set', 'guarantee', 'pool', 'duty', 'segment', 'rule', 'recipe']),
  );
  for (const { detail } of hits) expect(detail).toMatch(/: Tickets at the pier$/);
});

test('a port duty keeps what it is for when what its ports do is edited, and says it no more when that is taken away', () => {
  const dutyId = sampleId(6, 7);
  const set = (now: typeof edited, from: object, to: object): typeof edited => {
    const done = apply(now, { type: 'duty.set', ...of, dutyId, from, to }, lookup);
    if (!done.ok) throw new Error(done.flaws[0]!.message);
    return done.intent;
  };
  const dutyIn = ({ sites }: typeof edited) => sites.get(site.id)!.duties!.find(({ id }) => id === dutyId)!;
  const other = set(edited, { poe: null }, { poe: 'off' });
  expect(dutyIn(other)).toMatchObject({ poe: 'off', purpose: 'Tickets at the pier' });
  expect('purpose' in dutyIn(set(other, { purpose: 'Tickets at the pier' }, { purpose: null }))).toBe(false);
});

test('it is kept trimmed, taken away by nothing, and refused when it is long', () => {
  const now = edited.estate.ssids.find(({ id }) => id === ssid!.id)!;
  expect(now.purpose).toBe('Tickets at the pier');
  const away = apply(
    edited,
    { type: 'ssid.set', ssidId: now.id, from: { purpose: now.purpose! }, to: { purpose: null } },
    lookup,
  );
  expect(away.ok && 'purpose' in away.intent.estate.ssids.find(({ id }) => id === now.id)!).toBe(false);
  const long = apply(
    edited,
    { type: 'ssid.set', ssidId: now.id, from: { purpose: now.purpose! }, to: { purpose: 'x'.repeat(201) } },
    lookup,
  );
  expect(long).toMatchObject({ ok: false, flaws: [{ code: 'ssid.purpose-long', field: 'purpose' }] });
});

test('no device is told of it', () => {
  const plain = EDITS.filter(({ type }) => type === 'ssid.set' || type === 'segment.set');
  const dutyId = sampleId(6, 8);
  const [untagged, box] = [site.segments[1]!.id, roster.find(({ name }) => name.includes('-sw-'))!];
  const duty = { id: dutyId, name: 'Counter', untagged, tagged: [] };
  const from = site.ports[box.id]!['1'] ?? null;
  const at = { ...of, deviceId: box.id, port: '1', from, to: { dutyId } };
  const given: Operation[] = [
    { type: 'duty.add', ...of, duty },
    { type: 'port.set', ...at },
  ];
  const made = (from: typeof intent, operations: readonly Operation[]) =>
    operations.reduce((now, operation) => {
      const done = apply(now, operation, lookup);
      if (!done.ok) throw new Error(done.flaws[0]!.message);
      return done.intent;
    }, from);
  const before = made(intent, given);
  const after = made(before, [...plain, { type: 'duty.set', ...of, dutyId, from: {}, to: { purpose } }]);
  const documents = (of: typeof intent) =>
    JSON.stringify([...compileSite(resolve(of.estate, of.sites.get(site.id)!), roster)]);
  expect(documents(after)).toBe(documents(before));
  expect(documents(before)).not.toBe(documents(intent));
});
