import { expect, test } from 'vitest';
import type { IpRange, IpVersion } from '../address';
import { randomFrom } from '../base';
import { randomRules } from '../testing';
import { deadRules, relationsOf } from './anomalies';
import { Decider } from './decider';
import { breachOf, type Guarantee } from './guarantee';
import { VERSIONS } from './layers';
import { boxesOf, firstMatch, type PacketRule } from './packet-rule';
import { Passage } from './passage';
import type { ReachEnd } from './reach';
import { shapeOf } from './shape';

const seed = Number(process.env['SEED'] ?? 1);
const ENDS = { 4: 1n << 32n, 6: 1n << 128n } as const;
type Move = (ranges: readonly IpRange[] | null) => readonly IpRange[] | null;

/** Moves addresses elsewhere so that their bounds keep their order, as another site has other prefixes. */
function moved(rules: readonly PacketRule[], places: readonly (readonly IpRange[])[], by: number): Move {
  const random = randomFrom(by);
  const to = ([4, 6] as const).map((version): [IpVersion, Map<bigint, bigint>] => {
    const all = [...rules.flatMap(({ source, destination }) => [source ?? [], destination ?? []]), ...places].flat();
    const of = all.filter((range) => range.version === version);
    const bounds = [...new Set([0n, ENDS[version], ...of.flatMap(({ first, last }) => [first, last + 1n])])];
    bounds.sort((a, b) => (a < b ? -1 : 1));
    let at = 0n;
    const step = version === 4 ? 1_000_000 : 1_000_000_000;
    const found = bounds.map((bound): [bigint, bigint] => {
      const target = bound === 0n ? 0n : bound === ENDS[version] ? bound : (at += 1n + BigInt(random(step)));
      return [bound, target];
    });
    return [version, new Map(found)];
  });
  const maps = Object.fromEntries(to) as Record<IpVersion, Map<bigint, bigint>>;
  return (ranges) =>
    ranges &&
    ranges.map(({ version, first, last }) => ({
      version,
      first: maps[version].get(first)!,
      last: maps[version].get(last + 1n)! - 1n,
    }));
}
const bare = (list: readonly PacketRule[]) => shapeOf({ lists: [list], ranges: [], more: '' });
const place = (key: string, addresses: readonly IpRange[]): ReachEnd => ({ key, addresses });

test('lists whose addresses lie in the same order have one shape, and the same rules of both decide nothing and get in each other’s way', () => {
  let [idle, related] = [0, 0];
  for (let round = 0; round < 15; round++) {
    const list = randomRules(seed * 500 + round, 30, 3);
    const move = moved(list, [], round);
    const other = list.map((rule) => ({
      ...{ ...rule, id: `other ${rule.id}` },
      ...{ source: move(rule.source), destination: move(rule.destination) },
    }));
    const asked = bare(list).answer('', () => round);
    expect(bare(other).answer('', () => -1)).toBe(asked);
    const foundIn = (rules: readonly PacketRule[]) => {
      const decider = new Decider(rules);
      const at = (rule: PacketRule): number => rules.indexOf(rule);
      return {
        dead: deadRules(decider, rules).map(at),
        relations: relationsOf(decider, rules).map(({ rule, by, kind }) => [at(rule), at(by), kind]),
      };
    };
    const found = foundIn(list);
    expect(foundIn(other)).toEqual(found);
    idle += found.dead.length;
    related += found.relations.length;
  }
  expect(idle).toBeGreaterThan(0);
  expect(related).toBeGreaterThan(0);
});

test('a list that differs in a verdict, an order, a service or where one bound lies has another shape', () => {
  const list = randomRules(seed, 12, 3).filter(({ source }) => source && source.length > 0);
  const key = `differs ${Math.random()}`;
  expect(bare(list).answer(key, () => 'first')).toBe('first');
  const [one, ...rest] = list as [PacketRule, ...PacketRule[]];
  const [range, ...others] = one.source!;
  const changed = [
    [{ ...one, verdict: one.verdict === 'allow' ? 'deny' : 'allow' } as PacketRule, ...rest],
    [...rest, one],
    [{ ...one, services: [{ protocol: 'tcp', ports: [{ first: 7, last: 9 }] }] } as PacketRule, ...rest],
    [{ ...one, source: [{ ...range!, last: range!.last + 1n }, ...others] }, ...rest],
    [{ ...one, source: null }, ...rest],
  ];
  for (const other of changed) expect(bare(other).answer(key, () => 'anew')).toBe('anew');
});

/** Whether a guarantee holds, by the sets themselves; nothing is remembered. */
function holdsIn(rules: readonly PacketRule[], { kind, from, to, services }: Guarantee): boolean {
  const decider = new Decider(rules);
  return VERSIONS.every((version) => {
    const space = decider.space(version);
    const sum = (source: ReachEnd['addresses']) =>
      boxesOf({ source, destination: to.addresses, services }, version).reduce(
        (set, box) => space.unite(set, space.box(box)),
        space.none,
      );
    const [allowed, about] = [decider.allowed(version, 'deny'), sum(from.addresses)];
    if (kind === 'never') return space.intersect(allowed, about) === space.none;
    if (kind === 'always') return space.subtract(about, allowed) === space.none;
    return space.intersect(allowed, space.subtract(sum(null), about)) === space.none;
  });
}

test('what is known of a guarantee from another site of the same shape is what trying packets finds', () => {
  let [holds, broken] = [0, 0];
  for (let round = 0; round < 40; round++) {
    const list = randomRules(seed * 900 + (round >> 2), 12, 4);
    const ends = list.flatMap(({ source, destination }) => [source ?? [], destination ?? []]).filter((each) => each[0]);
    const [from, to] = [ends[round % ends.length]!, ends[(round * 7 + 3) % ends.length]!];
    const move = moved(list, [from, to], round);
    const other = list.map((rule) => ({ ...rule, source: move(rule.source), destination: move(rule.destination) }));
    const services = list[round % list.length]!.services;
    for (const kind of ['never', 'always', 'only'] as const) {
      const asked: Guarantee = { kind, services, from: place('from', from), to: place('to', to) };
      const first = breachOf(new Passage(new Decider(list), [], 'deny', null, [from, to]), asked);
      const there = [move(from)!, move(to)!] as const;
      const second = breachOf(new Passage(new Decider(other), [], 'deny', null, there), {
        ...asked,
        ...{ from: place('from', there[0]), to: place('to', there[1]) },
      });
      expect(first === null).toBe(holdsIn(list, asked));
      expect(second === null).toBe(first === null);
      if (!second) {
        holds++;
        continue;
      }
      broken++;
      const verdict = firstMatch(other, second.packet)?.verdict ?? 'deny';
      expect(verdict).toBe(kind === 'always' ? 'deny' : 'allow');
      const { version, destination } = second.packet;
      expect(there[1].some((r) => r.version === version && r.first <= destination && destination <= r.last)).toBe(true);
    }
  }
  expect(holds).toBeGreaterThan(5);
  expect(broken).toBeGreaterThan(5);
});
