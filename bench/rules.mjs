// Rules: the whole reach matrix, one edit, one question; and how that grows, beside trying one rule after the other.
import { register } from 'tsx/esm/api';
import { figure, percentile } from './figures.mjs';

const SEGMENTS = 60;

export async function benchRules() {
  register();
  const { parsePrefix, rangeOf } = await import('@iron-lattice/core/address');
  const { Decider, ReachReader, firstMatch } = await import('@iron-lattice/core/rules');
  const { aimedPackets, randomRules, rulePrefix } = await import('@iron-lattice/core/testing');
  const places = Array.from({ length: SEGMENTS }, (_, i) => ({
    key: String(i),
    addresses: [4, 6].map((version) => rangeOf(parsePrefix(rulePrefix(i, version)))),
  }));
  places.push({ key: 'anywhere', addresses: null });
  const readers = (decider) => [4, 6].map((version) => [version, new ReachReader(decider.space(version), places)]);
  const matrices = (decider, known = readers(decider)) =>
    known.map(([version, reader]) => reader.matrix(decider.allowed(version, 'deny')));
  const timed = (act) => {
    const began = performance.now();
    act();
    return performance.now() - began;
  };
  matrices(new Decider(randomRules(9, 100, SEGMENTS))); // the code is warm, the tables are new each time
  for (const count of [100, 300, 1000, 3000]) {
    const rules = randomRules(1, count, SEGMENTS);
    let decider;
    const cold = percentile(
      Array.from({ length: 5 }, () => timed(() => matrices((decider = new Decider(rules))))),
      0.5,
    );
    const known = readers(decider);
    matrices(decider, known);
    // Every edit makes a list that was never there before.
    const edits = Array.from({ length: 25 }, (_, i) => {
      const at = Math.floor((i * count) / 25);
      const next = [...rules];
      next[at] = { ...next[at], services: [{ protocol: 'tcp', ports: [{ first: 7000 + i, last: 7000 + i }] }] };
      return timed(() => {
        decider.replace(next);
        matrices(decider, known);
      });
    });
    decider.replace(rules);
    [4, 6].forEach((version) => decider.decisions(version));
    const packets = aimedPackets(3, rules, 4000, SEGMENTS);
    const ours = timed(() => packets.forEach((packet) => decider.decide(packet))) / packets.length;
    const plain = timed(() => packets.forEach((packet) => firstMatch(rules, packet))) / packets.length;
    const aim = (text) => (count === 1000 ? text : '–');
    const what = `${SEGMENTS} segments, ${count} rules`;
    figure(`reach matrix, IPv4 and IPv6, ${what}`, `${cold.toFixed(0)} ms`, aim('1 s or less'));
    figure(`the same after one rule is edited, p50`, `${percentile(edits, 0.5).toFixed(0)} ms`, aim('100 ms or less'));
    figure(`the same after one rule is edited, worst of 25`, `${Math.max(...edits).toFixed(0)} ms`, '–');
    figure(`one question, ${what}`, `${(ours * 1000).toFixed(1)} µs`, aim('5 ms or less'));
    figure(
      `the plain evaluator on the same questions`,
      `${(plain * 1000).toFixed(1)} µs`,
      `× ${(plain / ours).toFixed(0)}`,
    );
  }
}
