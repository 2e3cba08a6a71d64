import { parsePrefix } from '../address';
import {
  vlansOfClasses,
  vlansOfSsid,
  type ApDocument,
  type ClassDocument,
  type DeviceDocument,
  type GatewayDocument,
  type GatewayInterface,
  type PortDocument,
  type SsidDocument,
  type SwitchDocument,
} from '../document';
import { sheetFor, type HardwareSheet } from '../hardware';
import {
  AIRED,
  fixedAddressIn,
  isApUplink,
  plainSegmentsOfSsid,
  portSetting,
  segmentsOfSsid,
  servedFrom,
  type PortSetting,
  type ResolvedSite,
  type RosterDevice,
  type Segment,
} from '../intent';
import { enforcedBy, policyOf, type EnforcedPolicy, type SitePolicy } from './compile-policy';
import { interface6Of, serviceOf } from './compile-service';

/**
 * Works out what each device of a site is told. The first gateway by name holds the segments' gateway addresses.
 * @returns documents by device id, in the roster's order.
 */
export function compileSite(site: ResolvedSite, roster: readonly RosterDevice[]): Map<string, DeviceDocument> {
  const first = roster
    .filter((device) => sheetFor(device).kind === 'gateway')
    .sort((a, b) => (a.name < b.name ? -1 : 1))[0];
  const plan = planOf(site);
  const former = formerGateways(site, roster);
  const policy = policyOf(site, roster);
  return new Map(
    roster.map((device) => {
      const holds = device.id === first?.id;
      const document = withPolicy(remembered(plan, device, holds), policy, holds);
      return [device.id, holds ? withFormer(document, site, former) : document];
    }),
  );
}

/**
 * What the devices of a site would let pass, read from the very documents that they would be told; where no gateway is ours
 * yet, what one would be told.
 */
export const enforcedAt = (site: ResolvedSite, roster: readonly RosterDevice[]): EnforcedPolicy =>
  enforcedBy([...compileSite(site, roster).values()]) ?? policyOf(site, roster);

/**
 * Gateway addresses of subnets that devices still have their fixed addresses in: the gateway keeps answering there until
 * the rollout is over, or the first device told would cut off all the others.
 */
function formerGateways(site: ResolvedSite, roster: readonly RosterDevice[]): string[] {
  const { gateway, subnet } = site.management;
  const old = roster.flatMap(({ address }) =>
    address && address.gateway !== gateway && fixedAddressIn(address, { gateway, subnet })
      ? [`${address.gateway}/${address.length}`]
      : [],
  );
  const taken = new Set(site.segments.map((segment) => segment.gateway));
  return [...new Set(old)].filter((text) => !taken.has(text.split('/')[0]!)).sort();
}

const policed = new WeakMap<DeviceDocument, { readonly by: SitePolicy; readonly document: DeviceDocument }>();

/** A document with what its device lets pass; the same in gives the same out. */
function withPolicy(document: DeviceDocument, by: SitePolicy, holds: boolean): DeviceDocument {
  const known = policed.get(document);
  if (known?.by === by) return known.document;
  const made = policedBy(document, by, holds);
  policed.set(document, { by, document: made });
  return made;
}

function policedBy(document: DeviceDocument, { policy, switches, ssids }: SitePolicy, holds: boolean): DeviceDocument {
  if (document.kind === 'gateway') return holds ? { ...document, policy } : document;
  if (document.kind === 'switch') return switches ? { ...document, list: switches } : document;
  if (!document.ssids.some(({ id }) => ssids[id])) return document;
  const sent = document.ssids.map((ssid): SsidDocument => {
    const { lists, classLists } = ssids[ssid.id] ?? {};
    const named = (document.classes ?? []).flatMap(({ id, name }) => {
      const own = classLists?.[id];
      return own ? [{ id, name, ...own }] : [];
    });
    return { ...ssid, ...(lists ? { lists } : {}), ...(named.length > 0 ? { classLists: named } : {}) };
  });
  return { ...document, ssids: sent };
}

