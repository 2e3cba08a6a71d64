import {
  differenceOf,
  hashOfDocument,
  inEffect,
  isTold,
  outagesOf,
  tallyOf,
  type DeviceDocument,
  type Difference,
  type DifferenceTally,
  type Outage,
} from '../document';
import {
  isRoutedByGateway,
  resolve,
  routerOfSegment,
  type EstatePart,
  type Link,
  type ResolvedSite,
  type RosterDevice,
  type SitePart,
} from '../intent';
import { latticeGrid, type LatticeGrid, type PackedGrid } from '../lattice';
import { compileSite, enforcedAt, policyOf, rolloutOrder } from '../rollout';
import type { PolicyBook } from '../rules';
import { pick } from '../base';
import type { AirFacts } from './air-facts';
import { tooManyBeacons } from './beacon-checks';
import { CAP_CHECKS } from './cap-checks';
import { carriageChecks, unknownHang } from './carriage-checks';
import {
  contextOf,
  type Check,
  type DirectoryDoubts,
  type EndingAuthority,
  type EndingCertificate,
  type LostKeys,
  type ServerMethods,
  type StrangeClass,
  type UplinkAddress,
} from './check';
import type { Beyond } from './beyond';
import { bySeverity, type Finding } from './finding';
import { proveGuarantees, type GuaranteeResult } from './guarantee-results';
import { lockOuts, type LockOut } from './lock-out';
import { COURSE_CHECKS } from './course-checks';
import { uplinkLockOuts } from './uplink-lock-out';
import { viewPolicy } from './policy-view';
import { placeFindings } from './place-checks';
import { MESH_CHECKS } from './mesh-checks';
import { branchOutages, hangingOrder } from './mesh-order';
import { hangsNow, linksAs, meshTree } from './mesh-tree';
import type { GuestFacts } from './guest-facts';
import { PORTAL_CHECKS, stoppedPortals } from './portal-checks';
import { overlayFindings } from './overlay-checks';
import { pairFindings } from './pair-checks';
import { pairOrder } from './pair-order';
import { openPorts } from './portal-ports';
import { RADIO_CHECKS } from './radio-checks';
import { RADIUS_CHECKS, stoppedServers } from './radius-checks';
import { networkFindings } from './network-checks';
import { routeFindings, routeLockOuts } from './route-checks';
import { ruleFindings } from './rule-checks';
import {
  exposedManagement,
  misplacedService,
  noAddresses,
  poolMembers,
  tooManyVlans,
  unreachableServer,
  uplinkOverlap,
} from './service-checks';
import { beyondSheet } from './sheet-checks';
import { askingPorts, classWithoutSegment } from './class-checks';
import { fixedOutside, noGateway, ssidWithoutSegment, tooManySsids } from './site-checks';
import { openFindings, SSID_CHECKS } from './ssid-checks';
import { lostPorts } from './lost-ports';
import { portHours } from './port-hours';
import { publicationFindings } from './publication-checks';
import { sixOutside } from './six-checks';
import { TAG_CHECKS } from './tag-checks';
import { translationLockOuts } from './translation-lock-out';
import { TRANSLATION_CHECKS } from './translation-checks';
import { LANDING_CHECKS, stoppedLandings } from './landing-checks';
import { stoppedTunnels, TUNNEL_CHECKS } from './tunnel-checks';
import { pactFindings } from './pact-checks';
import { besideFindings, routerFindings } from './router-checks';
import { routerOf } from './told-route';
import { tunnelOrder } from './tunnel-order';
import { apBehindAp, deadEnds, nativeMismatch, oneSided, parallelCables, rings } from './wiring-checks';

/** Every check; a new one is a file and a name here. */
export const CHECKS: readonly Check[] = [
  carriageChecks,
  nativeMismatch,
  parallelCables,
  rings,
  noGateway,
  ssidWithoutSegment,
  classWithoutSegment,
  askingPorts,
  tooManySsids,
  fixedOutside,
  misplacedService,
  unreachableServer,
  uplinkOverlap,
  poolMembers,
  tooManyVlans,
  beyondSheet,
  noAddresses,
  oneSided,
  exposedManagement,
  deadEnds,
  apBehindAp,
  unknownHang,
  ...RADIO_CHECKS,
  ...MESH_CHECKS,
  tooManyBeacons,
  ...SSID_CHECKS,
  ...CAP_CHECKS,
  ...TAG_CHECKS,
  ...TUNNEL_CHECKS,
  ...LANDING_CHECKS,
  ...RADIUS_CHECKS,
  ...PORTAL_CHECKS,
  portHours,
  ...COURSE_CHECKS,
  ...TRANSLATION_CHECKS,
  lostPorts,
  sixOutside,
  routeFindings,
  networkFindings,
  routerFindings,
  pactFindings,
  overlayFindings,
  pairFindings,
];

