import { hashOf, type DeviceDocument, type SsidDocument, type SsidLists } from '../document';
import { namesAt, type Isolation, type ResolvedSite, type RosterDevice, type Segment, type Ssid } from '../intent';
import {
  addressesNamed,
  policyRule,
  resolveRules,
  type PacketRule,
  writeEnds,
  type PolicyDocument,
  type Rule,
  type RuleEnd,
  type RuleFlaw,
  type RuleNames,
  type RulePlace,
} from '../rules';
import { placesAt, placesOf, ssidLists, switchList, type AiredLists, type Places, type PlacedRule } from './rule-place';

/**
 * Where a rule of a site comes from: the estate's books before and after the site's own, what a segment's isolation
 * results in, or what every site has.
 */
export type RuleBook = 'before' | 'site' | 'isolation' | 'after' | 'always';

/** One rule of a site as it takes effect, in order. */
export interface PolicyRow {
  readonly book: RuleBook;
  readonly rule: Rule;
  /** Whether it is in force: it is on, has no flaws, and names something this site has. */
  readonly applies: boolean;
  /** Where it takes effect; empty where it is not in force, or nothing there can do it. */
  readonly places: readonly RulePlace[];
}

/** What the devices of a site let pass. */
export interface EnforcedPolicy {
  /** The gateway's, which remembers what it let through. */
  readonly policy: PolicyDocument;
  /** What each switch judges packets by; absent where they judge nothing. */
  readonly switches?: PolicyDocument;
  /** What APs judge packets of an SSID's clients by, by the SSID's id. */
  readonly ssids: Readonly<Record<string, AiredLists>>;
}

