import type { Failure } from './rehearsed';
import { subtractRanges, type IpRange } from '../address';
import { gatewayAddresses, rangesOfSegment, type KeptGuarantee, type ResolvedSite } from '../intent';
import {
  addressesNamed,
  breachOf,
  momentWords,
  packetWords,
  rangeAsText,
  resolveRules,
  writeEnds,
  writeServices,
  type Breach,
  type PacketRule,
  type ReachEnd,
  type RuleEnd,
  type RuleNames,
} from '../rules';
import { attachedOf } from './attached-end';
import { openBeyond, type Beyond } from './beyond';
import { proveAcross } from './guarantee-across';
import type { JudgingSite } from './led-across';
import type { PolicyView } from './policy-view';
import { nameIn } from './reach-view';
import type { Lost, SiteNetwork } from './site-network';
import { unserved, USUAL_WITHIN, type ServedInput } from './served';

/** What a guarantee comes to at one site. */
export interface GuaranteeResult {
  readonly id: string;
  /** Whether it is one of the estate's. */
  readonly shared: boolean;
  readonly words: string;
  /** `void`: it names something that this site does not have. */
  readonly state: 'holds' | 'broken' | 'void';
  /** Of a broken one: a packet that should fare otherwise, in words. */
  readonly packet?: string;
  /** Of a broken one: the rule that decides that packet; absent where none does. */
  readonly ruleId?: string;
  /** Of a broken one: why the packet fares as it does. */
  readonly why?: string;
  /** When it is broken, where that is not always. */
  readonly at?: string;
  /** Id of the other site that it reaches. */
  readonly toSite?: string;
}

const DECIDED_AT: Readonly<Record<Breach['at'], string>> = {
  gateway: '',
  within: '',
  switches: ', at the switches, which judge each packet by itself',
  aps: ', at the APs, which judge each packet by itself',
  router: ', at another router than the gateway',
  nowhere: ', since nobody routes there',
};

/** A guarantee as a sentence. @param siteName tells the name of another site that it reaches. */
export function guaranteeWords(
  { kind, from, to, toSite, services, besides, apart, within, fails }: KeptGuarantee,
  siteName: (id: string) => string | undefined = () => undefined,
): string {
  const ends = (list: readonly RuleEnd[]): string =>
    list.length === 1 && list[0]!.kind === 'any' ? 'anything' : writeEnds(list);
  if (kind === 'served') {
    const whom = from.length === 1 && from[0]!.kind === 'any' ? 'Everybody' : ends(from);
    const which = fails === 2 ? 'any two uplinks fail' : 'any one uplink fails';
    return `${whom} is without internet for at most ${within ?? USUAL_WITHIN} s when ${which}`;
  }
  const place = toSite ? ` at ${siteName(toSite) ?? 'another site'}` : '';
  const what = services.length === 1 && services[0]!.protocol === 'any' ? '' : ` on ${writeServices(services)}`;
  const spared = [
    besides && besides.length > 0 ? `, ${ends(besides)} aside` : '',
    apart ? ', but within one segment' : '',
  ].join('');
  const though =
    toSite && kind === 'always' && fails
      ? `, though any ${fails === 2 ? 'two hubs fail' : 'hub fails'}${typeof within === 'number' ? ` or a tunnel is cut, after ${within} s at the most` : ''}`
      : '';
  if (kind === 'only') return `Only ${ends(from)} reaches ${ends(to)}${place}${what}${spared}`;
  return `${ends(from)} ${kind === 'never' ? 'never' : 'always'} reaches ${ends(to)}${place}${what}${spared}${though}`;
}

/** The guarantees that are given for a site: its own, and the estate's for sites with its tags. */
export function guaranteesAt(
  site: ResolvedSite,
  tags: readonly string[],
): { readonly guarantee: KeptGuarantee; readonly shared: boolean }[] {
  return [
    ...(site.guarantees ?? []).map((guarantee) => ({ guarantee, shared: false })),
    ...(site.estate.guarantees ?? [])
      .filter(({ tag }) => !tag || tags.includes(tag))
      .map((guarantee) => ({ guarantee, shared: true })),
  ];
}

/** What guarantees of a site are proven with. */
export interface ProvenWith {
  readonly served: ServedInput;
  readonly tags: readonly string[];
  /** What the site’s own devices are told, and what that lets pass. */
  readonly here: JudgingSite;
  /** How its routers hand on; null: it has no gateway that routes. */
  readonly network: () => SiteNetwork | null;
  /** Sites that guarantees reach. */
  readonly beyond?: Beyond | undefined;
}

/** Proves every guarantee of a site over all packets, at every time of the week at which other rules are in force. */
export function proveGuarantees({ served, tags, here, network, beyond = {} }: ProvenWith): GuaranteeResult[] {
  const { site } = served;
  const names = (id: string): string | undefined => beyond[id]?.site.name;
  const lostOf = (ends: readonly RuleEnd[]): Lost | undefined => {
    if (ends.length === 0) return undefined;
    const about = { id: 'lost', verdict: 'allow' as const, from: ANYBODY, to: ends, services: ANYTHING };
    const ranges = resolveRules([about], here.view.made.names).rules[0]?.destination ?? [];
    return ranges.length > 0 ? network()?.lost(ranges)[0] : undefined;
  };
  return guaranteesAt(site, tags).map(({ guarantee, shared }) => {
    if (guarantee.kind === 'served') return proveServed(guarantee, shared, served, here.view);
    const { id, toSite } = guarantee;
    const words = guaranteeWords(guarantee, toSite === site.id ? () => site.name : names);
    // Of the site itself it says what any other does.
    if (!toSite || toSite === site.id)
      return arriving(guarantee, { ...proveGuarantee(guarantee, shared, site, here.view), words }, lostOf);
    const there = beyond[toSite];
    if (!there)
      return { id, shared, words, toSite, state: 'void', why: 'The site that it reaches is no longer there.' };
    return { id, shared, words, toSite, ...proveAcross(guarantee, site.estate, here, openBeyond(site.estate, there)) };
  });
}

