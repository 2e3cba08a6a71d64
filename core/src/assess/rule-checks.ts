import { formatRange, subtractRanges, type IpRange } from '../address';
import type { Operation } from '../intent';
import { ruleName, type PolicyRow } from '../rollout';
import { deadRules, relationsOf, type PacketRule, type RuleRelation } from '../rules';
import type { ResolvedSite } from '../intent';
import type { Finding, Mend } from './finding';
import { clientsOf, type PolicyView } from './policy-view';

/** Beyond this many rules, pairs of them are only compared where one is never reached. */
const MOST_COMPARED = 200;

/** Faults of a site's rules: those that cannot be read, never match, say what is said already, or match nothing that is there. */
export function ruleFindings(site: ResolvedSite, view: PolicyView): Finding[] {
  const rows = new Map(view.made.rows.map((row) => [row.rule.id, row]));
  const flawed = view.made.flaws.map((flaw): Finding => {
    const row = rows.get(flaw.of);
    return found(site, flaw.of, flaw.code, 'error', {
      message: row ? `“${ruleName(row.rule)}” is not in force` : `The set “${flaw.of}” cannot be read`,
      reason: flaw.message,
    });
  });
  return [...flawed, ...unreached(site, view, rows), ...nowhere(site, view)];
}

/** Rules that decide no packet at any time, each with the one that takes all its packets where one alone does. */
function unreached(site: ResolvedSite, view: PolicyView, rows: ReadonlyMap<string, PolicyRow>): Finding[] {
  const { moments, at, policy } = view.open;
  const dead = new Map<string, PacketRule>();
  const reached = new Set<string>();
  for (const decider of moments.map(at)) {
    const now = new Set(deadRules(decider, decider.list));
    for (const rule of decider.list)
      if (now.has(rule)) dead.set(rule.id, rule);
      else reached.add(rule.id);
  }
  for (const id of reached) dead.delete(id);
  const decider = at(moments[0]!);
  const few = policy.rules.length <= MOST_COMPARED;
  const compared = few ? relationsOf(decider, decider.list) : [];
  const findings = [...dead.values()].flatMap((rule): Finding[] => {
    const row = rows.get(rule.id);
    if (!row || row.book === 'isolation' || row.book === 'always') return [];
    const by = few
      ? compared.find((each) => each.rule.id === rule.id && (each.kind === 'shadowed' || each.kind === 'redundant'))
      : relationWith(decider.list, rule, view);
    const taker = by && rows.get(by.by.id);
    if (by?.kind === 'shadowed' && taker)
      return [
        found(site, rule.id, 'rules.shadowed', 'warning', {
          message: `“${ruleName(row.rule)}” never matches`,
          reason: `“${ruleName(taker.rule)}” comes first, takes all its packets and does the opposite.`,
          mend: moveBefore(site, view, row, taker),
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
function relationWith(list: readonly PacketRule[], rule: PacketRule, view: PolicyView): RuleRelation | undefined {
  const decider = view.open.at(view.open.moments[0]!);
  for (const earlier of list.slice(0, list.indexOf(rule))) {
    const found = relationsOf(decider, [earlier, rule]).find((each) => each.rule === rule);
    if (found?.kind === 'shadowed' || found?.kind === 'redundant') return found;
  }
  return undefined;
}

/** Rules that people wrote. */
const own = ({ book }: PolicyRow): boolean => book === 'site' || book === 'before' || book === 'after';

/** Rules with an end that nothing has, or whose packets never pass the gateway. */
function nowhere(site: ResolvedSite, view: PolicyView): Finding[] {
  const clients = clientsOf(site);
  const ours = [...clients.values()].flat().concat(view.made.names.gateway ?? []);
  const decider = view.open.at(view.open.moments[0]!);
  return view.made.rows.flatMap((row): Finding[] => {
    const rule = decider.list.find((each) => each.id === row.rule.id);
    if (!rule || !own(row)) return [];
    const name = ruleName(row.rule);
    const lost = (ranges: readonly IpRange[] | null): IpRange | undefined =>
      ranges === null || ranges.some((range) => touches(range, ours) || !isInside(range)) ? undefined : ranges[0];
    const end = lost(rule.source) ?? lost(rule.destination);
    if (end)
      return [
        found(site, rule.id, 'rules.nobody', 'info', {
          message: `“${name}” matches nothing that is there`,
          reason: `No segment of ${site.name} has ${formatRange(end)}.`,
        }),
      ];
    const home = site.segments.find(({ id }) =>
      [rule.source, rule.destination].every((ranges) => ranges && within(ranges, clients.get(id)!, view)),
    );
    if (!home) return [];
    return [
      found(site, rule.id, 'rules.unpassed', 'warning', {
        message: `“${name}” has no place where it could take effect`,
        reason: `Both ends are in ${home.name}: frames between its clients do not pass the gateway. Keep its clients from each other by its isolation.`,
      }),
    ];
  });
}

const touches = (range: IpRange, others: readonly IpRange[]): boolean =>
  others.some((each) => each.version === range.version && each.first <= range.last && range.first <= each.last);
/** Whether addresses are of private space (RFC 1918, RFC 4193), which nobody outside has. */
const isInside = (range: IpRange): boolean =>
  PRIVATE.some((space) => space.version === range.version && space.first <= range.first && range.last <= space.last);
const PRIVATE: readonly IpRange[] = [
  { version: 4, first: 0x0a000000n, last: 0x0affffffn },
  { version: 4, first: 0xac100000n, last: 0xac1fffffn },
  { version: 4, first: 0xc0a80000n, last: 0xc0a8ffffn },
  { version: 6, first: 0xfcn << 120n, last: (0xfen << 120n) - 1n },
];
const within = (ranges: readonly IpRange[], home: readonly IpRange[], view: PolicyView): boolean =>
  ranges.length > 0 &&
  ranges.every((range) => subtractRanges(range, [...home, ...(view.made.names.gateway ?? [])]).length === 0);

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

const removal = (site: ResolvedSite, row: PolicyRow): Mend | null =>
  own(row)
    ? {
        label: 'take it out',
        operations: [{ type: 'rule.remove', ruleIds: [row.rule.id], ...placeOf(site, row) }],
      }
    : null;

const placeOf = (site: ResolvedSite, { book }: PolicyRow) =>
  book === 'site' ? { siteId: site.id } : { book: book as 'before' | 'after' };

function found(
  site: ResolvedSite,
  id: string,
  code: string,
  severity: Finding['severity'],
  { message, reason, mend = null, at = id }: { message: string; reason: string; mend?: Mend | null; at?: string },
): Finding {
  const place = { siteId: site.id, kind: 'rule' as const, id: at };
  return { key: `${code} ${id}`, code, severity, message, reason, place, mend };
}
