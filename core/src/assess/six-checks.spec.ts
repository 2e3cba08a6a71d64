import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { contains, overlaps, parseIp, parsePrefix } from '../address';
import type { Segment6, SitePart } from '../intent';
import { segment6Within } from '../lattice';
import { appliedWith, sampleSite } from '../testing';
import { findingsOf } from './consequences';

const sample = sampleSite({ segments: 3, aps: 1 });
const gateway = sample.roster.find(({ model }) => model.startsWith('GW'))!;
const of = (v6: Segment6 | null): SitePart => ({
  ...sample.site,
  segments: sample.site.segments.map((each, i) => (i === 1 ? { ...each, v6 } : each)),
});
const global: Segment6 = { prefix: '2001:db8:aa:10::/64', gateway: '2001:db8:aa:10::1', mode: 'slaac' };
const outside = (v6: Segment6 | null, prefix?: string) =>
  findingsOf({
    ...{ estate: sample.intent.estate, site: of(v6), roster: sample.roster, links: sample.links },
    uplinks: [{ deviceId: gateway.id, port: 'wan1', address: '203.0.113.9', ...(prefix ? { prefix } : {}) }],
  }).filter(({ code }) => code === 'uplink.six-outside');

describe('a segment with IPv6', () => {
  test('is found wanting where a provider delegated a prefix that it is not of, and mended into it', () => {
    const [found] = outside(global, '2001:db8:700::/56');
    expect(found).toMatchObject({ severity: 'warning', place: { kind: 'segment', id: sample.site.segments[1]!.id } });
    expect(found!.reason).toContain(`2001:db8:700::/56 at wan1 of ${gateway.name}`);
    const before = { ...sample.intent, sites: new Map([[sample.site.id, of(global)]]) };
    const then = appliedWith(sample.roster, before, ...found!.mend!.operations).sites.get(sample.site.id)!;
    const mended = then.segments[1]!.v6!;
    expect(mended.prefix.startsWith('2001:db8:700:')).toBe(true);
    expect(outside(mended, '2001:db8:700::/56')).toEqual([]);
  });

  test('is none of anybody’s business where nothing was delegated, where it is of it, and only worth a word where it is a local one', () => {
    expect(outside(global)).toEqual([]);
    expect(outside(null, '2001:db8:700::/56')).toEqual([]);
    expect(outside(global, '2001:db8:aa::/48')).toEqual([]);
    expect(outside(global, 'nonsense')).toEqual([]);
    const local: Segment6 = { prefix: 'fd4c:9a21:12:10::/64', gateway: 'fd4c:9a21:12:10::1', mode: 'slaac' };
    expect(outside(local, '2001:db8:700::/56')[0]).toMatchObject({ severity: 'info' });
  });

  test('gets a prefix within what was delegated that no other segment has, until none is left', () => {
    fc.assert(
      fc.property(fc.integer({ min: 56, max: 64 }), fc.array(fc.integer({ min: 0, max: 255 })), (length, taken) => {
        const delegated = parsePrefix(`2001:db8:700::/${length}`)!;
        const [first, ...rest] = sample.site.segments;
        const others = taken.map((id, i) => ({
          ...{ ...rest[0]!, id: `other${i}` },
          v6: { ...global, prefix: `2001:db8:700:${id.toString(16)}::/64` },
        }));
        const made = segment6Within(delegated, { segments: [first!, ...others] }, first!);
        const inside = new Set(taken.filter((id) => id < 2 ** (64 - length)));
        expect(made === null).toBe(inside.size === 2 ** (64 - length));
        if (!made) return;
        const own = parsePrefix(made.prefix)!;
        expect(contains(delegated, { version: 6, value: own.network })).toBe(true);
        expect(contains(own, parseIp(made.gateway)!)).toBe(true);
        expect(others.some(({ v6 }) => overlaps(parsePrefix(v6.prefix)!, own))).toBe(false);
      }),
    );
  });

  test('that gives addresses itself gives the same ones of the new prefix', () => {
    const v6 = { ...global, mode: 'stateful' as const, first: '2001:db8:aa:10::100', last: '2001:db8:aa:10::1ff' };
    const segment = { ...sample.site.segments[1]!, vlan: 30, v6 };
    expect(segment6Within(parsePrefix('2001:db8:700::/48')!, { segments: [segment] }, segment)).toEqual({
      ...{ prefix: '2001:db8:700:30::/64', gateway: '2001:db8:700:30::1', mode: 'stateful' },
      ...{ first: '2001:db8:700:30::100', last: '2001:db8:700:30::1ff' },
    });
  });
});