function withFormer(document: DeviceDocument, site: ResolvedSite, former: readonly string[]): DeviceDocument {
  if (document.kind !== 'gateway' || former.length === 0) return document;
  const { vlan } = site.management;
  const interfaces = document.interfaces.map((face) => (face.vlan === vlan ? { ...face, former } : face));
  return { ...document, interfaces };
}

/** What a device was told last time: the same objects in give the same document out, and most edits touch one device. */
const documents = new WeakMap<
  RosterDevice,
  {
    readonly shared: Plan['shared'];
    readonly ports: unknown;
    readonly holds: boolean;
    readonly document: DeviceDocument;
  }
>();

function remembered(plan: Plan, device: RosterDevice, holds: boolean): DeviceDocument {
  const ports = plan.site.ports[device.id];
  const known = documents.get(device);
  if (known?.shared === plan.shared && known.ports === ports && known.holds === holds) return known.document;
  const { kind } = sheetFor(device);
  const compile = { gateway: compileGateway, switch: compileSwitch, ap: compileAp }[kind];
  const document = compile(plan, device, holds);
  documents.set(device, { shared: plan.shared, ports, holds, document });
  return document;
}

/** A site with what every device's document looks up in it. */
interface Plan extends SharedPlan {
  readonly site: ResolvedSite;
  readonly shared: SharedPlan;
}

/** What does not follow from the ports. */
interface SharedPlan {
  readonly segments: ReadonlyMap<string, Segment>;
  /** VLAN IDs of the segments that SSIDs put clients into. */
  readonly aired: readonly number[];
  readonly all: readonly number[];
  /** VLAN IDs whose clients are kept apart from each other. */
  readonly kept: ReadonlySet<number>;
  readonly vlans: SwitchDocument['vlans'];
  /** What a device is told that asks who clients are. */
  readonly classes: readonly ClassDocument[];
  /** What APs of a model send; many are of one model. */
  readonly sent: Map<HardwareSheet, readonly SsidDocument[]>;
}

const plans = new WeakMap<ResolvedSite['ssids'], { readonly key: readonly unknown[]; readonly shared: SharedPlan }>();

function planOf(site: ResolvedSite): Plan {
  const key = [
    site.segments,
    site.accessClasses,
    site.duties,
    site.managementId,
    site.name,
    site.country,
    site.timeZone,
  ];
  const known = plans.get(site.ssids);
  const same = known?.key.every((each, i) => each === key[i]);
  const shared = known && same ? known.shared : sharedOf(site);
  if (!same) plans.set(site.ssids, { key, shared });
  return { site, shared, ...shared };
}

function sharedOf(site: ResolvedSite): SharedPlan {
  const segments = new Map(site.segments.map((segment): [string, Segment] => [segment.id, segment]));
  const aired = ascending(
    site.ssids.flatMap(segmentsOfSsid).flatMap((id) => {
      const segment = segments.get(id);
      return segment && !staysInAp(segment) ? [segment.vlan] : [];
    }),
  );
  return {
    segments,
    aired,
    all: ascending(site.segments.map((segment) => segment.vlan)),
    kept: new Set(site.segments.flatMap(({ vlan, isolation }) => (isolation?.clients ? [vlan] : []))),
    vlans: site.segments.map(({ vlan, name }) => ({ vlan, name })),
    classes: site.accessClasses.map(({ id, name, segmentId, members }): ClassDocument => {
      const segment = segmentId === null ? undefined : segments.get(segmentId);
      const isolated = segment?.isolation?.clients ? { isolated: true as const } : {};
      return { id, name, vlan: segment?.vlan ?? null, members: members.map(({ mac }) => mac).sort(), ...isolated };
    }),
    sent: new Map(),
  };
}

/** Whether each AP routes the segment for its own clients, so that its frames never leave it. */
const staysInAp = ({ addresses }: Segment): boolean => {
  const from = addresses && servedFrom(addresses);
  return from?.kind === 'ap' && from.how === 'each';
};

/** Whether APs route the segment, so that the gateway has no address in it. */
const isRoutedByAps = ({ addresses }: Segment): boolean => addresses !== null && servedFrom(addresses).kind === 'ap';

