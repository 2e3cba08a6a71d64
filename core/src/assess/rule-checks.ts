import { inRange, parseIp, parsePrefix, rangeOf } from '../address';
import type { Operation } from '../intent';
import { areAttached, ruleName, type PolicyRow } from '../rollout';
import {
  addressesNamed,
  deadRules,
  Decider,
  rangeAsText,
  relationsOf,
  type PacketRule,
  type Rule,
  type RuleEnd,
  type RuleRelation,
} from '../rules';
import type { ResolvedSite, RosterDevice } from '../intent';
import type { Finding, Mend } from './finding';
import { own, ruleFound as found } from './rule-found';
import { nobody, strangeEnds, type StrangeEnd } from './nobody-checks';
import type { PolicyView } from './policy-view';
import type { SiteNetwork } from './site-network';

/** Beyond this many rules, pairs of them are only compared where one is never reached. */
const MOST_COMPARED = 200;

/** Faults of a site's rules: those that cannot be read, never match, say what is said already, or match nothing that is there. */
export function ruleFindings(
  site: ResolvedSite,
  view: PolicyView,
  roster: readonly RosterDevice[],
  network: () => SiteNetwork | null,
): Finding[] {
  const rows = new Map(view.made.rows.map((row) => [row.rule.id, row]));
  const flawed = view.made.flaws.flatMap((flaw): Finding[] => {
    const row = rows.get(flaw.of);
    // What is published is looked at by itself.
    if (row?.book === 'published') return [];
    return [
      found(site, flaw.of, flaw.code, 'error', {
        message: row ? `“${ruleName(row.rule)}” is not in force` : `The set “${flaw.of}” cannot be read`,
        reason: flaw.message,
        mend: row && flaw.code === 'rule.device-nowhere' ? reservation(site, row, roster) : null,
      }),
    ];
  });
  const { name } = site;
  const before = known.get(view);
  const inPolicy =
    before?.name === name ? before : { name, findings: unreached(site, view, rows), strange: strangeEnds(site, view) };
  if (before !== inPolicy) known.set(view, inPolicy);
  return [...flawed, ...inPolicy.findings, ...nobody(site, inPolicy.strange, network)];
}
/** What was found in a policy; in a site of another name it reads otherwise. */
const known = new WeakMap<
  PolicyView,
  { readonly name: string; readonly findings: readonly Finding[]; readonly strange: readonly StrangeEnd[] }
>();

/** A list of rules that decides by itself, with what is known of all that lie alike. */
interface Deciding {
  readonly list: readonly PacketRule[];
  readonly decider: () => Decider;
  /** The places in the list of rules that decide nothing. */
  readonly dead: readonly number[];
  readonly relations: () => readonly RuleRelation[];
}

/** The gateway's policy and the lists at switches and APs, as they are at each time of the week. */
function decidingAt(view: PolicyView): Deciding[] {
  return view.open.moments.flatMap((minute) => {
    const { decider: gateway, lists, shape } = view.passage(minute);
    return lists.flatMap((list, at): Deciding[] => {
      if (at > 0 && list.length === 0) return [];
      let made: Decider | undefined = at === 0 ? gateway : undefined;
      const decider = (): Decider => (made ??= new Decider(list));
      const placesOf = (rules: Iterable<PacketRule>): number[] => {
        const places = new Map(list.map((rule, i) => [rule, i]));
        return Array.from(rules, (rule) => places.get(rule)!);
      };
      return [
        {
          list,
          decider,
          dead: shape.answer(`dead ${at}`, () => placesOf(deadRules(decider(), list))),
          relations: () =>
            shape
              .answer(`relations ${at}`, () => {
                const found = relationsOf(decider(), list);
                const [of, by] = [placesOf(found.map(({ rule }) => rule)), placesOf(found.map((each) => each.by))];
                return found.map(({ kind }, i) => ({ kind, rule: of[i]!, by: by[i]! }));
              })
              .map(({ kind, rule, by }) => ({ kind, rule: list[rule]!, by: list[by]! })),
        },
      ];
    });
  });
}

