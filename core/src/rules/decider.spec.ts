import { expect, test } from 'vitest';
import { aimedPackets, randomFrom, randomRules, rulePrefix } from '../testing';
import { parsePrefix, rangeOf } from '../address';
import { deadRules, idleRules, relationsOf } from './anomalies';
import { Decider } from './decider';
import { answeredRule, answerTo, flowWorks } from './flow';
import { firstMatch, pointOf, type PacketRule } from './packet-rule';
import { ReachReader, between, type ReachEnd } from './reach';

const seed = Number(process.env['SEED'] ?? 1);
const SEGMENTS = 8;

const rule = (
  id: string,
  verdict: 'allow' | 'deny',
  source: string,
  destination: string,
  ...ports: number[]
): PacketRule => ({
  id,
  verdict,
  source: source === 'any' ? null : [rangeOf(parsePrefix(source)!)],
  destination: destination === 'any' ? null : [rangeOf(parsePrefix(destination)!)],
  services:
    ports.length === 0
      ? [{ protocol: 'any' }]
      : [{ protocol: 'tcp', ports: ports.map((port) => ({ first: port, last: port })) }],
});

test('every packet is decided as by trying one rule after the other, at the edges of every rule too', () => {
  for (let round = 0; round < 6; round++) {
    const rules = randomRules(seed * 100 + round, 5 + round * 12, SEGMENTS);
    const decider = new Decider(rules);
    for (const packet of aimedPackets(seed + round, rules, 1500, SEGMENTS))
      expect([packet, decider.decide(packet)?.id ?? null]).toEqual([packet, firstMatch(rules, packet)?.id ?? null]);
  }
});

test('after edits, moves and removals the answers are those of a decider that never knew another list', () => {
  const random = randomFrom(seed);
  let rules = randomRules(seed, 40, SEGMENTS);
  const decider = new Decider(rules);
  decider.decisions(4);
  for (let round = 0; round < 25; round++) {
    const next = [...rules];
    const at = random(next.length);
    const kind = random(4);
    if (kind === 0) next[at] = { ...next[at]!, verdict: next[at]!.verdict === 'allow' ? 'deny' : 'allow' };
    else if (kind === 1) next.splice(random(next.length), 0, ...next.splice(at, 1));
    else if (kind === 2) next.splice(at, 1);
    else next.splice(at, 0, { ...randomRules(seed + round, 1, SEGMENTS)[0]!, id: `new-${round}` });
    rules = next;
    decider.replace(rules);
    for (const packet of aimedPackets(round, rules, 120, SEGMENTS))
      expect(decider.decide(packet)).toBe(firstMatch(rules, packet));
  }
});

test('each cell of the reach matrix is all, some or none of the packets between two places', () => {
  const open = rule('open', 'allow', rulePrefix(1, 4), rulePrefix(2, 4));
  const rules = [open, ...randomRules(seed + 7, 60, SEGMENTS)];
  const decider = new Decider(rules);
  const places: ReachEnd[] = Array.from({ length: SEGMENTS }, (_, i) => ({
    key: String(i),
    addresses: [4, 6].map((version) => rangeOf(parsePrefix(rulePrefix(i, version as 4 | 6))!)),
  }));
  places.push(
    { key: 'anywhere', addresses: null },
    { key: 'only four', addresses: [rangeOf(parsePrefix('10.20.3.0/28')!)] },
  );
  const seen = new Set<string>();
  for (const version of [4, 6] as const) {
    const space = decider.space(version);
    const allowed = decider.allowed(version, 'deny');
    const matrix = new ReachReader(space, places).matrix(allowed);
    for (const [i, from] of places.entries())
      for (const [j, to] of places.entries()) {
        const all = between(space, from, to);
        const through = space.intersect(allowed, all);
        const wanted =
          all === space.none ? 'absent' : through === all ? 'all' : through === space.none ? 'none' : 'some';
        expect([i, j, matrix[i]![j]]).toEqual([i, j, wanted]);
        seen.add(wanted);
      }
  }
  expect(seen).toEqual(new Set(['all', 'some', 'none', 'absent']));
});

test('rules that get in each other’s way are found, also where only several together take all of one', () => {
  const rules = [
    rule('half', 'deny', '10.20.0.0/25', 'any'),
    rule('other half', 'deny', '10.20.0.128/25', 'any'),
    rule('whole', 'allow', '10.20.0.0/24', 'any'),
    rule('web', 'allow', '10.20.1.0/24', '10.20.2.0/24', 80, 443),
    rule('secure web', 'allow', '10.20.1.0/24', '10.20.2.0/24', 443),
    rule('no web from all', 'deny', 'any', '10.20.2.0/24', 443, 8080),
    rule('end', 'deny', 'any', 'any'),
  ];
  const decider = new Decider(rules);
  const said = relationsOf(decider, rules).map(({ rule: of, by, kind }) => `${of.id} ${kind} by ${by.id}`);
  expect(said).toContain('secure web redundant by web');
  expect(said).toContain('no web from all correlated by web');
  expect(said).toContain('whole generalization by half');
  expect(said).toContain('end generalization by web');
  expect(said).toContain('no web from all redundant by end');
  expect(deadRules(decider, rules).map(({ id }) => id)).toEqual(['whole', 'secure web']);
  // What only denies what is denied anyway is idle, but for the halves, which keep the whole from letting it through.
  expect(idleRules(decider, rules, 'deny').map(({ id }) => id)).toEqual([
    'whole',
    'secure web',
    'no web from all',
    'end',
  ]);
});