/** What a gateway is told; `holds`: whether the segments' gateway addresses are its own. */
function compileGateway(plan: Plan, device: RosterDevice, holds: boolean): GatewayDocument {
  const segments = holds ? plan.site.segments.filter((segment) => !isRoutedByAps(segment)) : [];
  const relays = segments.flatMap(({ vlan, addresses }) => {
    const from = addresses && servedFrom(addresses);
    return from?.kind === 'relay' ? [{ vlan, server: from.server }] : [];
  });
  const interfaces6 = segments.flatMap((segment) => interface6Of(segment));
  return {
    ...common(plan, device),
    kind: 'gateway',
    ...ported(plan, device),
    interfaces: segments.map(interfaceOf),
    addressServices: segments.flatMap((segment) =>
      segment.addresses && servedFrom(segment.addresses).kind === 'gateway' ? [serviceOf(segment)] : [],
    ),
    ...(relays.length > 0 ? { relays } : {}),
    ...(interfaces6.length > 0 ? { interfaces6 } : {}),
    uplinks: sheetFor(device)
      .ports.filter((port) => port.role === 'wan')
      .map((port) => ({ port: port.name, method: 'dhcp', translate: true })),
  };
}

/** What a switch is told. */
function compileSwitch(plan: Plan, device: RosterDevice): SwitchDocument {
  const served = plan.site.segments.filter(({ addresses }) => {
    const from = addresses && servedFrom(addresses);
    return from?.kind === 'switch' && from.deviceId === device.id;
  });
  return {
    ...common(plan, device),
    kind: 'switch',
    ...ported(plan, device),
    vlans: plan.vlans,
    ...(served.length > 0 ? { addressServices: served.map(serviceOf) } : {}),
  };
}

/** The site's SSIDs that APs of a model have a band and a segment for. */
function sentBy({ site, segments, kept, sent }: Plan, sheet: HardwareSheet): readonly SsidDocument[] {
  const known = sent.get(sheet);
  if (known) return known;
  const bands = new Set(sheet.radios.map((radio) => radio.band));
  const ssids = site.ssids.flatMap((ssid): SsidDocument[] => {
    const vlans = ascending(plainSegmentsOfSsid(ssid).flatMap((each) => segments.get(each)?.vlan ?? []));
    const shared = ssid.bands.filter((band) => bands.has(band));
    if (vlans.length === 0 || shared.length === 0) return [];
    const { id, name, security, passphrase } = ssid;
    const pool = ssid.pool ? { pool: vlans } : {};
    const apart = ssid.isolation?.clients || vlans.some((vlan) => kept.has(vlan));
    const isolated = apart ? { isolated: true as const } : {};
    const byClass = ssid.classes ? { byClass: true as const } : {};
    return [{ id, name, security, passphrase, bands: shared, vlan: vlans[0]!, ...pool, ...isolated, ...byClass }];
  });
  sent.set(sheet, ssids);
  return ssids;
}

/** What an AP is told: what it sends, and the tags of that on its own port. */
function compileAp(plan: Plan, device: RosterDevice): ApDocument {
  const { site } = plan;
  const sheet = sheetFor(device);
  const ssids = sentBy(plan, sheet);
  const sockets = sheet.ports.filter((port) => !isApUplink(sheet, port.name));
  const wired = sockets.map((port) => portDocument(plan, port.name, portSetting(site, device, port.name)));
  const classes = classesFor(plan, wired, ssids);
  const sent = new Set([
    ...ssids.flatMap((ssid) => vlansOfSsid(ssid, classes)),
    ...vlansOfClasses(classes),
    ...wired.flatMap((port) => [port.untagged ?? 0, ...port.tagged]),
  ]);
  const own = site.segments.filter((segment) => {
    const from = segment.addresses && servedFrom(segment.addresses);
    if (from?.kind !== 'ap') return false;
    return from.how === 'each' ? sent.has(segment.vlan) : from.deviceIds.includes(device.id);
  });
  const kept = new Set(own.filter(staysInAp).map((segment) => segment.vlan));
  const management = site.management.vlan;
  const tagged = ascending(
    [...sent, ...own.map((segment) => segment.vlan)].filter(
      (vlan) => vlan !== management && vlan !== 0 && !kept.has(vlan),
    ),
  );
  return {
    ...common(plan, device),
    kind: 'ap',
    ports: [{ name: sheet.ports[0]!.name, untagged: management, tagged }, ...wired],
    ...classes,
    ssids,
    ...(own.length > 0 ? { interfaces: own.map(interfaceOf), addressServices: own.map(serviceOf) } : {}),
  };
}