/** Rules that decide no packet at any time, each with the one that takes all its packets where one alone does. */
function unreached(site: ResolvedSite, view: PolicyView, rows: ReadonlyMap<string, PolicyRow>): Finding[] {
  const { policy } = view.open;
  const dead = new Map<string, { readonly rule: PacketRule; readonly where: Deciding }>();
  const reached = new Set<string>();
  const deciding = decidingAt(view);
  for (const where of deciding) {
    const now = new Set(where.dead);
    for (const [at, rule] of where.list.entries())
      if (now.has(at)) dead.set(rule.id, { rule, where });
      else reached.add(rule.id);
  }
  for (const id of reached) dead.delete(id);
  const gateway = deciding[0]!;
  const few = policy.rules.length <= MOST_COMPARED;
  const compared = few ? gateway.relations() : [];
  const findings = [...dead.values()].flatMap(({ rule, where }): Finding[] => {
    const row = rows.get(rule.id);
    if (!row || !own(row)) return [];
    const by =
      few && where === gateway
        ? compared.find((each) => each.rule.id === rule.id && (each.kind === 'shadowed' || each.kind === 'redundant'))
        : relationWith(where.decider(), rule);
    const taker = by && rows.get(by.by.id);
    if (by?.kind === 'shadowed' && taker)
      return [
        found(site, rule.id, 'rules.shadowed', 'warning', {
          message: `“${ruleName(row.rule)}” never matches`,
          reason: `“${ruleName(taker.rule)}” comes first, takes all its packets and does the opposite.`,
          mend: moveBefore(site, view, row, taker) ?? exceptionBefore(site, view, row, taker),
        }),
      ];
    const reason = taker
      ? `“${ruleName(taker.rule)}” comes first and does the same with all its packets.`
      : 'Rules before it, taken together, decide all its packets.';
    return [
      found(site, rule.id, taker ? 'rules.redundant' : 'rules.dead', taker ? 'info' : 'warning', {
        message: `“${ruleName(row.rule)}” ${taker ? 'says nothing new' : 'never matches'}`,
        reason,
        mend: removal(site, row),
      }),
    ];
  });
  const later = compared.flatMap((each): Finding[] => {
    const [row, by] = [rows.get(each.rule.id), rows.get(each.by.id)];
    if (!row || !by || dead.has(each.rule.id) || !own(row)) return [];
    if (each.kind === 'redundant')
      return [
        found(site, each.rule.id, 'rules.redundant', 'info', {
          message: `“${ruleName(row.rule)}” says nothing new`,
          reason: `“${ruleName(by.rule)}” does the same with all its packets.`,
          mend: removal(site, row),
        }),
      ];
    if (each.kind !== 'correlated' || !own(by)) return [];
    return [
      found(site, `${each.rule.id} ${each.by.id}`, 'rules.crossing', 'info', {
        message: `The order of “${ruleName(by.rule)}” and “${ruleName(row.rule)}” matters`,
        reason: 'They share some packets and decide them otherwise; the first of them wins.',
        at: each.rule.id,
      }),
    ];
  });
  return [...findings, ...later];
}

/** What one earlier rule does to a later one, when all packets of the later are its own too. */
function relationWith(decider: Decider, rule: PacketRule): RuleRelation | undefined {
  // One that takes all its packets decides some of them, but for what is dead itself.
  for (const earlier of decider.decidersOf(rule)) {
    const found = relationsOf(decider, [earlier, rule]).find((each) => each.rule === rule);
    if (found?.kind === 'shadowed' || found?.kind === 'redundant') return found;
  }
  return undefined;
}

/** Moves a rule to the place before another, when both stand in the same book. */
function moveBefore(site: ResolvedSite, view: PolicyView, row: PolicyRow, taker: PolicyRow): Mend | null {
  if (row.book !== taker.book || !own(row)) return null;
  const book = view.made.rows.filter((each) => each.book === row.book).map(({ rule }) => rule.id);
  const behind = (id: string): string | null => book[book.indexOf(id) - 1] ?? null;
  const operation: Operation = {
    type: 'rule.move',
    ruleId: row.rule.id,
    from: behind(row.rule.id),
    to: behind(taker.rule.id),
    ...placeOf(site, row),
  };
  return { label: `move it before “${ruleName(taker.rule)}”`, operations: [operation] };
}

