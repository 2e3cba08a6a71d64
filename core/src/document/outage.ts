import { sameValue } from '../base';
import { BANDS, type Band } from '../hardware';
import {
  classOfOthers,
  farEndOfSsid,
  interfacesOf,
  vlansOfSsid,
  type ApDocument,
  type DeviceDocument,
  type PortDocument,
  type SsidDocument,
} from './document';

/** Something that is away while a device takes another document, or from then on. */
export interface Outage {
  /** What of the device. `clients`: they stay, and have to ask for an address anew. `branch`: APs that hang on it by radio. */
  readonly what: 'radio' | 'branch' | 'port' | 'power' | 'clients' | 'carriage' | 'gateway' | 'uplink' | 'device';
  /** Bands, ports, names of APs, or nothing where the device as a whole is meant. */
  readonly where: readonly string[];
  /** VLANs whose clients feel it, ascending; empty: those of all, and of `clients` those that are carried to other sites. */
  readonly vlans: readonly number[];
  /** How long at the most, in seconds; null: until it is said otherwise. */
  readonly seconds: number | null;
}

/**
 * How long each takes at the most, in seconds. A radio that restarts sends its beacons again within 2 s, and clients scan and join
 * for some more; copper agrees on a speed within 4 s (IEEE 802.3-2022 §28.3.1: break_link_timer and autoneg_wait_timer), and what
 * hangs on the port asks for its address after that. A client that is moved keeps its address until it is seen to be wrong: one that
 * lost its link asks at once (RFC 2131 §4.4.2), one that did not by half its lease.
 */
export const OUTAGE_SECONDS = { radio: 10, port: 10, clients: 30, device: 30, uplink: 30 } as const;

/**
 * What is expected to be away when a device is told another document.
 * @param before null: it runs nothing of ours yet; then nothing of ours is away.
 * @param routed VLANs that somebody else routes then: their clients find that one once they ask for it (RFC 826).
 */
export function outagesOf(
  before: DeviceDocument | null,
  after: DeviceDocument,
  routed: ReadonlySet<number> = new Set(),
): readonly Outage[] {
  if (!before || before.kind !== after.kind) return [];
  const radios = before.kind === 'ap' && after.kind === 'ap' ? radioOutages(before, after) : [];
  const moved = movedClasses(before, after);
  const classes: Outage[] =
    moved.length > 0 ? [{ what: 'clients', where: [], vlans: moved, seconds: OUTAGE_SECONDS.clients }] : [];
  return [
    ...deviceOutages(before, after),
    ...joinClients([...radios, ...classes]),
    ...portOutages(before, after),
    ...gatewayOutages(before, after, routed),
  ];
}

/** VLANs of classes whose clients are put elsewhere, or let in nowhere, at a device that asks who clients are before and after. */
function movedClasses(before: DeviceDocument, after: DeviceDocument): number[] {
  const is = new Map((after.classes ?? []).map(({ id, vlan }) => [id, vlan]));
  const asks = (document: DeviceDocument): boolean =>
    document.ports.some(({ auth }) => auth !== undefined) ||
    (document.kind === 'ap' && document.ssids.some(({ byClass }) => byClass));
  if (!asks(before) || !asks(after)) return [];
  return sorted((before.classes ?? []).flatMap(({ id, vlan }) => (vlan === null || is.get(id) === vlan ? [] : [vlan])));
}

/** Clients that stay and are moved are said once. */
function joinClients(outages: readonly Outage[]): Outage[] {
  const moved = outages.filter(({ what }) => what === 'clients');
  if (moved.length < 2) return [...outages];
  const vlans = sorted(moved.flatMap((each) => each.vlans));
  return [...outages.filter(({ what }) => what !== 'clients'), { ...moved[0]!, vlans }];
}

const same = (a: unknown, b: unknown): boolean => sameValue(a ?? null, b ?? null);
const sorted = (vlans: Iterable<number>): number[] => [...new Set(vlans)].sort((a, b) => a - b);

function deviceOutages(before: DeviceDocument, after: DeviceDocument): Outage[] {
  const moved = !same(before.management, after.management);
  if (!moved && !hangsElsewhere(before, after)) return [];
  // Who looks for another way takes its clients along.
  const behind = moved || before.kind !== 'ap' ? [] : before.ssids.flatMap((ssid) => vlansOfSsid(ssid, before));
  const vlans = sorted([after.management.vlan, ...behind]);
  return [{ what: 'device', where: [], vlans, seconds: OUTAGE_SECONDS.device }];
}

