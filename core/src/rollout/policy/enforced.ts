import { sameValue } from '../../base';
import {
  farEndOfSsid,
  fallbacksOf,
  type ApDocument,
  type DeviceDocument,
  type GatewayDocument,
  type SsidDocument,
  type SsidLists,
} from '../../document';
import type { PolicyDocument } from '../../rules';
import { AFAR, attached, type Attached } from './attached';
import type { AiredLists } from './lists';

/** What the devices of a site let pass, read from what they were told. */
export interface Enforced {
  /** The gateway's, which remembers what it let through. */
  readonly policy: PolicyDocument;
  /** What each switch judges packets by; absent where they judge nothing. */
  readonly switches?: PolicyDocument;
  /** What APs judge packets of an SSID's clients by, by the SSID's id. */
  readonly ssids: Readonly<Record<string, AiredLists>>;
  /** How clients can be attached, by VLAN ID; none for a VLAN that no port and no SSID puts anybody into. */
  readonly ways: Readonly<Record<number, readonly Way[]>>;
}

/** A way in which clients are attached, and what their device does with them. */
export interface Way extends Attached {
  /** Whether they are kept apart from each other there, wherever it is; null where devices of ours hang alone. */
  readonly isolated: boolean | null;
  /** Whether their frames go to the gateway in a tunnel, past the switches. */
  readonly tunnelled?: boolean;
}

/**
 * Reads what a site's devices let pass from the documents they run, or would be told; null where nothing says what the
 * gateway lets pass.
 * @param unruled switches of the site that run no document of ours: they pass whatever comes.
 * @param otherwise the gateway's policy where no document has one.
 */
export function enforcedBy(
  documents: readonly DeviceDocument[],
  unruled = 0,
  otherwise: PolicyDocument | null = null,
): Enforced | null {
  const policy = documents.flatMap((each) => (each.kind === 'gateway' ? (each.policy ?? []) : []))[0] ?? otherwise;
  if (!policy) return null;
  // What some of them do not have is passed there: only what all of them have is sure to take effect.
  const lists = documents.flatMap((each) => (each.kind === 'switch' ? [each.list] : []));
  const switches = unruled === 0 && lists[0] && lists.every((list) => sameValue(list, lists[0])) ? lists[0] : undefined;
  return { policy, ...(switches ? { switches } : {}), ssids: airedBy(documents), ways: waysBy(documents) };
}

function airedBy(documents: readonly DeviceDocument[]): Record<string, AiredLists> {
  const sent = documents.flatMap((each) => (each.kind === 'ap' ? each.ssids : []));
  const ssids: Record<string, AiredLists> = {};
  const bySsid = new Map<string, SsidDocument[]>();
  for (const each of sent) bySsid.set(each.id, [...(bySsid.get(each.id) ?? []), each]);
  for (const [id, there] of bySsid) {
    const common = (of: (ssid: SsidDocument) => SsidLists | undefined): SsidLists | undefined => {
      const [first, ...more] = there.map(of);
      return first && more.every((each) => sameValue(each, first)) ? first : undefined;
    };
    const lists = common((ssid) => ssid.lists);
    const classIds = new Set(there.flatMap(({ classLists = [] }) => classLists.map((each) => each.id)));
    const classLists = Object.fromEntries(
      [...classIds].flatMap((classId) => {
        const found = common((ssid) => ssid.classLists?.find((each) => each.id === classId));
        return found ? [[classId, found]] : [];
      }),
    );
    const listed = Object.keys(classLists).length > 0;
    if (lists || listed) ssids[id] = { ...(lists ? { lists } : {}), ...(listed ? { classLists } : {}) };
  }
  return ssids;
}

/** Every list of what APs judge packets by. */
export const listsOfAir = ({ lists, classLists = {} }: AiredLists): SsidLists[] => [
  ...(lists ? [lists] : []),
  ...Object.values(classLists),
];

type Ways = Map<number, Map<string, Way>>;

