import { expect, test } from 'vitest';
import { formatRange, parsePrefix, rangeOf } from '../address';
import { randomRules, rulePrefix } from '../testing';
import { Decider } from './decider';
import { examplePacket, packetWords } from './example-packet';
import { breachOf, type Guarantee } from './guarantee';
import { firstMatch, pointOf, type PacketRule } from './packet-rule';
import { Passage } from './passage';
import type { ReachEnd } from './reach';
import { trafficOf } from './traffic';

const seed = Number(process.env['SEED'] ?? 1);
const place = (...prefixes: string[]): ReachEnd => ({
  key: prefixes.join(),
  addresses: prefixes.map((text) => rangeOf(parsePrefix(text)!)),
});
const [crew, guests, printers] = [place('10.20.1.0/24'), place('10.20.2.0/24'), place('10.20.3.0/28')];
const https = [{ protocol: 'tcp', ports: [{ first: 443, last: 443 }] }] as const;
const any = [{ protocol: 'any' }] as const;
const rules: PacketRule[] = [
  { id: 'print', verdict: 'allow', source: crew.addresses, destination: printers.addresses, services: https },
  { id: 'quiet guests', verdict: 'deny', source: guests.addresses, destination: crew.addresses, services: any },
  { id: 'slip', verdict: 'allow', source: guests.addresses, destination: printers.addresses, services: https },
];
const breach = (guarantee: Guarantee) => {
  const found = breachOf(new Passage(new Decider(rules), [], 'deny'), guarantee);
  return found && [packetWords(found.packet), found.rule?.id ?? null];
};

test('a guarantee holds, or a packet tells that it does not, with the rule to blame', () => {
  expect(breach({ kind: 'never', from: guests, to: crew, services: any })).toBeNull();
  expect(breach({ kind: 'never', from: guests, to: printers, services: any })).toEqual([
    '10.20.2.10 → 10.20.3.10, TCP 443',
    'slip',
  ]);
  expect(breach({ kind: 'always', from: crew, to: printers, services: https })).toBeNull();
  expect(breach({ kind: 'always', from: crew, to: printers, services: any })).toEqual([
    '10.20.1.10 → 10.20.3.10, TCP 80',
    null,
  ]);
  expect(breach({ kind: 'only', from: crew, to: printers, services: any })?.[1]).toBe('slip');
  expect(breach({ kind: 'only', from: place('10.20.1.0/24', '10.20.2.0/24'), to: printers, services: any })).toBeNull();
});

test('what breaks a guarantee of random rules is judged so by trying one rule after the other', () => {
  let broken = 0;
  for (let round = 0; round < 30; round++) {
    const list = randomRules(seed * 30 + round, 25, 4);
    const decider = new Decider(list);
    const [from, to] = [
      place(rulePrefix(round % 4, 4), rulePrefix(round % 4, 6)),
      place(rulePrefix(3, 4), rulePrefix(3, 6)),
    ];
    for (const kind of ['never', 'always'] as const) {
      const found = breachOf(new Passage(decider, [], 'deny'), { kind, from, to, services: any });
      if (!found) continue;
      broken++;
      const rule = firstMatch(list, found.packet);
      expect(found.rule).toBe(rule);
      expect(rule?.verdict ?? 'deny').toBe(kind === 'never' ? 'allow' : 'deny');
      expect(
        from.addresses!.some((each) => found.packet.source >= each.first && found.packet.source <= each.last),
      ).toBe(true);
    }
  }
  expect(broken).toBeGreaterThan(20);
});

test('a set is read as lines that together are exactly it', () => {
  for (let round = 0; round < 10; round++) {
    const decider = new Decider(randomRules(seed * 10 + round, 20, 3));
    for (const version of [4, 6] as const) {
      const space = decider.space(version);
      const set = decider.allowed(version, 'deny');
      const lines = trafficOf(space, set);
      const again = lines.reduce((sum, { box }) => space.unite(sum, space.box(box)), space.none);
      expect(again).toBe(set);
      const example = examplePacket(space, set);
      if (example) expect(space.at(set, pointOf(example))).toBe(1);
    }
  }
});

test('lines say who, to whom and what', () => {
  const decider = new Decider(rules);
  const lines = trafficOf(decider.space(4), decider.allowed(4, 'deny')).map(({ sources, destinations, services }) => [
    sources.map(formatRange),
    destinations.map(formatRange),
    services,
  ]);
  expect(lines).toEqual([[['10.20.1.0-10.20.2.255'], ['10.20.3.0-10.20.3.15'], ['TCP 443']]]);
});

test('neighbours reach each other without rules, unless they are kept apart; what does not count is left out', () => {
  const within = (apart: boolean): Passage =>
    new Passage(new Decider(rules), [{ addresses: guests.addresses!, apart }], 'deny');
  const among: Guarantee = { kind: 'never', from: guests, to: guests, services: any };
  expect(breachOf(within(false), among)).toMatchObject({ rule: null });
  expect(breachOf(within(true), among)).toBeNull();
  expect(breachOf(within(true), { kind: 'always', from: guests, to: printers, services: https })).toBeNull();
  const private_ = { kind: 'never', from: guests, to: place('10.0.0.0/8'), services: any } as const;
  expect(breachOf(within(true), private_)?.rule?.id).toBe('slip');
  expect(breachOf(within(true), { ...private_, besides: printers.addresses })).toBeNull();
});
