import { describe, expect, test } from 'vitest';
import { consequencesOf } from '../../assess';
import { formatIp, parseIp } from '../../address';
import { differenceOf, translator, type GatewayDocument } from '../../document';
import { compileSite } from '../../rollout';
import { readEnds } from '../../rules';
import { appliedWith, refusedWith, sampleSite } from '../../testing';
import { apply, type Intent, type Operation } from '..';
import { resolve } from '../resolve';
import type { Translation } from './translation';

const sample = sampleSite({ segments: 3, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const siteId = sample.site.id;
const lookup = (id: string) => sample.roster.find((each) => each.id === id);
const [, crew, till] = sample.site.segments;
const translation = (id: string, from: string, more: Partial<Translation> = {}): Translation => ({
  ...{ id, deviceId: gateway.id, name: id, turn: 0, port: 'wan1', from: readEnds(from), to: readEnds('any') },
  ...{ as: 'pool', pool: '203.0.113.12-203.0.113.14', ...more },
});
const add = (one: Translation): Operation => ({ type: 'translation.add', siteId, translation: one });
const done = (intent: Intent, ...operations: Operation[]) => appliedWith(sample.roster, intent, ...operations);
const refused = (operation: Operation, intent: Intent = sample.intent) => refusedWith(sample.roster, intent, operation);
const documentsOf = (intent: Intent) => compileSite(resolve(intent.estate, intent.sites.get(siteId)!), sample.roster);
const told = (intent: Intent) => documentsOf(intent).get(gateway.id) as GatewayDocument;
const outcomeOf = (intent: Intent, before: Intent | null = null) =>
  consequencesOf({
    ...{ estate: intent.estate, site: intent.sites.get(siteId)!, roster: sample.roster, links: [] },
    told: before ? Object.fromEntries(documentsOf(before)) : {},
  });
const findings = (intent: Intent) =>
  outcomeOf(intent)
    .findings.filter(({ place }) => place.kind === 'translation')
    .map(({ code, message }) => `${code}: ${message}`);
const host = ({ subnet }: { readonly subnet: string }, n: number): string => subnet.replace(/\.\d+\/\d+$/, `.${n}`);
const seenAs = (intent: Intent, from: string, port = 'wan1') => {
  const document = told(intent);
  const uplink = document.uplinks.find((each) => each.port === port)!;
  const ends = { source: parseIp(from)!.value, destination: parseIp('198.51.100.80')!.value };
  const as = translator(document.translations ?? [])(uplink, { version: 4, ...ends, protocol: 6, port: 443 });
  return typeof as === 'string' ? as : formatIp({ version: 4, value: as.address });
};

describe('as what people are seen', () => {
  test('is the uplink while nothing is said; else what the first that fits says, at its uplink', () => {
    expect(told(sample.intent).translations).toBeUndefined();
    const intent = done(
      sample.intent,
      add(translation('rest', 'any', { turn: 5, as: 'itself', pool: null })),
      add(translation('crew', `segment ${crew!.name}`, { turn: 1 })),
      add(translation('off', `segment ${till!.name}`, { turn: 0, off: true })),
    );
    expect(told(intent).translations!.map(({ name, as }) => [name, as])).toEqual([
      ['crew', { pool: '203.0.113.12-203.0.113.14' }],
      ['rest', 'itself'],
    ]);
    expect(seenAs(sample.intent, host(crew!, 7))).toBe('uplink');
    expect([seenAs(intent, host(till!, 7)), seenAs(intent, host(crew!, 7), 'wan2')]).toEqual(['itself', 'uplink']);
    const pooled = Array.from({ length: 60 }, (_, i) => seenAs(intent, host(crew!, 20 + i)));
    expect(new Set(pooled)).toEqual(new Set(['203.0.113.12', '203.0.113.13', '203.0.113.14']));
    // Whoever asks again is seen as the same.
    expect(Array.from({ length: 60 }, (_, i) => seenAs(intent, host(crew!, 20 + i)))).toEqual(pooled);
    const swapped = done(intent, {
      ...{ type: 'translation.set', siteId, translationId: 'rest', from: { turn: 5 }, to: { turn: 0 } },
    });
    expect(differenceOf(told(intent), told(swapped)).lines.length).toBeGreaterThan(0);
  });

  test('is edited and taken back, and follows whom it names to another name', () => {
    const start = done(sample.intent, add(translation('a', `segment ${crew!.name}`)));
    const outcome = apply(start, { type: 'translation.remove', siteId, translationId: 'a' }, lookup);
    if (!outcome.ok) throw new Error('refused');
    expect(outcome.intent.sites.get(siteId)!.translations).toBeUndefined();
    expect(apply(outcome.intent, outcome.inverse, lookup)).toMatchObject({ ok: true, intent: start });
    const rename: Operation = {
      ...{ type: 'segment.set', siteId, segmentId: crew!.id, from: { name: crew!.name }, to: { name: 'Deck' } },
    };
    expect(done(start, rename).sites.get(siteId)!.translations![0]!.from).toEqual(readEnds('segment Deck'));
  });

  test('says what is wrong with it', () => {
    const wrong = (more: Partial<Translation>, intent?: Intent) => refused(add(translation('a', 'any', more)), intent);
    expect(wrong({ name: ' ' })).toMatch('name: Give the translation a name');
    expect(wrong({ port: 'wan7' })).toMatch('port: wan7 of');
    expect(wrong({ pool: '' })).toMatch('pool: Say the addresses of the pool');
    expect(wrong({ pool: 'some' })).toMatch('pool: “some” is no range');
    expect(wrong({ pool: '203.0.0.0/16' })).toMatch('pool: A pool has 1024 addresses at most');
    expect(wrong({ pool: crew!.subnet })).toMatch(`pool: ${crew!.name} of Sample has some`);
    expect(wrong({ from: readEnds('segment Nowhere') })).toMatch('from: There is no segment Nowhere');
    expect(wrong({ deviceId: siteId })).toMatch('no longer at the site');
    const fixed: Operation = {
      ...{ type: 'uplink.set', siteId, deviceId: gateway.id, port: 'wan1', from: null },
      to: { way: 'static', fixed: { address: '203.0.113.12/28', gateway: '203.0.113.1' } },
    };
    expect(wrong({}, done(sample.intent, fixed))).toMatch('pool: The uplink’s own address');
    const off: Operation = { ...fixed, to: { on: false } };
    expect(refused(off, done(sample.intent, add(translation('x', 'any'))))).toMatch(
      'The translation “x” is about wan1',
    );
  });

  test('is found where nothing takes it, nobody can answer, or the provider has to know', () => {
    const fixed: Operation = {
      ...{ type: 'uplink.set', siteId, deviceId: gateway.id, port: 'wan1', from: null },
      to: { way: 'static', fixed: { address: '203.0.113.9/28', gateway: '203.0.113.1' } },
    };
    const known = done(sample.intent, fixed, add(translation('a', `segment ${crew!.name}`)));
    expect(findings(known)).toEqual([]);
    expect(findings(done(sample.intent, add(translation('a', `segment ${crew!.name}`))))[0]).toMatch(
      'paths.translation-pool: The provider has to lead 203.0.113.12-203.0.113.14 to wan1',
    );
    const itself = { as: 'itself' as const, pool: null };
    expect(findings(done(sample.intent, add(translation('a', `segment ${crew!.name}`, itself))))[0]).toMatch(
      'paths.translation-unanswered: Nobody on the internet can answer whom “a” takes',
    );
    const late = add(translation('late', `segment ${crew!.name}`, { turn: 9 }));
    expect(findings(done(known, add(translation('all', 'any', { turn: 5 })), late)).at(-1)).toBe(
      'paths.translation-covered: Nothing takes the translation “late”',
    );
    // One of another uplink takes nothing from it.
    expect(findings(done(known, add(translation('all', 'any', { turn: 0, port: 'wan2' }))))).toHaveLength(1);
  });

  test('is switched off though its pool has become somebody else’s, and not on again', () => {
    const start = done(sample.intent, add(translation('a', 'any', { pool: '10.77.0.8/30' })));
    const taken = done(start, {
      ...{ type: 'segment.set', siteId, segmentId: till!.id },
      from: { subnet: till!.subnet, gateway: till!.gateway, addresses: till!.addresses },
      to: { subnet: '10.77.0.0/24', gateway: '10.77.0.1', addresses: null },
    });
    const put = (off: boolean): Operation => ({
      ...{ type: 'translation.set', siteId, translationId: 'a', from: { off: off ? null : true }, to: { off } },
    });
    const without = done(taken, put(true));
    expect(told(without).translations).toBeUndefined();
    expect(refused(put(false), without)).toMatch('has some of these addresses');
  });

  test('locks devices out that would leave as themselves', () => {
    const itself = { as: 'itself' as const, pool: null };
    const one = done(sample.intent, add(translation('a', 'any', itself)));
    expect(outcomeOf(one, sample.intent).lockOuts).toEqual([]);
    const both = done(one, add(translation('b', 'any', { ...itself, port: 'wan2' })));
    const lost = outcomeOf(both, sample.intent).lockOuts;
    expect(lost.map(({ deviceId }) => deviceId).sort()).toEqual(
      sample.roster.flatMap(({ id }) => (id === gateway.id ? [] : [id])).sort(),
    );
    expect(lost[0]!.why).toMatch(/^It would leave .* by wan1, wan2.* with its own address/);
    // What is so already cuts nobody off.
    expect(outcomeOf(both, both).lockOuts).toEqual([]);
  });
});