/** How clients can be attached by what devices were told. */
function waysBy(documents: readonly DeviceDocument[]): Record<number, readonly Way[]> {
  const found: Ways = new Map();
  for (const document of documents)
    for (const [vlan, ways] of waysAt(document)) for (const way of ways.values()) add(found, vlan, way);
  const cablesFirst = ({ ssid }: Way): number => (ssid ? 1 : 0);
  return Object.fromEntries(
    [...found].map(([vlan, ways]) => [vlan, [...ways.values()].sort((a, b) => cablesFirst(a) - cablesFirst(b))]),
  );
}

/** A document never changes: what it says of ways is read once. */
const known = new WeakMap<DeviceDocument, Ways>();

function waysAt(document: DeviceDocument): Ways {
  let ways = known.get(document);
  if (!ways) {
    known.set(document, (ways = new Map<number, Map<string, Way>>()));
    byCable(document, ways);
    if (document.kind === 'ap') byAir(document, ways);
    if (document.kind === 'gateway') fromAfar(document, ways);
  }
  return ways;
}

function add(found: Ways, vlan: number, way: Way): void {
  let ways = found.get(vlan);
  if (!ways) found.set(vlan, (ways = new Map<string, Way>()));
  const key = way.keys[0]!;
  const before = ways.get(key);
  // Kept apart is who is kept apart wherever they may be.
  if (!before || before.isolated === null) ways.set(key, way);
  else if (way.isolated === false && before.isolated) ways.set(key, way);
}

function byCable({ ports, management, classes = [] }: DeviceDocument, found: Ways): void {
  const cable = attached(null, null);
  add(found, management.vlan, { ...cable, isolated: null });
  for (const { untagged, tagged, isolated = false } of ports)
    // One that carries more leads to a device of ours.
    if (untagged !== null) add(found, untagged, { ...cable, isolated: tagged.length > 0 ? null : isolated });
  if (!ports.some(({ auth }) => auth !== undefined)) return;
  for (const port of ports)
    for (const vlan of port.auth === undefined ? [] : fallbacksOf(port))
      add(found, vlan, { ...cable, isolated: (port.isolated ?? false) || (port.apart?.includes(vlan) ?? false) });
  for (const { id, name, vlan, isolated = false } of classes)
    if (vlan !== null) add(found, vlan, { ...attached(null, { id, name }), isolated });
}

function byAir({ ssids, classes = [] }: ApDocument, found: Ways): void {
  for (const ssid of ssids) {
    // Whom another site takes in is judged there.
    if (farEndOfSsid(ssid) !== null) continue;
    const kept = ssid.isolated ?? false;
    const inside = ssid.tunnel ? { tunnelled: true } : {};
    const way = { ...attached(ssid, null), ...inside };
    for (const vlan of ssid.pool ?? [ssid.vlan]) add(found, vlan, { ...way, isolated: kept });
    for (const { vlan, isolated = false } of ssid.ring?.segments ?? []) add(found, vlan, { ...way, isolated });
    if (!ssid.byClass) continue;
    for (const { id, name, vlan, isolated = false } of classes)
      if (vlan !== null) add(found, vlan, { ...attached(ssid, { id, name }), ...inside, isolated: isolated || kept });
  }
}

/** Whom APs of other sites carry here: they come out at the gateway, past all switches. */
function fromAfar({ tunnels }: GatewayDocument, found: Ways): void {
  for (const { vlans, apart = [] } of tunnels?.landings ?? [])
    for (const vlan of vlans) add(found, vlan, { ...AFAR, tunnelled: true, isolated: apart.includes(vlan) });
}

/**
 * Whether the clients of a VLAN are kept apart from each other, wherever they are attached; null where no client can be,
 * so that no document says.
 */
export function areApart({ ways }: Enforced, vlan: number): boolean | null {
  const known = (ways[vlan] ?? []).flatMap(({ isolated }) => (isolated === null ? [] : [isolated]));
  return known.length === 0 ? null : known.every(Boolean);
}