/** What one device would be told anew. How many lines that is says enough beside a site; a review has the lines. */
export interface DeviceChange<Told extends DifferenceTally = DifferenceTally> {
  readonly deviceId: string;
  readonly name: string;
  readonly hash: string;
  readonly difference: Told;
  /** What is expected to be away for it. */
  readonly outages: readonly Outage[];
}

/** What a site's intent means, seen before any device hears of it. */
export interface Consequences<Told extends DifferenceTally = DifferenceTally> {
  readonly siteId: string;
  readonly findings: readonly Finding[];
  /** In the order a rollout would tell them. */
  readonly changes: readonly DeviceChange<Told>[];
  readonly grid: LatticeGrid;
  readonly guarantees: readonly GuaranteeResult[];
  /** Devices that would not reach the controller any more. */
  readonly lockOuts: readonly LockOut[];
  /** Cables as they would be used, and links by radio; absent: as they are reported. */
  readonly links?: readonly Link[];
}

/** The same as it travels to a page. */
export interface SentConsequences extends Omit<Consequences, 'grid'> {
  readonly grid: PackedGrid;
}

/** What a site's consequences are computed from. */
export interface ConsequencesInput {
  readonly estate: EstatePart;
  readonly site: SitePart;
  readonly roster: readonly RosterDevice[];
  readonly links: readonly Link[];
  /** What each device should run today, by device id; absent for one that was never told anything. */
  readonly told: Readonly<Record<string, DeviceDocument>>;
  /** Hashes of these, where they are known. */
  readonly toldHashes?: Readonly<Record<string, string>>;
  /** Uplinks that are up, with the address each was given. */
  readonly uplinks?: readonly UplinkAddress[];
  /** The site's tags. */
  readonly tags?: readonly string[];
  /** Tags of devices that have some, by id. */
  readonly deviceTags?: Readonly<Record<string, readonly string[]>>;
  /** What its APs heard of the air; absent: they never scanned. */
  readonly air?: AirFacts;
  /** Ids of passphrases that guessers try first: what they are is not known here. */
  readonly common?: readonly string[];
  /** Ids of secrets of servers that are the same, in groups. */
  readonly alike?: readonly (readonly string[])[];
  /** Classes that servers name there and devices do not know. */
  readonly strangers?: readonly StrangeClass[];
  /** What clients make of servers, where that is worth telling. */
  readonly methods?: readonly ServerMethods[];
  /** Servers whose authority ends soon. */
  readonly ending?: readonly EndingAuthority[];
  /** What is doubtful of the directory that the controller asks. */
  readonly directory?: DirectoryDoubts;
  /** Certificates that end soon. */
  readonly certificates?: readonly EndingCertificate[];
  /** Keys of rings that lead nowhere at any site. */
  readonly lostKeys?: readonly LostKeys[];
  /** The keys of the estate’s authority have 256 bits. */
  readonly shortKeys?: boolean;
  /** How guests are let in; absent: there is no portal. */
  readonly guests?: GuestFacts;
  /** Sites that guarantees of this one reach. */
  readonly beyond?: Beyond;
}

/** What findings are computed from. */
export type FindingsInput = Omit<ConsequencesInput, 'told' | 'toldHashes'>;

/** Compiles a site and runs every check over it. */
function assess(input: FindingsInput, book?: PolicyBook) {
  const { roster } = input;
  const site = resolve(input.estate, input.site);
  const tree = meshTree(site, roster, input.links, input.air?.near);
  const links = linksAs(tree, roster, input.links);
  const compiled = compileSite(site, roster);
  // What is proven is proven of a pair while its first routes.
  const documents = inEffect(compiled);
  const context = contextOf(
    {
      site,
      roster,
      documents,
      links,
      tree,
      uplinks: input.uplinks ?? [],
      ...pick(input, [
        'tags',
        'deviceTags',
        'air',
        'common',
        'alike',
        'strangers',
        'methods',
        'ending',
        'directory',
        'certificates',
        'shortKeys',
        'lostKeys',
        'guests',
      ]),
    },
    input.links,
  );
  const made = policyOf(site, roster);
  const view = viewPolicy(site, made, enforcedAt(site, roster, documents), site.id, book);
  const { network } = context;
  const guarantees = proveGuarantees({
    served: { site, roster, uplinks: context.uplinks },
    tags: input.tags ?? [],
    network,
    here: { site, router: routerOf(site, roster, documents), view },
    beyond: input.beyond,
  });
  const findings = [
    ...CHECKS.flatMap((check) => check(context)),
    ...ruleFindings(site, view, roster, network),
    ...besideFindings(site, view),
    ...openFindings(site, view),
    ...stoppedTunnels(site, view),
    ...stoppedLandings(site, view),
    ...stoppedServers({ site, documents }, view),
    ...openPorts(site, documents, view),
    ...stoppedPortals(site, documents, input.guests, view),
    ...placeFindings(site, view, roster, links),
    ...publicationFindings(context, view),
    ...guarantees.flatMap((each) => brokenGuarantee(site.id, each)),
  ];
  return { site, documents, compiled, links, tree, view, guarantees, findings: bySeverity(findings) };
}

