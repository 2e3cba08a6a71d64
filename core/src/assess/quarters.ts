import { mergeRanges, parsePrefix, rangeOf, type IpRange } from '../address';
import { isOfOthers, NOWHERE_ROUTED, rangesOfSegment, segmentsOfRouter, type ResolvedSite } from '../intent';
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
        beyond: router.ownWayOut ? thoseOutside(null, names) : [],
        rules: isOfOthers(router) ? resolveRules(router.lets ?? [], names).rules : [],
        apart: !router.meets,
      },
    ];
  });
  return [...routed, ...shut];
}

const PLAIN: Omit<Quarter, 'name' | 'addresses'> = { beyond: [], rules: [], shut: false, apart: false };