/** Reserves the present addresses of a rule's devices that have none of their own; none where one has no such address. */
function reservation(site: ResolvedSite, { rule }: PolicyRow, roster: readonly RosterDevice[]): Mend | null {
  const { addresses, subnet, gateway } = site.management;
  const prefix = parsePrefix(subnet);
  if (!addresses || !prefix) return null;
  const names = new Set([...rule.from, ...rule.to].flatMap((end) => (end.kind === 'device' ? [end.name] : [])));
  const kept = addresses.reservations ?? [];
  const lost = roster.filter(
    ({ name, address, mac }) => names.has(name) && !address && !kept.some((each) => each.mac === mac),
  );
  const added = lost.flatMap(({ name, mac, given }) => {
    const ip = given === undefined ? null : parseIp(given);
    const fits =
      ip && inRange(rangeOf(prefix), ip) && given !== gateway && !kept.some((each) => each.address === given);
    return mac !== undefined && fits ? [{ mac, address: given!, name }] : [];
  });
  if (added.length === 0 || added.length < lost.length) return null;
  return {
    label: `reserve ${added.map(({ name, address }) => `${address} for ${name}`).join(', ')}`,
    operations: [
      {
        type: 'segment.set',
        siteId: site.id,
        segmentId: site.management.id,
        from: { addresses },
        to: { addresses: { ...addresses, reservations: [...kept, ...added] } },
      },
    ],
  };
}

/**
 * Puts a site's rule before one that every site has first. There it is every site's too, so that it says the site's own
 * addresses instead of its names; none where those do not say whom it means.
 */
function exceptionBefore(site: ResolvedSite, view: PolicyView, row: PolicyRow, taker: PolicyRow): Mend | null {
  const { rule } = row;
  const setsOfSite = new Set((site.sets ?? []).map(({ name }) => name));
  const ports = rule.services.flatMap(({ ports: to = [], sourcePorts = [] }) => [...to, ...sourcePorts]);
  const named = ports.some((text) => setsOfSite.has(text.replace(/^set\s+/i, '')) && /^set\s/i.test(text));
  if (row.book !== 'site' || taker.book !== 'before' || (rule.at ?? 'gateway') !== 'gateway' || named) return null;
  const [from, to] = [addressed(rule.from, view), addressed(rule.to, view)];
  if (!from || !to || (!from.here && !to.here)) return null;
  const before = view.made.rows.filter(({ book }) => book === 'before').map((each) => each.rule.id);
  const placed: Rule = { ...rule, from: from.ends, to: to.ends, comment: `${ruleName(rule)}, at ${site.name}` };
  return {
    label: `put it before “${ruleName(taker.rule)}” in the book of every site, by the addresses of ${site.name}`,
    operations: [
      { type: 'rule.remove', ruleIds: [rule.id], siteId: site.id },
      { type: 'rule.add', rules: [placed], behind: before[before.indexOf(taker.rule.id) - 1] ?? null, book: 'before' },
    ],
  };
}

/** Ends by addresses, and whether they are of this site alone; null where addresses do not say whom they mean. */
function addressed(
  ends: readonly RuleEnd[],
  { made: { names } }: PolicyView,
): { readonly ends: readonly RuleEnd[]; readonly here: boolean } | null {
  if (areAttached(ends)) return null;
  const found: RuleEnd[] = [];
  let here = true;
  for (const end of ends) {
    const ranges = end.kind === 'gateway' ? names.gateway : addressesNamed(end, names);
    if (ranges) found.push(...ranges.map((range): RuleEnd => ({ kind: 'addresses', text: rangeAsText(range) })));
    else if ('name' in end) return null;
    else {
      here = false;
      found.push(end);
    }
  }
  return { ends: found, here };
}

const removal = (site: ResolvedSite, row: PolicyRow): Mend | null =>
  own(row)
    ? {
        label: 'take it out',
        operations: [{ type: 'rule.remove', ruleIds: [row.rule.id], ...placeOf(site, row) }],
      }
    : null;

export const placeOf = (site: ResolvedSite, { book }: PolicyRow) =>
  book === 'site' ? { siteId: site.id } : { book: book as 'before' | 'after' };
