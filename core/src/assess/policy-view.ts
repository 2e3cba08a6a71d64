import { mergeRanges, subtractRanges, type IpRange } from '../address';
import { sameValue } from '../base';
import { quartersOf } from './quarters';
import { gatewayAddresses, rangesOfSegment, type ResolvedSite, type SiteRouter } from '../intent';
import type { SsidLists } from '../document';
import { areApart, attachedKey, listsOfAir, type Attached, type Enforced, type SitePolicy } from '../rollout';
import {
  appliesAtMoment,
  momentsOf,
  neverOutside,
  packetRuleOf,
  Passage,
  PolicyBook,
  thoseOutside,
  type Attachment,
  type Edge,
  type EdgeHome,
  type Neighbourhood,
  type OpenPolicy,
  type PacketRule,
  type PolicyRule,
} from '../rules';

/** What a site's policy says, ready to be asked. */
export interface PolicyView {
  readonly made: SitePolicy;
  /** What is asked: what was made, or what devices run. */
  readonly enforced: Enforced;
  /** What routes in place of the gateway. */
  readonly routers: readonly SiteRouter[];
  /** The gateway's, with a moment for each different set of rules in force at any place. */
  readonly open: OpenPolicy;
  /** What gets through at a moment; see `momentOn`. */
  passage(minute: number): Passage;
}

/** Where TCP is open for devices at the controller (RFC 8071 leaves it to the protocol; ours is a WebSocket over TLS). */
export const CONTROLLER_PORT = 443;

const fewer = (ranges: readonly IpRange[], minus: readonly IpRange[]): IpRange[] =>
  ranges.flatMap((range) => subtractRanges(range, minus));

/** Clients of each segment: its subnets without the gateway's own addresses. */
export function clientsOf(site: ResolvedSite): ReadonlyMap<string, IpRange[]> {
  let known = clients.get(site.segments);
  if (!known) clients.set(site.segments, (known = clientsIn(site)));
  return known;
}
const clients = new WeakMap<ResolvedSite['segments'], ReadonlyMap<string, IpRange[]>>();

function clientsIn(site: ResolvedSite): ReadonlyMap<string, IpRange[]> {
  const own = gatewayAddresses(site);
  return new Map(site.segments.map((segment) => [segment.id, fewer(mergeRanges(rangesOfSegment(segment)), own)]));
}

/**
 * The clients of each segment as neighbours: frames between them do not pass the gateway. Whether they are kept apart is
 * read from what devices are told; where nobody can be attached, none is told anything, and what would be holds.
 */
function neighbourhoodsOf(site: ResolvedSite, enforced: Enforced): Neighbourhood[] {
  const clients = clientsOf(site);
  return site.segments.map(({ id, vlan, isolation }) => ({
    addresses: clients.get(id)!,
    apart: areApart(enforced, vlan) ?? isolation?.clients ?? false,
  }));
}

const CABLED: Attached = { keys: [attachedKey(null, null), 'ports'], name: 'ports' };

/** What was opened last, by its key; of each book. */
const opened = new WeakMap<
  PolicyBook,
  Map<string, { readonly site: Pick<ResolvedSite, 'segments' | 'routers' | 'pacts'>; readonly view: PolicyView }>
>();

/**
 * Opens a site's policy; with a book, the same view as last time while nothing that it says is another, so that what was proven of it stays proven.
 * @param enforced the one to ask: what was made, or what devices run.
 */
export function viewPolicy(
  site: ResolvedSite,
  made: SitePolicy,
  enforced: Enforced,
  key: string,
  book: PolicyBook = new PolicyBook(0),
): PolicyView {
  const views = opened.get(book) ?? new Map<string, never>();
  opened.set(book, views);
  const last = views.get(key);
  const { segments, routers, pacts } = site;
  if (
    last?.site.segments === segments &&
    last.site.routers === routers &&
    last.site.pacts === pacts &&
    last.view.made === made &&
    saysTheSame(last.view.enforced, enforced)
  )
    return last.view;
  const view = opening(site, made, enforced, book.open(key, enforced.policy));
  // A book forgets policies that were not asked for long; what was opened of them is of no use then.
  if (views.size >= MOST_OPENED) views.clear();
  views.set(key, { site: { segments, ...(routers ? { routers } : {}), ...(pacts ? { pacts } : {}) }, view });
  return view;
}
const MOST_OPENED = 16;