/** What a site's devices are told to let pass, with what it was made from. */
export interface SitePolicy extends EnforcedPolicy {
  readonly rows: readonly PolicyRow[];
  readonly flaws: readonly RuleFlaw[];
  readonly names: RuleNames;
  readonly places: Places;
  /** What each rule in force comes to, by its id. */
  readonly packets: ReadonlyMap<string, PacketRule>;
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

interface Known {
  readonly key: readonly unknown[];
  /** What says what ports carry. */
  readonly ports: readonly unknown[];
  readonly made: SitePolicy;
}
const known = new WeakMap<ResolvedSite['segments'], Known>();

/** Works out a site's policy: the estate's rules, the site's, those of isolation, the estate's again; first match decides. */
export function policyOf(site: ResolvedSite, roster: readonly RosterDevice[]): SitePolicy {
  const { rulesBefore, rulesAfter, sets, controller } = site.estate;
  const fixed = roster.map(({ name, model, address }) => `${name} ${model} ${address?.address ?? ''}`).join();
  const key = [rulesBefore, rulesAfter, sets, controller, site.rules, site.sets, site.ssids, site.accessClasses, fixed];
  const ports = [site.ports, site.duties];
  const before = known.get(site.segments);
  if (before?.key.every((each, i) => each === key[i])) {
    if (before.ports.every((each, i) => each === ports[i])) return before.made;
    // What ports carry matters only to who asks for it, at once or later on.
    if (!before.made.places.askedPorts()) {
      const made = { ...before.made, places: placesAt(site, roster, before.made.names) };
      known.set(site.segments, { key, ports, made });
      return made;
    }
  }
  const made = policyFrom(site, roster);
  known.set(site.segments, { key, ports, made });
  return made;
}

function policyFrom(site: ResolvedSite, roster: readonly RosterDevice[]): SitePolicy {
  const { estate } = site;
  const names = namesAt(estate, site, roster);
  const written: { readonly book: RuleBook; readonly rule: Rule }[] = [
    ...(estate.rulesBefore ?? []).map((rule) => ({ book: 'before' as const, rule })),
    ...(site.rules ?? []).map((rule) => ({ book: 'site' as const, rule })),
    ...isolationRules(site.segments, site.ssids).map((rule) => ({ book: 'isolation' as const, rule })),
    ...(estate.rulesAfter ?? []).map((rule) => ({ book: 'after' as const, rule })),
    { book: 'always', rule: OUTSIDE },
  ];
  const here = written.map(({ book, rule }) => (book === 'site' ? rule : atSite(rule, names)));
  const { rules, flaws } = resolveRules(
    here.filter((rule) => rule !== null),
    names,
  );
  const resolved = new Map(rules.map((rule) => [rule.id, rule]));
  const places = placesAt(site, roster, names);
  const rows = written.map(({ book, rule }): PolicyRow => {
    const packets = resolved.get(rule.id);
    return { book, rule, applies: packets !== undefined, places: packets ? placesOf(rule, packets, places) : [] };
  });
  const placed = rows.flatMap(({ rule, places }): PlacedRule[] => {
    const packets = resolved.get(rule.id);
    return packets ? [{ rule, packets, places }] : [];
  });
  const policy: PolicyDocument = {
    otherwise: 'allow',
    rules: placed.flatMap(({ rule, packets, places }) =>
      places.includes('gateway')
        ? [policyRule(packets, { name: ruleName(rule), times: rule.times, log: rule.log })]
        : [],
    ),
  };
  const switches = switchList(placed, ruleName);
  const ssids = ssidLists(placed, places, ruleName);
  return { policy, ...(switches ? { switches } : {}), ssids, rows, flaws, names, places, packets: resolved };
}

/**
 * What a site's devices let pass by the documents they run; null where the gateway runs no policy of ours.
 * @param unruled switches of the site that run no document of ours: they pass whatever comes.
 */
export function enforcedBy(documents: readonly DeviceDocument[], unruled = 0): EnforcedPolicy | null {
  const policy = documents.flatMap((each) => (each.kind === 'gateway' ? (each.policy ?? []) : []))[0];
  if (!policy) return null;
  // What some of them do not have is passed there: only what all of them have is sure to take effect.
  const lists = documents.flatMap((each) => (each.kind === 'switch' ? [each.list] : []));
  const same = <T>(a: T, b: T): boolean => a === b || (a !== undefined && b !== undefined && hashOf(a) === hashOf(b));
  const switches = unruled === 0 && lists[0] && lists.every((list) => same(list, lists[0])) ? lists[0] : undefined;
  const sent = documents.flatMap((each) => (each.kind === 'ap' ? each.ssids : []));
  const ssids: Record<string, AiredLists> = {};
  for (const id of new Set(sent.map((each) => each.id))) {
    const there = sent.filter((each) => each.id === id);
    const common = (of: (ssid: SsidDocument) => SsidLists | undefined): SsidLists | undefined => {
      const [first, ...more] = there.map(of);
      return first && more.every((each) => same(each, first)) ? first : undefined;
    };
    const lists = common((ssid) => ssid.lists);
    const classIds = new Set(there.flatMap(({ classLists = [] }) => classLists.map(({ id }) => id)));
    const classLists = Object.fromEntries(
      [...classIds].flatMap((classId) => {
        const found = common((ssid) => ssid.classLists?.find((each) => each.id === classId));
        return found ? [[classId, found]] : [];
      }),
    );
    const listed = Object.keys(classLists).length > 0;
    if (lists || listed) ssids[id] = { ...(lists ? { lists } : {}), ...(listed ? { classLists } : {}) };
  }
  return { policy, ...(switches ? { switches } : {}), ssids };
}

/** Every list of what APs judge packets by. */
export const listsOfAir = ({ lists, classLists = {} }: AiredLists): SsidLists[] => [
  ...(lists ? [lists] : []),
  ...Object.values(classLists),
];

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

/** The rules that isolation results in, of segments and of SSIDs; APs and switches keep clients from each other. */
export function isolationRules(segments: readonly Segment[], ssids: readonly Ssid[] = []): Rule[] {
  return [
    ...segments.flatMap(({ id, name, isolation }) => isolationOf(id, name, { kind: 'segment', name }, isolation)),
    ...ssids.flatMap(({ id, name, isolation }) => isolationOf(id, name, { kind: 'ssid', name }, isolation)),
  ];
}

function isolationOf(id: string, name: string, end: RuleEnd, isolation: Isolation | null | undefined): Rule[] {
  const own: readonly RuleEnd[] = [end];
  const gateway: readonly RuleEnd[] = [{ kind: 'gateway' }];
  if (!isolation?.gateway && !isolation?.segments) return [];
  const rule = (
    what: string,
    verdict: Rule['verdict'],
    [from, to]: readonly [readonly RuleEnd[], readonly RuleEnd[]],
    comment: string,
    services: Rule['services'] = EVERYTHING,
  ): Rule => ({ id: `isolation ${id} ${what}`, verdict, from, to, services, comment });
  // The gateway is in private space too, and is not one of the segments.
  const reached = isolation.gateway
    ? [
        rule('addresses', 'allow', [own, gateway], `${name} is given addresses and names`, [
          { protocol: 'udp', ports: ['53', '67', '547'] },
          { protocol: 'tcp', ports: ['53'] },
        ]),
        rule('gateway', 'deny', [own, gateway], `${name} is kept from the gateway`),
      ]
    : [rule('addresses', 'allow', [own, gateway], `${name} reaches the gateway`)];
  if (!isolation.segments) return reached;
  return [
    ...reached,
    // Where each packet is judged by itself, the gateway's answers have to be let in too.
    ...(end.kind === 'ssid' ? [rule('answers', 'allow', [gateway, own], `The gateway answers ${name}`)] : []),
    rule('out', 'deny', [own, PRIVATE], `${name} is kept from other segments`),
    rule('in', 'deny', [PRIVATE, own], `Other segments are kept from ${name}`),
  ];
}

/** What a rule is called: its comment, or what it says. */
export const ruleName = ({ comment, verdict, from, to }: Rule): string =>
  comment ?? `${verdict} ${writeEnds(from)} → ${writeEnds(to)}`;