/** Whether an AP leaves what it hangs on: one that only starts to hang by radio when its cable fails stays on that. */
function hangsElsewhere(before: DeviceDocument, after: DeviceDocument): boolean {
  if (before.kind !== 'ap' || after.kind !== 'ap') return false;
  const [was, is] = [before.mesh?.hang, after.mesh?.hang];
  return !same(was, is) && (was?.when === 'always' || is?.when === 'always' || (was !== undefined && is !== undefined));
}

/** What of an SSID its radios have to be started anew for. */
const heard = ({ id, name, security, passphrase, former, bands, hidden, roam, ring }: SsidDocument) => [
  ...[id, name, security, passphrase?.secret ?? null, ring?.asked ?? null, bands],
  ...[hidden ?? null, roam ?? [], former ? former.passphrase.secret : null],
];
const vlansOf = (ssid: SsidDocument): readonly number[] =>
  farEndOfSsid(ssid) === null ? (ssid.pool ?? [ssid.vlan]) : [];
/** Where clients go that nothing gives a class. */
function plainVlansOf(ap: ApDocument, ssid: SsidDocument): readonly number[] {
  const others = ssid.byClass ? classOfOthers(ap) : undefined;
  return others ? (others.vlan === null ? [] : [others.vlan]) : vlansOf(ssid);
}

/** Bands whose radio sends on another channel, at another width, or not at all any more; how strong it sends changes without. */
function retuned(before: ApDocument, after: ApDocument): Band[] {
  const tuned = ({ radios = [] }: ApDocument) => new Map(radios.map(({ power: _power, ...rest }) => [rest.band, rest]));
  const [was, is] = [tuned(before), tuned(after)];
  return BANDS.filter((band) => !same(was.get(band), is.get(band)));
}

/** How long a radio is silent at the most when it starts anew: it listens for radar first where that has the right of way. */
function startSeconds({ radios = [] }: ApDocument, band: Band): number | null {
  const radio = radios.find((each) => each.band === band);
  return radio?.off ? null : OUTAGE_SECONDS.radio + (radio?.radar?.listen ?? 0);
}

function radioOutages(before: ApDocument, after: ApDocument): Outage[] {
  const [was, is] = [before, after].map(({ ssids }) => new Map(ssids.map((ssid) => [ssid.id, ssid])));
  const ids = [...new Set([...was!.keys(), ...is!.keys()])];
  const bands = new Set<Band>(retuned(before, after));
  const moved = new Set<number>();
  let farMoved = false;
  for (const id of ids) {
    const [old, now] = [was!.get(id), is!.get(id)];
    if (!old || !now || !same(heard(old), heard(now)))
      for (const band of [...(old?.bands ?? []), ...(now?.bands ?? [])]) bands.add(band);
    else {
      const [there, then] = [plainVlansOf(before, old), plainVlansOf(after, now)];
      const isFar = farEndOfSsid(old) !== null;
      const elsewhere = isFar && old.vlan !== now.vlan;
      if (same(there, then) && same(old.byClass, now.byClass) && same(old.tunnel, now.tunnel) && !elsewhere) continue;
      for (const vlan of there) moved.add(vlan);
      farMoved ||= isFar;
    }
  }
  const restarts = [...bands].map((band) => ({ band, seconds: startSeconds(after, band) }));
  return [
    // Those that are away as long are said together, the longest last.
    ...[...new Set(restarts.map(({ seconds }) => seconds))]
      .sort((a, b) => (a ?? Infinity) - (b ?? Infinity))
      .flatMap((seconds): Outage[] => {
        const where = restarts.filter((each) => each.seconds === seconds).map(({ band }) => band);
        // One radio sends all SSIDs of its band: the clients of each feel it. A radio that was off takes nothing from anybody.
        const onAir = before.ssids.filter((ssid) =>
          ssid.bands.some((band) => where.includes(band) && !isOff(before, band)),
        );
        const vlans = onAir.flatMap((ssid) => vlansOfSsid(ssid, before));
        return onAir.length > 0 ? [{ what: 'radio', where: where.sort(), vlans: sorted(vlans), seconds }] : [];
      }),
    ...(moved.size > 0 || farMoved
      ? [{ what: 'clients' as const, where: [], vlans: sorted(moved), seconds: OUTAGE_SECONDS.clients }]
      : []),
  ];
}

const isOff = ({ radios = [] }: ApDocument, band: Band): boolean =>
  radios.some((radio) => radio.band === band && radio.off === true);

