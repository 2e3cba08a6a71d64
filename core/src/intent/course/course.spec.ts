import { describe, expect, test } from 'vitest';
import { consequencesOf, segmentStreams } from '../../assess';
import { differenceOf, type GatewayDocument } from '../../document';
import { compileSite } from '../../rollout';
import { readEnds, readServices } from '../../rules';
import { appliedWith, refusedWith, sampleSite } from '../../testing';
import { apply, type Intent, type Operation } from '..';
import { resolve } from '../resolve';
import type { Course } from './course';

const sample = sampleSite({ segments: 3, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const siteId = sample.site.id;
const lookup = (id: string) => sample.roster.find((each) => each.id === id);
const course = (id: string, from: string, more: Partial<Course> = {}): Course => ({
  ...{ id, deviceId: gateway.id, name: id, turn: 0, from: readEnds(from), to: readEnds('internet') },
  ...{ services: readServices('any').services, ports: ['wan1'], how: 'first' as const, otherwise: 'nothing' as const },
  ...more,
});
const add = (one: Course): Operation => ({ type: 'course.add', siteId, course: one });
const done = (intent: Intent, ...operations: Operation[]) => appliedWith(sample.roster, intent, ...operations);
const refused = (operation: Operation, intent: Intent = sample.intent) => refusedWith(sample.roster, intent, operation);
const siteOf = (intent: Intent) => resolve(intent.estate, intent.sites.get(siteId)!);
const told = (intent: Intent) => compileSite(siteOf(intent), sample.roster).get(gateway.id) as GatewayDocument;
const findings = (intent: Intent) =>
  consequencesOf({ estate: intent.estate, site: intent.sites.get(siteId)!, roster: sample.roster, told: {}, links: [] })
    .findings.filter(({ code }) => code.startsWith('paths.'))
    .map(({ code, message, reason }) => `${code} ${message}: ${reason}`);
const segment = sample.site.segments[1]!;

describe('courses', () => {
  test('are told to their gateway with addresses for names, in their turn; without any nothing is told', () => {
    expect(told(sample.intent).courses).toBeUndefined();
    const intent = done(
      sample.intent,
      add(course('second', 'any', { turn: 2, ports: ['wan2', 'wan1'], otherwise: 'usual', dscp: [46, 46] })),
      add(course('first', `segment ${segment.name}`, { turn: 1, needs: { voice: 4 } })),
      add(course('off', 'any', { turn: 3, off: true })),
    );
    const { courses } = told(intent);
    expect(courses!.map(({ name }) => name)).toEqual(['first', 'second']);
    expect(courses![0]).toMatchObject({
      from: [segment.subnet],
      ways: [{ port: 'wan1', turn: 0 }],
      otherwise: 'nothing',
    });
    expect(courses![0]!.needs).toEqual({ voice: 4 });
    expect(courses![1]).toMatchObject({ dscp: [46], ways: [{ port: 'wan2' }, { port: 'wan1' }] });
    // Another order of uplinks is something new to a gateway, and to whoever reads what it is told.
    const turned = done(intent, {
      ...{ type: 'course.set', siteId, courseId: 'second', from: { ports: ['wan2', 'wan1'] } },
      to: { ports: ['wan1', 'wan2'] },
    });
    expect(differenceOf(told(intent), told(turned)).lines.length).toBeGreaterThan(0);
  });

  test('are edited, and taken back', () => {
    const start = done(sample.intent, add(course('a', 'any')));
    const outcome = apply(start, { type: 'course.remove', siteId, courseId: 'a' }, lookup);
    if (!outcome.ok) throw new Error('refused');
    expect(outcome.intent.sites.get(siteId)!.courses).toBeUndefined();
    expect(apply(outcome.intent, outcome.inverse, lookup)).toMatchObject({ ok: true, intent: start });
    const rename: Operation = {
      ...{ type: 'segment.set', siteId, segmentId: segment.id, from: { name: segment.name } },
      to: { name: 'Tills' },
    };
    const named = done(sample.intent, add(course('b', `segment ${segment.name}`)), rename);
    expect(named.sites.get(siteId)!.courses![0]!.from).toEqual(readEnds('segment Tills'));
  });

  test('say what is wrong with them', () => {
    expect(refused(add(course('a', 'any', { ports: [] })))).toMatch('ports: Say at least one uplink');
    expect(refused(add(course('a', 'any', { ports: ['wan7'] })))).toMatch('ports: wan7 of');
    expect(refused(add(course('a', 'any', { name: ' ' })))).toMatch('name: Give the course a name');
    expect(refused(add(course('a', 'segment Nowhere')))).toMatch('from: There is no segment Nowhere');
    expect(refused(add(course('a', 'any', { dscp: [64] })))).toMatch('dscp: A mark');
    expect(refused(add(course('a', 'any', { needs: { voice: 5 } })))).toMatch('needs: A voice score is 1 to 4.4');
    const needs = { latency: 100 };
    const steady = { bad: 0, good: 1, margin: 0 };
    expect(refused(add(course('a', 'any', { needs, steady })))).toMatch('steady: Rounds in a row');
    expect(refused(add(course('a', 'any', { deviceId: siteId })))).toMatch('no longer at the site');
    const one = done(sample.intent, add(course('a', 'any', { name: 'Calls' })));
    expect(refused(add(course('b', 'any', { name: 'calls' })), one)).toMatch('has a course “calls” already');
    const leaves: Operation = {
      type: 'uplink.set',
      siteId,
      deviceId: gateway.id,
      port: 'wan1',
      from: null,
      to: { on: false },
    };
    expect(refused(leaves, one)).toMatch('The course “Calls” leaves by wan1');
    const none: Operation = { ...leaves, to: { weight: 0 } };
    const shares: Operation = { ...leaves, port: 'wan2', to: { role: 'shares', weight: 2 } };
    const sharing = done(sample.intent, shares, none);
    expect(refused(add(course('a', 'any', { how: 'share' })), sharing)).toMatch('are 0: nobody would leave');
  });

  test('that nothing takes are found: of whom there is none here, or whom others take before', () => {
    const covered = done(
      sample.intent,
      add(course('all', 'any', { turn: 1 })),
      add(course('late', `segment ${segment.name}`, { turn: 2 })),
    );
    expect(findings(covered)).toEqual([
      'paths.course-covered Nothing takes the course “late”: All of its packets are taken by “all”, which come before it.',
    ]);
    // What asks for marks takes nothing for certain.
    const marked = done(covered, {
      ...{ type: 'course.set', siteId, courseId: 'all', from: { dscp: null }, to: { dscp: [46] } },
    });
    expect(findings(marked)).toEqual([]);
    const off: Operation = {
      type: 'segment.set',
      siteId,
      segmentId: segment.id,
      from: { off: null },
      to: { off: true },
    } as never;
    const gone = apply(done(sample.intent, add(course('lost', `segment ${segment.name}`))), off, lookup);
    if (gone.ok) expect(findings(gone.intent)[0]).toMatch('Nothing takes the course “lost”');
    expect(gone.ok).toBe(true);
  });

  test('whose uplinks their gateway has no more are found, with all else that counts on them', () => {
    const intent = done(
      sample.intent,
      add(course('both', 'any', { ports: ['wan1', 'wan2'] })),
      add(course('one', 'any', { ports: ['wan2'], turn: 1 })),
      {
        ...{ type: 'publication.add', siteId },
        publication: {
          ...{ id: 'p', deviceId: gateway.id, name: 'Shop', ports: ['wan2'], protocol: 'tcp', outside: '443' },
          ...{ address: segment.subnet.replace(/\d+\/\d+$/, '5'), from: readEnds('internet') },
        },
      },
    );
    const smaller = { ...gateway, model: 'GW-3C' };
    const roster = sample.roster.map((each) => (each.id === gateway.id ? smaller : each));
    const { findings: all } = consequencesOf({
      ...{ estate: intent.estate, site: intent.sites.get(siteId)!, roster, told: {}, links: [] },
    });
    expect(
      all.filter(({ code }) => code === 'paths.lost-port').map(({ message, severity }) => [severity, message]),
    ).toEqual([
      ['error', 'The course “one” is in force nowhere'],
      ['error', 'The published port “Shop” is in force nowhere'],
      ['warning', 'The course “both” counts on an uplink that is gone'],
    ]);
    expect(findings(intent).filter((each) => each.includes('lost-port'))).toEqual([]);
  });

  test('take what leaves of each segment: all of it, some, or what bears a mark', () => {
    const intent = done(
      sample.intent,
      add(course('all', `segment ${segment.name}`, { turn: 1 })),
      add(course('some', `segment ${sample.site.segments[2]!.name}`, { turn: 2, to: readEnds('198.51.100.0/24') })),
      add(course('calls', 'any', { turn: 0, dscp: [46] })),
    );
    const streams = segmentStreams(siteOf(intent), sample.roster, gateway);
    expect(streams.map(({ courses, usual }) => [courses.join(), usual])).toEqual([
      ['calls', true],
      ['calls,all', false],
      ['calls,some', true],
    ]);
    // What is for one address alone: there it is all of it, elsewhere none.
    const third = (to: string) => segmentStreams(siteOf(intent), sample.roster, gateway, to)[2]!;
    expect(third('198.51.100.7')).toMatchObject({ courses: ['calls', 'some'], usual: false });
    expect(third('203.0.113.7')).toMatchObject({ courses: ['calls'], usual: true });
  });
});

describe('a guarantee that somebody is served', () => {
  const guarantee = (within: number, more: object = {}): Operation => ({
    ...{ type: 'guarantee.add', siteId },
    guarantee: {
      ...{ id: 'g', kind: 'served', from: readEnds(`segment ${segment.name}`), to: readEnds('internet') },
      ...{ services: readServices('any').services, within, ...more },
    },
  });
  const uplinks = (...ports: string[]) => ports.map((port) => ({ deviceId: gateway.id, port, address: '203.0.113.9' }));
  const results = (intent: Intent, up = uplinks('wan1', 'wan2')) =>
    consequencesOf({
      ...{
        estate: intent.estate,
        site: intent.sites.get(siteId)!,
        roster: sample.roster,
        told: {},
        links: [],
        uplinks: up,
      },
    }).guarantees.map(({ words, state, packet, why }) => [state, words, packet, why]);

  test('holds while another uplink stands in soon enough, at worst', () => {
    const words = `segment ${segment.name} is without internet for at most`;
    // Three rounds of five seconds, and two until the last is given up.
    expect(results(done(sample.intent, guarantee(17)))).toEqual([
      ['holds', `${words} 17 s when any one uplink fails`, undefined, undefined],
    ]);
    expect(results(done(sample.intent, guarantee(10)))[0]).toMatchObject([
      'broken',
      `${words} 10 s when any one uplink fails`,
      'When nothing gets through wan1',
      `${segment.name} waits for 17 s at worst.`,
    ]);
    expect(results(done(sample.intent, guarantee(17)), uplinks('wan1'))[0]![3]).toBe(
      `${segment.name} waits for as long as it lasts.`,
    );
    expect(results(done(sample.intent, guarantee(17, { fails: 2 })))[0]![0]).toBe('broken');
  });

  test('is broken by a course that may leave by one alone, and says which', () => {
    const intent = done(
      sample.intent,
      guarantee(17),
      add(course('Ticketing', `segment ${segment.name}`, { ports: ['wan1'] })),
    );
    expect(results(intent)[0]).toMatchObject([
      'broken',
      expect.anything(),
      'When nothing gets through wan1',
      `${segment.name}, by the course “Ticketing”, waits for as long as it lasts.`,
    ]);
    expect(refused(guarantee(-1))).toMatch('within: Say how many seconds');
  });
});
