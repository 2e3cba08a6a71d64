import { mergeRanges } from '../../address';
import { namesAt, type Hours, type ResolvedSite, type RosterDevice } from '../../intent';
import {
  addressesNamed,
  policyRule,
  readAddresses,
  resolveRules,
  type PacketRule,
  writeEnds,
  type PolicyDocument,
  type Rule,
  type RuleEnd,
  type RuleFlaw,
  type RuleNames,
  type RulePlace,
  type When,
} from '../../rules';
import { cabledSegments, holderOf, pairAt, type TurnTakers } from '../facts';
import { fact } from '../reads';
import { isolationRules } from './isolation-rules';
import { ssidLists, switchList, type AiredLists, type PlacedRule } from './lists';
import { fromOutside, publishedRules } from './published-rules';
import { placesAt, placesOf, type RulePlaces } from './rule-place';

/**
 * Where a rule of a site comes from: the estate's books before and after the site's own, what its gateway publishes, what a
 * segment's isolation results in, or what every site has.
 */
export type RuleBook = 'before' | 'site' | 'published' | 'isolation' | 'after' | 'always';

/** One rule of a site as it takes effect, in order. */
export interface PolicyRow {
  readonly book: RuleBook;
  readonly rule: Rule;
  /** Whether it is in force: it is on, has no flaws, and names something this site has. */
  readonly applies: boolean;
  /** Where it takes effect; empty where it is not in force, or nothing there can do it. */
  readonly places: readonly RulePlace[];
}

/** What a site's devices are told to let pass, with what it was made from. */
export interface SitePolicy {
  /** The gateway's, which remembers what it let through. */
  readonly policy: PolicyDocument;
  /** What each switch judges packets by; absent where they judge nothing. */
  readonly switches?: PolicyDocument;
  /** What APs judge packets of an SSID's clients by, by the SSID's id. */
  readonly ssids: Readonly<Record<string, AiredLists>>;
  readonly rows: readonly PolicyRow[];
  readonly flaws: readonly RuleFlaw[];
  readonly names: RuleNames;
  readonly places: RulePlaces;
  /** What each rule in force comes to, by its id. */
  readonly packets: ReadonlyMap<string, PacketRule>;
}

/** What begins outside is let in by nobody unless a rule says so (RFC 6092 §3.1). */
const OUTSIDE: Rule = {
  id: 'outside',
  verdict: 'deny',
  from: [{ kind: 'internet' }],
  to: [{ kind: 'any' }],
  services: [{ protocol: 'any' }],
  comment: 'Nothing begins outside',
};

/** Books whose rules are of the site alone. */
const OF_SITE: ReadonlySet<RuleBook> = new Set(['site', 'published']);

/** A site's policy: the estate's rules, the site's, those of isolation, the estate's again; first match decides. */
export const sitePolicy = fact(
  {
    site: ['segments', 'off', 'routers', 'ssids', 'accessClasses', 'rules', 'publications', 'sets', 'managementId'],
    estate: ['rulesBefore', 'rulesAfter', 'sets', 'controller', 'hours'],
    devices: ['name', 'model', 'sheet', 'address', 'mac'],
    facts: { cabled: cabledSegments, holder: holderOf, pair: pairAt },
  },
  ({ estate, devices, cabled, holder, pair, ...site }): SitePolicy => {
    const names = withOwn(namesAt(estate, site, devices), pair);
    const written: { readonly book: RuleBook; readonly rule: Rule }[] = [
      ...(estate.rulesBefore ?? []).map((rule) => ({ book: 'before' as const, rule })),
      ...(site.rules ?? []).map((rule) => ({ book: 'site' as const, rule })),
      ...publishedRules(site.publications, holder).map((rule) => ({ book: 'published' as const, rule })),
      ...isolationRules(site.segments, site.ssids).map((rule) => ({ book: 'isolation' as const, rule })),
      ...(estate.rulesAfter ?? []).map((rule) => ({ book: 'after' as const, rule })),
      { book: 'always', rule: OUTSIDE },
    ];
    const here = written.map(({ book, rule }) => (OF_SITE.has(book) ? rule : atSite(rule, names)));
    const { rules, flaws } = resolveRules(
      here.filter((rule) => rule !== null),
      names,
    );
    const published = new Set(written.flatMap(({ book, rule }) => (book === 'published' ? [rule.id] : [])));
    const resolved = new Map(rules.map((rule) => [rule.id, published.has(rule.id) ? fromOutside(rule, names) : rule]));
    const places = placesAt(site, devices, cabled, names);
    const rows = written.map(({ book, rule }): PolicyRow => {
      const packets = resolved.get(rule.id);
      return { book, rule, applies: packets !== undefined, places: packets ? placesOf(rule, packets, places) : [] };
    });
    const placed = rows.flatMap(({ rule, places: at }): PlacedRule[] => {
      const packets = resolved.get(rule.id);
      return packets ? [{ rule, packets, when: whenOf(rule, estate.hours), places: at }] : [];
    });
    const policy: PolicyDocument = {
      otherwise: 'allow',
      rules: placed.flatMap(({ rule, packets, when, places: at }) =>
        at.includes('gateway') ? [policyRule(packets, { name: ruleName(rule), ...when, log: rule.log })] : [],
      ),
    };
    const switches = switchList(placed, ruleName);
    const ssids = ssidLists(placed, places, ruleName);
    return { policy, ...(switches ? { switches } : {}), ssids, rows, flaws, names, places, packets: resolved };
  },
);

/** Names with the addresses that the gateways of a pair have themselves: who is kept from the gateway is kept from these too. */
function withOwn(names: RuleNames, pair: TurnTakers | null): RuleNames {
  if (!pair) return names;
  const own = [pair.own.first, pair.own.second].flatMap((text) => readAddresses(text.split('/')[0]!) ?? []);
  return { ...names, gateway: mergeRanges([...(names.gateway ?? []), ...own]) };
}

/** Works out a site's policy, or gives the one that is known. */
export const policyOf = (site: ResolvedSite, roster: readonly RosterDevice[]): SitePolicy =>
  sitePolicy({ site, roster });

/** When a rule is in force: at hours of the estate, or at times of its own. */
function whenOf({ times, hours }: Rule, all: readonly Hours[] = []): When {
  const named = hours ? all.find(({ id }) => id === hours) : undefined;
  return named ? { times: named.times, closed: named.closed ?? undefined } : { times };
}

/** A rule of the estate as one site has it, without what the site has not; null where nothing is left of an end. */
function atSite(rule: Rule, names: RuleNames): Rule | null {
  const there = (end: RuleEnd): boolean => {
    const named = addressesNamed(end, names);
    if (named !== null) return (named ?? []).length > 0;
    return end.kind !== 'gateway' || (names.gateway ?? []).length > 0;
  };
  const [from, to] = [rule.from.filter(there), rule.to.filter(there)];
  return from.length === 0 || to.length === 0 ? null : { ...rule, from, to };
}

/** What a rule is called: its comment, or what it says. */
export const ruleName = ({ comment, verdict, from, to }: Rule): string =>
  comment ?? `${verdict} ${writeEnds(from)} → ${writeEnds(to)}`;
