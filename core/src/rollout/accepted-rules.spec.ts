import fc from 'fast-check';
import { expect, test } from 'vitest';
import { differenceOf } from '../document';
import { ietfAclsOf, nftablesOf } from '../formats';
import { apply, resolve, type Operation } from '../intent';
import { Decider, packetRuleOf, type PacketRule, type Rule, type RuleEnd, type RuleService } from '../rules';
import { sampleSite } from '../testing';
import { compileSite, policyOf } from '.';

const { intent, site, roster } = sampleSite({ segments: 4, aps: 2 });
const octet = fc.nat(255);
const ports = fc.array(fc.oneof(fc.nat(65_535).map(String), fc.constant('1000-2000'), fc.constant('set W')), {
  minLength: 1,
  maxLength: 3,
});
const of = (...protocols: RuleService['protocol'][]) => fc.constantFrom(...protocols);
const service: fc.Arbitrary<RuleService> = fc.oneof(
  fc.record({ protocol: fc.oneof(of('any', 'tcp', 'udp', 'icmp'), octet) }),
  fc.record({ protocol: of('any', 'tcp', 'udp', 6, 17), ports, sourcePorts: ports }, { requiredKeys: ['protocol'] }),
  fc.record({ protocol: of('icmp', 1, 58), type: octet, code: octet }, { requiredKeys: ['protocol', 'type'] }),
  // Whatever the API lets through; most of it is refused.
  fc.record(
    { protocol: fc.oneof(of('any', 'icmp'), octet), ports, type: octet, code: octet },
    { requiredKeys: ['protocol'] },
  ),
);
const end: fc.Arbitrary<RuleEnd> = fc.oneof(
  fc.constantFrom<RuleEnd>({ kind: 'any' }, { kind: 'private' }, { kind: 'internet' }, { kind: 'gateway' }),
  fc.constantFrom(...site.segments.map(({ name }): RuleEnd => ({ kind: 'segment', name }))),
  fc.constantFrom('10.1.2.3', 'fd00::1', '10.0.0.0/9').map((text): RuleEnd => ({ kind: 'addresses', text })),
);
const rule: fc.Arbitrary<Omit<Rule, 'id'>> = fc.record(
  {
    verdict: fc.constantFrom('allow', 'deny'),
    from: fc.array(end, { minLength: 1, maxLength: 2 }),
    to: fc.array(end, { minLength: 1, maxLength: 2 }),
    services: fc.array(service, { minLength: 1, maxLength: 2 }),
    log: fc.boolean(),
    off: fc.boolean(),
    at: fc.constantFrom('gateway', 'switches', 'aps'),
    comment: fc.constantFrom('Web', 'a "b"', '=1'),
  },
  { requiredKeys: ['verdict', 'from', 'to', 'services'] },
);

/** The same packets, asked of both. */
const asPackets = ({ services, source, destination, verdict }: PacketRule) => ({
  services,
  source,
  destination,
  verdict,
});

test('whatever rule is accepted compiles, is told apart, is written in every format, and is the same in the document', () => {
  let accepted = 0;
  const set: Operation = { type: 'set.add', siteId: site.id, set: { id: 'w', name: 'W', ports: ['80', '8080-8090'] } };
  const start = apply(intent, set, () => undefined);
  if (!start.ok) throw new Error('the set is good');
  fc.assert(
    fc.property(fc.array(rule, { minLength: 1, maxLength: 3 }), (drawn) => {
      const rules = drawn.map((each, i): Rule => ({ ...each, id: `r${i}` }));
      const added = apply(start.intent, { type: 'rule.add', siteId: site.id, rules, behind: null }, () => undefined);
      if (!added.ok) return;
      accepted++;
      const resolved = resolve(added.intent.estate, added.intent.sites.get(site.id)!);
      const documents = compileSite(resolved, roster);
      const made = policyOf(resolved, roster);
      for (const document of documents.values()) expect(differenceOf(null, document).added).toBeGreaterThan(0);
      for (const told of made.policy.rules) {
        const meant = made.packets.get(told.id);
        if (meant) expect(asPackets(packetRuleOf(JSON.parse(JSON.stringify(told)) as never))).toEqual(asPackets(meant));
      }
      const all = made.policy.rules.map(packetRuleOf);
      expect(nftablesOf({ rules: all, otherwise: 'allow', stateful: true })).toContain('chain rules');
      expect(ietfAclsOf([{ name: '', rules: all, otherwise: 'allow' }])).toHaveProperty([
        'ietf-access-control-list:acls',
      ]);
    }),
    { seed: Number(process.env['SEED'] ?? 1), numRuns: 300 },
  );
  expect(accepted).toBeGreaterThan(60);
});

test.each([
  [4, 1, 8],
  [6, 58, 128],
] as const)('IPv%i: a type of ICMP that is said by number is that type alone', (version, protocol, type) => {
  const rules = [
    { id: 'r', verdict: 'deny' as const, from: ['any'], to: ['any'], services: [{ protocol, type, code: 0 }] },
  ];
  const decider = new Decider(rules.map((each) => packetRuleOf({ ...each, name: 'Ping' })));
  const packet = { version, source: 1n, destination: 2n, protocol, code: 0 };
  expect(decider.decide({ ...packet, type })?.id).toBe('r');
  expect(decider.decide({ ...packet, type: type + 1 })).toBeNull();
});
