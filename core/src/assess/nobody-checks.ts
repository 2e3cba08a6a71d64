import { meetsAny, PRIVATE_PREFIXES, rangeOf, subtractRanges, type IpRange } from '../address';
import type { ResolvedSite } from '../intent';
import { ruleName, type PolicyRow } from '../rollout';
import { rangeAsText } from '../rules';
import type { Finding } from './finding';
import { clientsOf, type PolicyView } from './policy-view';
import { own, ruleFound } from './rule-found';
import type { Lost, SiteNetwork } from './site-network';

/** An end of a rule, all of private addresses of which no segment of the site has any. */
export interface StrangeEnd {
  readonly row: PolicyRow;
  readonly ranges: readonly IpRange[];
  /** Whether it is what the rule lets somebody reach. */
  readonly isReached: boolean;
}

const PRIVATE = PRIVATE_PREFIXES.map(rangeOf);
/** Whether addresses are of private space, which nobody outside has. */
const isInside = (range: IpRange): boolean =>
  PRIVATE.some((space) => space.version === range.version && space.first <= range.first && range.last <= space.last);

/** Ends of rules that people wrote and that no segment of the site has anything of. */
export function strangeEnds(site: ResolvedSite, { made: { packets, names, rows } }: PolicyView): StrangeEnd[] {
  const ours = [...clientsOf(site).values()].flat().concat(names.gateway ?? []);
  const isStrange = (ranges: readonly IpRange[] | null): ranges is readonly IpRange[] =>
    ranges !== null && ranges.length > 0 && ranges.every((range) => isInside(range) && !meetsAny(range, ours));
  return rows.flatMap((row): StrangeEnd[] => {
    const rule = packets.get(row.rule.id);
    if (!rule || !own(row)) return [];
    return [
      ...(isStrange(rule.source) ? [{ row, ranges: rule.source, isReached: false }] : []),
      ...(isStrange(rule.destination) ? [{ row, ranges: rule.destination, isReached: rule.verdict === 'allow' }] : []),
    ];
  });
}

/** Rules with an end that nothing has, at the site or anywhere that its gateway knows a way to. */
export function nobody(site: ResolvedSite, ends: readonly StrangeEnd[], network: () => SiteNetwork | null): Finding[] {
  const found = new Map<string, Finding>();
  for (const { row, ranges, isReached } of ends) {
    const { rule } = row;
    if (found.has(rule.id)) continue;
    const routers = network();
    const lost = routers && (routers.isPlain ? routers.lostOutside(ranges) : routers.lost(ranges));
    if (lost && !isLostWhole(ranges, lost)) continue;
    found.set(
      rule.id,
      isReached && lost?.every(({ kind }) => kind === 'alone')
        ? alone(site, row, ranges, lost[0]!)
        : nothing(site, row, ranges, lost),
    );
  }
  return [...found.values()];
}

function isLostWhole(ranges: readonly IpRange[], lost: readonly Lost[]): boolean {
  const all = lost.flatMap((each) => each.ranges);
  return ranges.every((range) => subtractRanges(range, all).length === 0);
}

function alone(site: ResolvedSite, { rule, book }: PolicyRow, [first]: readonly IpRange[], { why }: Lost): Finding {
  return ruleFound(site, rule.id, 'rules.default-alone', book === 'site' ? 'warning' : 'info', {
    message: `Nothing leads to what “${ruleName(rule)}” lets pass`,
    reason: `No segment of ${site.name} has ${rangeAsText(first!)}. ${why} Join the sites, or say a route or another router for it.`,
  });
}

function nothing(
  site: ResolvedSite,
  { rule }: PolicyRow,
  [first]: readonly IpRange[],
  lost: readonly Lost[] | null,
): Finding {
  const why = lost?.find(({ kind }) => kind !== 'alone')?.why;
  return ruleFound(site, rule.id, 'rules.nobody', 'info', {
    message: `“${ruleName(rule)}” matches nothing that is there`,
    reason: `No segment of ${site.name} has ${rangeAsText(first!)}.${why ? ` ${why}` : ''}`,
  });
}
