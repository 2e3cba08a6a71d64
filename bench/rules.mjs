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
  await benchEdits();
}

/** An edit of a site’s rulebook, as the interface asks for it: applied, compiled, checked, guarantees proven. */
async function benchEdits() {
  const { consequencesOf } = await import('@iron-lattice/core/assess');
  const { apply } = await import('@iron-lattice/core/intent');
  const { PolicyBook, rangeAsText } = await import('@iron-lattice/core/rules');
  const { randomRules, sampleSite } = await import('@iron-lattice/core/testing');
  for (const count of [100, 1000]) {
    const { intent: start, site, roster, links } = sampleSite({ segments: 60, aps: 20, switches: 4, size: 'large' });
    const siteId = site.id;
    const ends = (ranges) => {
      const own = (ranges ?? []).filter(({ version }) => version === 4);
      if (own.length === 0) return [{ kind: 'any' }];
      return own.map((range) => ({ kind: 'addresses', text: moved(rangeAsText(range)) }));
    };
    // Random rules speak of 10.20.x; the sample's segments lie in 10.1.x.
    const moved = (text) => text.replaceAll(/\b10\.20\.(\d+)\./g, (_all, i) => `10.1.${(Number(i) * 10) % 256}.`);
    const service = ({ ports, sourcePorts, ...rest }) => {
      const text = (spans) => spans.map(({ first, last }) => (first === last ? `${first}` : `${first}-${last}`));
      return {
        ...rest,
        ...(ports ? { ports: text(ports) } : {}),
        ...(sourcePorts ? { sourcePorts: text(sourcePorts) } : {}),
      };
    };
    const rules = randomRules(1, count, 60).map(({ id, verdict, source, destination, services }) => ({
      id,
      verdict,
      from: ends(source),
      to: ends(destination),
      services: services.map(service),
    }));
    const guarantee = (id, kind, from, to) => ({
      id,
      kind,
      from: [{ kind: 'segment', name: from }],
      to: [to],
      services: [{ protocol: 'any' }],
    });
    const done = (intent, operation) => {
      const result = apply(intent, operation, () => undefined);
      if (!result.ok) throw new Error(JSON.stringify(result.flaws[0]));
      return result.intent;
    };
    let intent = done(start, { type: 'rule.add', siteId, rules, behind: null });
    for (let i = 1; i <= 10; i++)
      intent = done(intent, {
        type: 'guarantee.add',
        siteId,
        guarantee: guarantee(`g${i}`, 'never', `Segment ${i}`, { kind: 'segment', name: `Segment ${i + 10}` }),
      });
    const book = new PolicyBook();
    const ask = () =>
      consequencesOf({ estate: intent.estate, site: intent.sites.get(siteId), roster, links, told: {} }, book);
    const cold = performance.now();
    ask();
    const first = performance.now() - cold;
    const times = Array.from({ length: 15 }, (_, i) => {
      const { id, services } = intent.sites.get(siteId).rules[Math.floor((i * count) / 15)];
      const began = performance.now();
      const to = { services: [{ protocol: 'tcp', ports: [String(7000 + i)] }] };
      intent = done(intent, { type: 'rule.set', siteId, ruleId: id, from: { services }, to });
      ask();
      return performance.now() - began;
    });
    figure(`consequences of a site with ${count} rules and 10 guarantees, first`, `${first.toFixed(0)} ms`, '–');
    figure(`the same after one rule is edited, p50`, `${percentile(times, 0.5).toFixed(0)} ms`, '–');
    figure(`the same after one rule is edited, worst of 15`, `${Math.max(...times).toFixed(0)} ms`, '–');
  }
}