function brokenGuarantee(siteId: string, { id, state, words, packet, why, at }: GuaranteeResult): Finding[] {
  if (state !== 'broken') return [];
  return [
    {
      key: `rules.guarantee ${id}`,
      code: 'rules.guarantee',
      severity: 'error',
      message: `Broken: ${words}`,
      reason: `${packet ? `${packet}${at ? `, ${at}` : ''}. ` : ''}${why}`,
      place: { siteId, kind: 'guarantee', id },
      mend: null,
    },
  ];
}

/** The faults of one site, the worst first. */
export const findingsOf = (input: FindingsInput): readonly Finding[] => assess(input).findings;

/**
 * Computes findings, guarantees, the difference for every device, and the grid of one site.
 * @param book keeps what is known of the site's policy from one edit to the next.
 */
export function consequencesOf(input: ConsequencesInput, book?: PolicyBook): Consequences {
  const { site, documents, links, outcome } = outcomeOf(input, tallyOf, book);
  const others = links === input.links ? {} : { links };
  return { ...outcome, ...others, grid: latticeGrid(site, input.roster, documents, links) };
}

/** VLANs that are routed by somebody else than a device: by another router of the site, or by the gateway where it is one. */
function routedBeside(site: ResolvedSite, deviceId: string): ReadonlySet<number> {
  const router = site.routers?.find((each) => each.deviceId === deviceId)?.id ?? null;
  return new Set(
    site.segments.flatMap((segment) => {
      const by = routerOfSegment(site, segment)?.id ?? (isRoutedByGateway(segment) ? null : undefined);
      return by === undefined || by === router ? [] : [segment.vlan];
    }),
  );
}

/** The same with every line that devices would be told, and without the grid, which nobody looks at over many sites. */
export const outcomeAt = (
  input: ConsequencesInput,
  book?: PolicyBook,
): Omit<Consequences<Difference>, 'grid' | 'links'> => outcomeOf(input, differenceOf, book).outcome;

function outcomeOf<Told extends DifferenceTally>(
  input: ConsequencesInput,
  compare: (before: DeviceDocument | null, after: DeviceDocument) => Told,
  book?: PolicyBook,
) {
  const { roster, told, toldHashes = {} } = input;
  const { site, documents, compiled, links, tree, view, guarantees, findings } = assess(input, book);
  const hung = hangsNow(input.links);
  const then = new Map([...tree.hangs].map(([id, { parentId }]) => [id, parentId]));
  const first = [...hangingOrder(hung, then), ...tunnelOrder(told, compiled), ...pairOrder(told, compiled)];
  const changes = rolloutOrder(roster, first).flatMap((device): DeviceChange<Told>[] => {
    if (device.expected) return []; // nobody can be told anything before it calls
    const document = compiled.get(device.id)!;
    const before = told[device.id] ?? null;
    if (before && isTold(document, before, toldHashes[device.id])) return [];
    const hash = hashOfDocument(document);
    const own = outagesOf(before, document, routedBeside(site, device.id));
    const outages = [...own, ...branchOutages(device, own, hung, told)];
    return [{ deviceId: device.id, name: device.name, hash, difference: compare(before, document), outages }];
  });
  const ways = [
    ...uplinkLockOuts(told, compiled, roster, input.uplinks ?? []),
    ...translationLockOuts(told, compiled, roster, view.made.names.controller ?? []),
    ...routeLockOuts(told, compiled, roster, view.made.names.controller ?? []),
  ];
  const coming = new Set<string | null>(roster.flatMap(({ id, expected }) => (expected ? [id] : [])));
  const outcome = {
    siteId: site.id,
    findings,
    changes,
    guarantees,
    lockOuts: [...lockOuts(site, roster, view), ...ways].filter(({ deviceId }) => !coming.has(deviceId)),
  };
  return { site, documents, links, outcome };
}
