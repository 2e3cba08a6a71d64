import { namesAt, type ResolvedSite, type RosterDevice, type Segment } from '../intent';
import {
  policyRule,
  resolveRules,
  writeEnds,
  type PolicyDocument,
  type Rule,
  type RuleEnd,
  type RuleFlaw,
  type RuleNames,
} from '../rules';

/**
 * Where a rule of a site comes from: the estate's books before and after the site's own, what a segment's isolation
 * results in, or what every site has.
 */
export type RuleBook = 'before' | 'site' | 'isolation' | 'after' | 'always';

/** One rule of a site as it takes effect, in order. */
export interface PolicyRow {
  readonly book: RuleBook;
  readonly rule: Rule;
  /** Whether it is in the policy: it is on, has no flaws, and names something this site has. */
  readonly applies: boolean;
}

/** What a site's gateway is told to let pass, with what it was made from. */
export interface SitePolicy {
  readonly policy: PolicyDocument;
  readonly rows: readonly PolicyRow[];
  readonly flaws: readonly RuleFlaw[];
  readonly names: RuleNames;
}

const ANY: readonly RuleEnd[] = [{ kind: 'any' }];
/** Other segments, of whatever site. */
const PRIVATE: readonly RuleEnd[] = [{ kind: 'private' }];
const EVERYTHING = [{ protocol: 'any' }] as const;

/** What begins outside is let in by nobody unless a rule says so (RFC 6092 §3.1). */
const OUTSIDE: Rule = {
  id: 'outside',
  verdict: 'deny',
  from: [{ kind: 'internet' }],
  to: ANY,
  services: EVERYTHING,
  comment: 'Nothing begins outside',
};

const known = new WeakMap<ResolvedSite['segments'], { readonly key: readonly unknown[]; readonly made: SitePolicy }>();

/** Works out a site's policy: the estate's rules, the site's, those of isolation, the estate's again; first match decides. */
export function policyOf(site: ResolvedSite, roster: readonly RosterDevice[]): SitePolicy {
  const { rulesBefore, rulesAfter, sets, controller } = site.estate;
  const fixed = roster.map(({ name, address }) => `${name} ${address?.address ?? ''}`).join();
  const key = [rulesBefore, rulesAfter, sets, controller, site.rules, site.sets, site.ssids, fixed];
  const before = known.get(site.segments);
  if (before?.key.every((each, i) => each === key[i])) return before.made;
  const made = policyFrom(site, roster);
  known.set(site.segments, { key, made });
  return made;
}

function policyFrom(site: ResolvedSite, roster: readonly RosterDevice[]): SitePolicy {
  const { estate } = site;
  const names = namesAt(estate, site, roster);
  const written: { readonly book: RuleBook; readonly rule: Rule }[] = [
    ...(estate.rulesBefore ?? []).map((rule) => ({ book: 'before' as const, rule })),
    ...(site.rules ?? []).map((rule) => ({ book: 'site' as const, rule })),
    ...isolationRules(site.segments).map((rule) => ({ book: 'isolation' as const, rule })),
    ...(estate.rulesAfter ?? []).map((rule) => ({ book: 'after' as const, rule })),
    { book: 'always', rule: OUTSIDE },
  ];
  const here = written.map(({ book, rule }) => (book === 'site' ? rule : atSite(rule, names)));
  const { rules, flaws } = resolveRules(
    here.filter((rule) => rule !== null),
    names,
  );
  const resolved = new Map(rules.map((rule) => [rule.id, rule]));
  const rows = written.map(({ book, rule }) => ({ book, rule, applies: resolved.has(rule.id) }));
  const policy: PolicyDocument = {
    otherwise: 'allow',
    rules: rows.flatMap(({ rule }) => {
      const packets = resolved.get(rule.id);
      return packets ? [policyRule(packets, { name: ruleName(rule), times: rule.times, log: rule.log })] : [];
    }),
  };
  return { policy, rows, flaws, names };
}

/** A rule of the estate as one site has it, without what the site has not; null where nothing is left of an end. */
function atSite(rule: Rule, names: RuleNames): Rule | null {
  const there = (end: RuleEnd): boolean => {
    if (end.kind === 'segment' || end.kind === 'ssid' || end.kind === 'device')
      return (names[`${end.kind}s`]?.get(end.name) ?? []).length > 0;
    return end.kind !== 'gateway' || (names.gateway ?? []).length > 0;
  };
  const [from, to] = [rule.from.filter(there), rule.to.filter(there)];
  return from.length === 0 || to.length === 0 ? null : { ...rule, from, to };
}

/** The rules that a segment's isolation results in; clients are kept from each other by APs and switches. */
export function isolationRules(segments: readonly Segment[]): Rule[] {
  return segments.flatMap(({ id, name, isolation }): Rule[] => {
    const own: readonly RuleEnd[] = [{ kind: 'segment', name }];
    const gateway: readonly RuleEnd[] = [{ kind: 'gateway' }];
    const rules: Rule[] = [];
    if (isolation?.gateway)
      rules.push(
        {
          id: `isolation ${id} addresses`,
          verdict: 'allow',
          from: own,
          to: gateway,
          services: [
            { protocol: 'udp', ports: ['53', '67', '547'] },
            { protocol: 'tcp', ports: ['53'] },
          ],
          comment: `${name} is given addresses and names`,
        },
        {
          id: `isolation ${id} gateway`,
          verdict: 'deny',
          from: own,
          to: gateway,
          services: EVERYTHING,
          comment: `${name} is kept from the gateway`,
        },
      );
    if (isolation?.segments) {
      // The gateway is in private space too, and is not one of the segments.
      if (!isolation.gateway)
        rules.push({
          id: `isolation ${id} addresses`,
          verdict: 'allow',
          from: own,
          to: gateway,
          services: EVERYTHING,
          comment: `${name} reaches the gateway`,
        });
      rules.push(
        {
          id: `isolation ${id} out`,
          verdict: 'deny',
          from: own,
          to: PRIVATE,
          services: EVERYTHING,
          comment: `${name} is kept from other segments`,
        },
        {
          id: `isolation ${id} in`,
          verdict: 'deny',
          from: PRIVATE,
          to: own,
          services: EVERYTHING,
          comment: `Other segments are kept from ${name}`,
        },
      );
    }
    return rules;
  });
}

/** What a rule is called: its comment, or what it says. */
export const ruleName = ({ comment, verdict, from, to }: Rule): string =>
  comment ?? `${verdict} ${writeEnds(from)} → ${writeEnds(to)}`;
