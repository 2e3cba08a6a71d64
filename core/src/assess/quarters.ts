import { mergeRanges, parseIp, parsePrefix, rangeOf, subtractRanges, type IpRange } from '../address';
import {
  hereOf,
  isOfOthers,
  NOWHERE_ROUTED,
  outlookOf,
  rangesOfSegment,
  segmentsOfRouter,
  type Pact,
  type ResolvedSite,
  type SiteRouter,
} from '../intent';
import { resolveRules, thoseOutside, type PacketRule, type Quarter, type RuleNames } from '../rules';

/**
 * The networks of a site that its gateway does not route: those of each router beside it, with what that is assumed to let pass, and each that nobody
 * routes; and what is behind gateways of others. What a switch of ours lets pass is judged by its list, as at every switch.
 */
export function quartersOf(
  site: Pick<ResolvedSite, 'segments' | 'routers' | 'pacts'>,
  names: RuleNames,
): readonly Quarter[] {
  const shut = site.segments
    .filter(({ routed }) => routed === NOWHERE_ROUTED)
    .map((segment): Quarter => ({ ...PLAIN, name: segment.name, addresses: rangesOfSegment(segment), shut: true }));
  const routed = (site.routers ?? []).flatMap((router): Quarter[] => {
    const segments = segmentsOfRouter(site, router.id);
    const behind = rangesOf(router.behind ?? []);
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
  return [...routed, ...(site.pacts ?? []).map((pact) => beyondPact(site, pact)), ...shut];
}

const rangesOf = (prefixes: readonly string[]): IpRange[] =>
  prefixes.flatMap((text) => {
    const prefix = parsePrefix(text);
    return prefix ? [rangeOf(prefix)] : [];
  });

/** What is behind a gateway of others: what both have agreed on goes there and comes from there, and nothing else. */
function beyondPact(site: Pick<ResolvedSite, 'segments' | 'routers'>, pact: Pact): Quarter {
  const own = hereOf(site, pact);
  const { ike, esp, names, here, there } = outlookOf(pact, own);
  const stands = ike.suite !== null && esp.suite !== null && names === null;
  const rule = (id: string, more: Pick<PacketRule, 'source' | 'destination'>): PacketRule => ({
    ...{ id, verdict: 'allow', services: [{ protocol: 'any' }] },
    ...more,
  });
  const [ours, theirs] = [rangesOf(here), rangesOf(there)];
  const carried = [
    rule(CARRIED, { source: ours, destination: theirs }),
    rule(CARRIED, { source: theirs, destination: ours }),
  ];
  const rest: PacketRule = {
    ...rule(stands ? NOT_AGREED : NO_PACT, { source: null, destination: null }),
    verdict: 'deny',
  };
  return {
    ...PLAIN,
    name: pact.name,
    addresses: mergeRanges(rangesOf(pact.behind)),
    rules: [...(stands ? carried : []), rest],
  };
}

const [CARRIED, NOT_AGREED, NO_PACT] = ['pact carried', 'pact not agreed', 'pact none'] as const;

const PACT_WORDS: Readonly<Record<string, string>> = {
  [CARRIED]: 'Both have agreed to carry it. Assumed: the other gateway lets it pass.',
  [NOT_AGREED]: 'Both have not agreed to carry it: it is dropped.',
  [NO_PACT]: 'The two gateways come to no agreement, so that there is no tunnel.',
};
/** What a tunnel to a gateway of others does with a packet, by what decides it; undefined: no such tunnel does. */
export const pactWords = (rule: Pick<PacketRule, 'id'> | null): string | undefined => PACT_WORDS[rule?.id ?? ''];

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