const [ANYBODY, ANYTHING] = [[{ kind: 'any' as const }], [{ protocol: 'any' as const }]];

/** What rules let through always has to arrive too: a guarantee is broken by a way that loses it. */
function arriving(
  { kind, to }: KeptGuarantee,
  result: GuaranteeResult,
  lostOf: (ends: readonly RuleEnd[]) => Lost | undefined,
): GuaranteeResult {
  if (kind !== 'always' || result.state !== 'holds') return result;
  const lost = lostOf(to.filter(({ kind: end }) => end === 'addresses' || end === 'set'));
  if (!lost) return result;
  return { ...result, state: 'broken', packet: `What is for ${rangeAsText(lost.ranges[0]!)}`, why: lost.why };
}

const FAILED: Readonly<Record<Failure['what'], (which: string) => string>> = {
  cut: (which) => `When the link of ${which} is cut`,
  silent: (which) => `When nothing gets through ${which}`,
  off: () => 'When the gateway that routes has no power',
};

/** Proves over every failure of uplinks that nobody waits for too long, as unluckily as checks may fall. */
function proveServed(guarantee: KeptGuarantee, shared: boolean, input: ServedInput, view: PolicyView): GuaranteeResult {
  const said = { id: guarantee.id, shared, words: guaranteeWords(guarantee) };
  const worst = unserved(guarantee, view.made.names, input);
  if (worst === 'void') return { ...said, state: 'void' };
  if (worst === null) return { ...said, state: 'holds' };
  const { segment, course, ports, what, waits } = worst;
  const whose = course === null ? segment : `${segment}, by the course “${course}”,`;
  const long = waits === null ? 'for as long as it lasts' : `for ${Math.ceil(waits)} s at worst`;
  const which = ports.join(' and ');
  return {
    ...said,
    state: 'broken',
    packet: FAILED[what](which),
    why: `${whose} waits ${long}.`,
  };
}

/** What was proven of a policy, by what was asked. */
const proven = new WeakMap<PolicyView, Map<string, GuaranteeResult>>();
const MOST_PROVEN = 2000;

/** Proves one that is about packets; of the same view once. @param shared whether what it names may be missing at the site. */
export function proveGuarantee(
  guarantee: KeptGuarantee,
  shared: boolean,
  site: ResolvedSite,
  view: PolicyView,
): GuaranteeResult {
  const known = proven.get(view) ?? new Map<string, GuaranteeResult>();
  proven.set(view, known);
  const key = `${shared} ${JSON.stringify(guarantee)}`;
  let result = known.get(key);
  if (!result) {
    if (known.size >= MOST_PROVEN) known.clear();
    known.set(key, (result = prove(guarantee, shared, site, view)));
  }
  return result;
}

function prove(guarantee: KeptGuarantee, shared: boolean, site: ResolvedSite, view: PolicyView): GuaranteeResult {
  const said = { id: guarantee.id, shared, words: guaranteeWords(guarantee) };
  const { kind } = guarantee;
  const placed = kind === 'served' ? null : endsOf(guarantee, view.made.names, shared, site);
  if (!placed || kind === 'served') return { ...said, state: 'void' };
  for (const minute of view.open.moments) {
    const passage = view.passage(minute);
    const breach = breachOf(passage, { kind, ...placed });
    if (!breach) continue;
    const why = breach.rule
      ? `Decided by “${nameIn(view, breach.rule.id)}”${DECIDED_AT[breach.at]}.`
      : breach.at === 'within'
        ? 'Both are in one segment: between its clients the gateway is not asked. Keep them apart by its isolation.'
        : 'No rule says anything of it, so it passes.';
    return {
      ...said,
      state: 'broken',
      packet: packetWords(breach.packet),
      why,
      ...(breach.rule ? { ruleId: breach.rule.id } : {}),
      ...(view.open.moments.length > 1 ? { at: momentWords(minute) } : {}),
    };
  }
  return { ...said, state: 'holds' };
}

/** The places and services of a guarantee at a site; null where a name of it means nothing there. */
function endsOf(
  { from, to, services, besides, apart, id }: KeptGuarantee,
  names: RuleNames,
  lenient: boolean,
  site: ResolvedSite,
) {
  const known = (ends: readonly RuleEnd[]): readonly RuleEnd[] => (lenient ? ends.filter(isThere) : ends);
  const isThere = (end: RuleEnd): boolean => {
    const named = addressesNamed(end, names);
    return named === null || (named ?? []).length > 0;
  };
  const resolved = (ends: readonly RuleEnd[]): PacketRule | null =>
    resolveRules([{ id, verdict: 'allow', from: known(from), to: ends, services }], names).rules[0] ?? null;
  const rule = resolved(known(to));
  if (!rule) return null;
  const place = (key: 'from' | 'to', addresses: readonly IpRange[] | null): ReachEnd => {
    const attached = attachedOf(key === 'from' ? from : to, site);
    if (attached === undefined) return { key, addresses };
    // Who is attached there is a client, and has no address of the gateway's.
    const own = gatewayAddresses(site);
    return { key, addresses: addresses?.flatMap((range) => subtractRanges(range, own)) ?? null, attached };
  };
  const spared = besides && besides.length > 0 ? resolved(known(besides)) : null;
  return {
    from: place('from', rule.source),
    to: place('to', rule.destination),
    services: rule.services,
    ...(spared ? { besides: spared.destination } : {}),
    ...(apart ? { homes: site.segments.map(rangesOfSegment) } : {}),
  };
}