/** The classes for a device that asks who its clients are: at a port, or on an SSID that it sends. */
function classesFor(
  { classes }: Plan,
  ports: readonly PortDocument[],
  ssids: readonly SsidDocument[] = [],
): { readonly classes?: readonly ClassDocument[] } {
  const asks = ports.some(({ auth }) => auth === 'mac') || ssids.some(({ byClass }) => byClass);
  return asks && classes.length > 0 ? { classes } : {};
}

const interfaceOf = (segment: Segment): GatewayInterface => ({
  vlan: segment.vlan,
  name: segment.name,
  address: `${segment.gateway}/${parsePrefix(segment.subnet)!.length}`,
});

function common({ site }: Plan, device: RosterDevice) {
  const { name, serial, model, address: fixed, lightOff } = device;
  // One that no longer fits is said as it was given: a finding stops it from being rolled out unseen.
  const address = fixed && (fixedAddressIn(fixed, site.management) ?? fixed);
  return {
    format: 'iron-lattice.document/1',
    device: { name, serial, model },
    site: { name: site.name, country: site.country, timeZone: site.timeZone },
    management: { vlan: site.management.vlan, ...(address ? { address } : {}) },
    ...(lightOff ? ({ light: 'off' } as const) : {}),
  } as const;
}

/** Port settings as VLAN IDs; WAN ports are not part of them. */
function lanPorts(plan: Plan, device: RosterDevice): PortDocument[] {
  return sheetFor(device)
    .ports.filter((port) => port.role !== 'wan')
    .map((port) => portDocument(plan, port.name, portSetting(plan.site, device, port.name)));
}

function ported(plan: Plan, device: RosterDevice): Pick<SwitchDocument, 'ports' | 'classes'> {
  const ports = lanPorts(plan, device);
  return { ports, ...classesFor(plan, ports) };
}

function portDocument({ segments, aired, all, kept }: Plan, name: string, setting: PortSetting): PortDocument {
  // Where a client's class says its VLAN, nothing else passes.
  const byClass = setting.auth === 'mac';
  const untagged = byClass || setting.untagged === null ? null : (segments.get(setting.untagged)?.vlan ?? null);
  const { poe, priority, speed, auth, isolated, storm, group } = setting;
  const document: { -readonly [K in keyof PortDocument]: PortDocument[K] } = {
    name,
    untagged,
    tagged: byClass ? [] : without(setting.tagged === 'all' ? all : listed(setting.tagged, segments, aired), untagged),
  };
  if (poe === 'off') document.poe = poe;
  if (priority !== 'low') document.priority = priority;
  if (speed !== 'auto') document.speed = speed;
  if (auth !== 'none') document.auth = auth;
  // A port that carries more leads to a device of ours: what hangs there is not one client.
  if (isolated || (kept.has(untagged ?? 0) && document.tagged.length === 0)) document.isolated = true;
  if (storm !== 100) document.storm = storm;
  if (group !== null) document.group = group;
  return document;
}

const NONE: readonly number[] = [];

function listed(
  tagged: readonly string[],
  segments: ReadonlyMap<string, Segment>,
  aired: readonly number[],
): readonly number[] {
  if (tagged.length === 0) return NONE;
  return ascending(
    tagged.flatMap((id): readonly number[] => {
      if (id === AIRED) return aired;
      const segment = segments.get(id);
      return segment ? [segment.vlan] : NONE;
    }),
  );
}

const without = (vlans: readonly number[], vlan: number | null): readonly number[] =>
  vlan !== null && vlans.includes(vlan) ? vlans.filter((each) => each !== vlan) : vlans;

const ascending = (vlans: readonly number[]): number[] => [...new Set(vlans)].sort((a, b) => a - b);