test('a rule is idle exactly when taking it out changes the decision of no packet', () => {
  for (let round = 0; round < 8; round++) {
    const rules = randomRules(seed * 50 + round, 14, 3);
    const decider = new Decider(rules);
    const idle = new Set(idleRules(decider, rules, 'deny'));
    for (const taken of rules) {
      const without = new Decider(rules.filter((each) => each !== taken));
      const same = ([4, 6] as const).every((version) => {
        const space = decider.space(version);
        return (
          space.count(decider.allowed(version, 'deny')) ===
          without.space(version).count(without.allowed(version, 'deny'))
        );
      });
      // Fewer or more packets is a change; as many may still be others, which aimed packets tell.
      const differs =
        !same ||
        aimedPackets(round, rules, 400, 3).some(
          (packet) => (firstMatch(rules, packet)?.verdict ?? 'deny') !== (without.decide(packet)?.verdict ?? 'deny'),
        );
      if (idle.has(taken)) expect(differs).toBe(false);
      else expect([taken.id, differs]).toEqual([taken.id, true]);
    }
  }
});

test('answers follow where state is kept, and are judged themselves where it is not', () => {
  const rules = [rule('web', 'allow', '10.20.1.0/24', '10.20.2.0/24', 443)];
  const decider = new Decider(rules);
  const packet = {
    version: 4,
    source: 0x0a140105n,
    destination: 0x0a140209n,
    protocol: 6,
    sourcePort: 50_000,
    port: 443,
  } as const;
  expect(flowWorks(decider, packet, 'deny', true)).toBe(true);
  expect(flowWorks(decider, packet, 'deny', false)).toBe(false);
  expect(flowWorks(decider, answerTo(packet)!, 'deny', true)).toBe(false);
  expect(pointOf(answerTo(packet)!)).toEqual([0x0a140209, 0x0a140105, 50_000, 443]);
  const ping = { version: 6, source: 1n, destination: 2n, protocol: 58, type: 128, code: 0 } as const;
  expect(answerTo(ping)).toEqual({ version: 6, source: 2n, destination: 1n, protocol: 58, type: 129, code: 0 });
  const icmp = (version: 4 | 6, type: number) =>
    answerTo({ version, source: 1n, destination: 2n, protocol: version === 4 ? 1 : 58, type, code: 0 })?.type ?? null;
  // RFC 792: timestamp, information; RFC 950: address mask. What reports an error or answers is not answered.
  expect([13, 15, 17].map((type) => icmp(4, type))).toEqual([14, 16, 18]);
  expect([0, 3, 5, 11, 12, 14].map((type) => icmp(4, type))).toEqual([null, null, null, null, null, null]);
  expect([1, 2, 3, 4, 129].map((type) => icmp(6, type))).toEqual([null, null, null, null, null]);
});

test('a list that judges answers too lets a message through that asks for none, whatever it says of the way back', () => {
  const rule = (id: string, verdict: 'allow' | 'deny', type?: number): PacketRule => ({
    id,
    verdict,
    source: null,
    destination: null,
    services: [{ protocol: 1, ...(type === undefined ? {} : { type }) }],
  });
  const unreachable = { version: 4, source: 1n, destination: 2n, protocol: 1, type: 3, code: 1 } as const;
  const timestamp = { ...unreachable, type: 13, code: 0 } as const;
  const decider = new Decider([rule('a', 'allow', 3), rule('b', 'allow', 13), rule('c', 'deny')]);
  expect(flowWorks(decider, unreachable, 'deny', false)).toBe(true);
  expect(flowWorks(decider, timestamp, 'deny', false)).toBe(false);
  expect(answeredRule(rule('d', 'deny', 14)).services).toEqual([{ protocol: 1, type: 13 }]);
  expect(answeredRule(rule('d', 'deny', 3)).services).toEqual([]);
});

test('the rules that decide packets of one are those that a plain evaluator finds for its packets', () => {
  const rules = randomRules(5, 60, 6);
  const decider = new Decider(rules);
  const seen = new Map<string, Set<string>>();
  for (const packet of aimedPackets(8, rules, 4000, 6)) {
    const first = firstMatch(rules, packet)!;
    for (const rule of rules)
      if (firstMatch([rule], packet)) seen.set(rule.id, (seen.get(rule.id) ?? new Set()).add(first.id));
  }
  for (const rule of rules) {
    const ids = decider.decidersOf(rule).map(({ id }) => id);
    expect(ids).toEqual(expect.arrayContaining([...(seen.get(rule.id) ?? [])]));
    // None stands behind the rule itself.
    expect(ids.every((id) => rules.findIndex((each) => each.id === id) <= rules.indexOf(rule))).toBe(true);
  }
});
