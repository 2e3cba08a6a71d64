import { mergeRanges, parseIp, parsePrefix, rangeOf, subtractRanges, type IpRange } from '../address';
import {
  isOfOthers,
  NOWHERE_ROUTED,
  rangesOfSegment,
  segmentsOfRouter,
  type ResolvedSite,
  type SiteRouter,
} from '../intent';
import { resolveRules, thoseOutside, type Quarter, type RuleNames } from '../rules';

/**
 * The networks of a site that its gateway does not route: those of each router beside it, with what that is assumed to let pass, and each that nobody
 * routes. What a switch of ours lets pass is judged by its list, as at every switch.
 */
export function quartersOf(site: Pick<ResolvedSite, 'segments' | 'routers'>, names: RuleNames): readonly Quarter[] {
  const shut = site.segments
    .filter(({ routed }) => routed === NOWHERE_ROUTED)
    .map((segment): Quarter => ({ ...PLAIN, name: segment.name, addresses: rangesOfSegment(segment), shut: true }));
  const routed = (site.routers ?? []).flatMap((router): Quarter[] => {
    const segments = segmentsOfRouter(site, router.id);
    const behind = (router.behind ?? []).flatMap((text): IpRange[] => {
      const prefix = parsePrefix(text);
      return prefix ? [rangeOf(prefix)] : [];
    });
    if (segments.length + behind.length === 0) return [];
    return [
      {
        ...PLAIN,
        name: router.name,
        addresses: mergeRanges([...segments.flatMap(rangesOfSegment), ...behind]),
        among: amongOf(site, router, names),
        beyond: router.ownWayOut ? thoseOutside(null, names) : [],
        rules: isOfOthers(router) ? resolveRules(router.lets ?? [], names).rules : [],
        apart: !router.meets,
      },
    ];
  });
  return [...routed, ...shut];
}

const PLAIN: Omit<Quarter, 'name' | 'addresses'> = { beyond: [], among: [], rules: [], shut: false, apart: false };

/** Whoever else may be in the segment where a router meets the gateway: neither of the two. */
function amongOf({ segments }: Pick<ResolvedSite, 'segments'>, { meets }: SiteRouter, names: RuleNames): IpRange[] {
  const transit = meets && segments.find(({ id }) => id === meets.segmentId);
  const ip = meets && parseIp(meets.address);
  if (!transit || !ip) return [];
  const both = [...(names.gateway ?? []), { version: ip.version, first: ip.value, last: ip.value }];
  return both.reduce<IpRange[]>(
    (left, each) => left.flatMap((range) => subtractRanges(range, [each])),
    [...rangesOfSegment(transit)],
  );
}
