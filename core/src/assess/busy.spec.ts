import { describe, expect, test } from 'vitest';
import type { GatewayDocument } from '../document';
import { resolve, type Intent, type Operation } from '../intent';
import { compileSite } from '../rollout';
import { readEnds, readServices } from '../rules';
import { appliedWith, refusedWith, sampleSite } from '../testing';
import { busyParts } from '.';

const sample = sampleSite({ segments: 3, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const [management, crew, guests] = sample.site.segments;
const siteId = sample.site.id;
const done = (...operations: Operation[]): Intent => appliedWith(sample.roster, sample.intent, ...operations);
const kept = (port: string, more: object = {}): Operation => ({
  ...{ type: 'uplink.set', siteId, deviceId: gateway.id, port, from: null },
  to: { down: 100, up: 20, below: 90, ...more },
});
const weigh = (parts: Readonly<Record<string, number>>): Operation => ({
  ...{ type: 'uplink.leaving', siteId, deviceId: gateway.id, from: null, to: { parts } },
});
const parts = (intent: Intent, port = 'wan1') =>
  busyParts(resolve(intent.estate, intent.sites.get(siteId)!), sample.roster, gateway, port)?.map(
    ({ name, down, up, capped }) => [name, down, up, capped],
  ) ?? null;
const told = (intent: Intent) =>
  compileSite(resolve(intent.estate, intent.sites.get(siteId)!), sample.roster).get(gateway.id) as GatewayDocument;

describe('an uplink that is kept below what it can do', () => {
  test('is told so, and what each segment weighs; nothing is told while nothing is said', () => {
    expect(told(sample.intent).uplinks[0]!.shape).toBeUndefined();
    const intent = done(kept('wan1'), weigh({ [crew!.id]: 3, [guests!.id]: 1, [sample.intent.estate.id]: 7 }));
    expect(told(intent).uplinks[0]!.shape).toEqual({ down: 90_000, up: 18_000 });
    expect(told(intent).leaving).toEqual({ parts: [{ vlan: crew!.vlan, weight: 3 }] });
    expect(parts(sample.intent)).toBeNull();
  });

  test('is parted by weight among those who leave by it, and nobody gets more than its own cap', () => {
    const capped: Operation = {
      ...{ type: 'segment.set', siteId, segmentId: guests!.id, from: { caps: null } },
      to: { caps: { all: { down: 10_000 } } },
    } as never;
    const even = done(kept('wan1'));
    expect(parts(even)).toEqual([
      [management!.name, 30_000, 6000, false],
      [crew!.name, 30_000, 6000, false],
      [guests!.name, 30_000, 6000, false],
    ]);
    const weighed = done(kept('wan1'), weigh({ [crew!.id]: 3 }), capped);
    expect(parts(weighed)).toEqual([
      [management!.name, 20_000, 3600, false],
      [crew!.name, 60_000, 10_800, false],
      [guests!.name, 10_000, 3600, true],
    ]);
  });

  test('counts those alone who leave by it: a standby nobody, a course those that it takes', () => {
    const course: Operation = {
      ...{ type: 'course.add', siteId },
      course: {
        ...{ id: 'c', deviceId: gateway.id, name: 'Crew', turn: 1, from: readEnds(`segment ${crew!.name}`) },
        ...{ to: readEnds('any'), services: readServices('any').services, ports: ['wan2'], how: 'first' },
        otherwise: 'nothing',
      },
    };
    expect(parts(done(kept('wan2')), 'wan2')).toEqual([]);
    const steered = done(kept('wan1'), kept('wan2'), course);
    expect(parts(steered, 'wan2')).toEqual([[crew!.name, 90_000, 18_000, false]]);
    expect(parts(steered)!.map(([name]) => name)).toEqual([management!.name, guests!.name]);
  });

  test.each([
    ['how much it can do is not known', kept('wan1', { up: null }), 'below: Say first what it can do down and up'],
    ['it is kept to nearly nothing', kept('wan1', { below: 10 }), 'below: It is kept to 50 to 99 %'],
    ['a weight is none', weigh({ [sample.site.segments[0]!.id]: 0 }), 'parts: A segment’s weight is more than 0'],
  ])('is refused where %s', (_what, operation, words) => {
    expect(refusedWith(sample.roster, sample.intent, operation)).toMatch(words);
  });
});