const saysTheSame = (a: Enforced, b: Enforced): boolean =>
  sameValue(a.policy, b.policy) &&
  sameValue(a.switches, b.switches) &&
  sameValue(a.ssids, b.ssids) &&
  sameValue(a.ways, b.ways);

/** Minutes of one policy whose passage is kept: people may ask of any. */
const MOST_PASSAGES = 64;

function opening(site: ResolvedSite, made: SitePolicy, enforced: Enforced, gateway: OpenPolicy): PolicyView {
  const neighbourhoods = neighbourhoodsOf(site, enforced);
  const edgeAt = edgeOf(site, made, enforced);
  const moments = edgeAt ? momentsOf(rulesOf(enforced)) : gateway.moments;
  const { controller = [], gateway: own = [] } = made.names;
  const grounds = [controller, own, neverOutside(made.names), thoseOutside(null, made.names)];
  const quarters = quartersOf(site, made.names);
  const passages = new Map<number, Passage>();
  return {
    made,
    enforced,
    routers: site.routers ?? [],
    open: { ...gateway, moments },
    passage: (minute) => {
      let passage = passages.get(minute);
      if (!passage) {
        const edge = edgeAt?.(minute) ?? null;
        passage = new Passage(gateway.at(minute), neighbourhoods, enforced.policy.otherwise, edge, grounds, quarters);
        if (passages.size >= MOST_PASSAGES) passages.clear();
        passages.set(minute, passage);
      }
      return passage;
    },
  };
}

/** The rules of every place, each as often as there are places. */
export const rulesOf = ({ policy, switches, ssids }: Enforced): readonly PolicyRule[] => [
  ...policy.rules,
  ...(switches?.rules ?? []),
  ...Object.values(ssids)
    .flatMap(listsOfAir)
    .flatMap(({ from, to }) => [...from.rules, ...to.rules]),
];

/** The lists at switches and APs at a minute of the week, or null where there are none. */
function edgeOf(
  site: ResolvedSite,
  { places }: Pick<SitePolicy, 'places'>,
  { switches, ssids, ways }: Enforced,
): ((minute: number) => Edge) | null {
  if (!switches && Object.keys(ssids).length === 0) return null;
  const resolved = new Map<PolicyRule, PacketRule>();
  const packets = (rule: PolicyRule): PacketRule => {
    let known = resolved.get(rule);
    if (!known) resolved.set(rule, (known = packetRuleOf(rule)));
    return known;
  };
  return (minute) => {
    const list = (rules: readonly PolicyRule[] = []): PacketRule[] =>
      rules.filter((rule) => appliesAtMoment(rule, minute)).map(packets);
    const laid = new Map<SsidLists | undefined, NonNullable<Attachment['air']>>();
    const airOf = ({ ssid, accessClass }: Attached): Attachment['air'] => {
      if (!ssid) return null;
      const told = ssids[ssid.id];
      const lists = accessClass ? told?.classLists?.[accessClass.id] : told?.lists;
      let air = laid.get(lists);
      if (!air) laid.set(lists, (air = { from: list(lists?.from.rules), to: list(lists?.to.rules) }));
      return air;
    };
    const homes = site.segments.map(({ id, vlan }): EdgeHome => {
      // Where nobody is known to be, somebody may be cabled still.
      const attachments = (ways[vlan] ?? [CABLED]).map(({ keys, name, ...way }): Attachment => ({
        keys,
        name,
        air: airOf({ keys, name, ...way }),
        ...('tunnelled' in way && way.tunnelled ? { tunnelled: true } : {}),
      }));
      return { addresses: places.clients.get(id) ?? [], attachments };
    });
    return { switches: list(switches?.rules), homes };
  };
}