function portOutages(before: DeviceDocument, after: DeviceDocument): Outage[] {
  const was = new Map(before.ports.map((port) => [port.name, port]));
  const changed = after.ports.flatMap((now) => {
    const old = was.get(now.name);
    return old && !same(old, now) ? [{ old, now }] : [];
  });
  const outage = (
    what: Outage['what'],
    of: (old: PortDocument, now: PortDocument) => readonly number[] | null,
    seconds: number | null,
  ): Outage[] => {
    const found = changed.flatMap(({ old, now }) => {
      const vlans = of(old, now);
      return vlans ? [{ name: now.name, vlans }] : [];
    });
    if (found.length === 0) return [];
    return [
      { what, where: found.map(({ name }) => name), vlans: sorted(found.flatMap(({ vlans }) => vlans)), seconds },
    ];
  };
  const carried = ({ untagged, tagged }: PortDocument): number[] => [
    ...(untagged === null ? [] : [untagged]),
    ...tagged,
  ];
  const lost = (old: PortDocument, now: PortDocument): number[] => {
    const still = new Set(carried(now));
    return carried(old).filter((vlan) => !still.has(vlan));
  };
  // What an AP carries for its SSIDs follows from them, and is felt on the air.
  const aired = new Set(before.kind === 'ap' ? before.ssids.flatMap((ssid) => vlansOfSsid(ssid, before)) : []);
  const goesDown = (old: PortDocument, now: PortDocument): boolean =>
    old.speed !== now.speed || old.group !== now.group || asksOtherwise(old, now);
  const moves = (old: PortDocument, now: PortDocument): boolean =>
    old.untagged !== now.untagged && now.untagged !== null;
  return [
    ...outage('power', (old, now) => (old.poe !== 'off' && now.poe === 'off' ? carried(old) : null), null),
    ...outage('port', (old, now) => (goesDown(old, now) ? carried(old) : null), OUTAGE_SECONDS.port),
    ...outage(
      'clients',
      (old, now) => (moves(old, now) && old.untagged !== null ? [old.untagged] : null),
      OUTAGE_SECONDS.clients,
    ),
    ...outage(
      'carriage',
      (old, now) => {
        const gone = lost(old, now).filter((vlan) => !aired.has(vlan) && !(moves(old, now) && vlan === old.untagged));
        return gone.length > 0 ? gone : null;
      },
      null,
    ),
  ];
}

/** VLANs that are without a gateway for some seconds, or from then on. */
const without = (vlans: readonly number[], seconds: number | null): Outage[] =>
  vlans.length > 0 ? [{ what: 'gateway', where: [], vlans: sorted(vlans), seconds }] : [];

function gatewayOutages(before: DeviceDocument, after: DeviceDocument, routed: ReadonlySet<number>): Outage[] {
  const is = new Map(interfacesOf(after).map((each) => [each.vlan, each]));
  const gone: number[] = [];
  const moved: number[] = [];
  for (const { vlan, address } of interfacesOf(before)) {
    const now = is.get(vlan);
    if (!now) gone.push(vlan);
    else if (now.address !== address) moved.push(vlan);
  }
  const lease = Math.max(
    0,
    ...(before.addressServices ?? [])
      .filter(({ vlan }) => moved.includes(vlan))
      .map(({ leaseSeconds }) => leaseSeconds),
  );
  const uplinks =
    before.kind === 'gateway' && after.kind === 'gateway'
      ? before.uplinks
          .filter(
            (old) =>
              !same(
                old,
                after.uplinks.find(({ port }) => port === old.port),
              ),
          )
          .map(({ port }) => port)
      : [];
  return [
    ...without(
      gone.filter((vlan) => routed.has(vlan)),
      OUTAGE_SECONDS.clients,
    ),
    ...without(
      gone.filter((vlan) => !routed.has(vlan)),
      null,
    ),
    // Clients learn of another router by half their lease at the latest (RFC 2131 §4.4.5, T1).
    ...(moved.length > 0
      ? [
          {
            what: 'clients' as const,
            where: [],
            vlans: sorted(moved),
            seconds: lease === 0 ? null : Math.max(OUTAGE_SECONDS.clients, lease / 2),
          },
        ]
      : []),
    ...(uplinks.length > 0
      ? [{ what: 'uplink' as const, where: uplinks, vlans: [], seconds: OUTAGE_SECONDS.uplink }]
      : []),
  ];
}

/** Whether a port asks something else, so that whoever is there is asked anew. */
const asksOtherwise = (old: PortDocument, now: PortDocument): boolean =>
  (['auth', 'hosts', 'voice', 'guest', 'rejected', 'unanswered'] as const).some((key) => old[key] !== now[key]);
