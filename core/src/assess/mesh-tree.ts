import { sheetFor, type Band } from '../hardware';
import {
  MESH_PORT,
  meshSetting,
  radioSetting,
  sheetRadio,
  type HangingSite,
  type Link,
  type MeshSetting,
  type RadioSetting,
  type RadioSite,
  type RosterDevice,
} from '../intent';
import { expectedAt, type Pairing, type Width } from '../radio';
import type { AirFacts } from './air-facts';

/** Signal in dBm below which an AP does not hang on another: at that the slowest of frames get through, and no rain may fall. */
export const LEAST_HANG = -82;

/** Why an AP hangs on nobody. */
export type NoParent = 'off' | 'silent' | 'unheard' | 'weak' | 'hops';

/** How an AP hangs on another by radio. */
export interface Hang {
  readonly deviceId: string;
  readonly parentId: string;
  readonly band: Band;
  /** Weaker of what the two hear of each other, in dBm; null: they never heard each other in a scan. */
  readonly signal: number | null;
  /** Of the channel, in MHz. */
  readonly width: Width;
  /** Radio hops to an AP with a cable. */
  readonly hops: number;
  /** TCP in Mb/s over this hop alone, and over all of them; null where the signal is not known. */
  readonly link: number | null;
  readonly way: number | null;
  /** Air that a megabit takes on the whole way, in seconds, by band: hops of one band send after each other. */
  readonly airtime: Readonly<Partial<Record<Band, number>>>;
}

/** An AP that would have to hang by radio, and that nobody takes. */
export interface Loose {
  readonly deviceId: string;
  readonly why: NoParent;
  readonly setting: MeshSetting;
  /** The best of those that are too weak, in dBm. */
  readonly best?: { readonly parentId: string; readonly signal: number };
}

/** How the APs of a site hang on each other by radio. */
export interface MeshTree {
  readonly hangs: ReadonlyMap<string, Hang>;
  readonly loose: readonly Loose[];
  /** Of APs that hang on a cable: what takes them when it fails. */
  readonly standby: ReadonlyMap<string, Hang>;
  /** The same, of those that nobody would take. */
  readonly alone: readonly Loose[];
  /** APs that hang by radio now, have no cable, and are said not to: by whom they hang. */
  readonly cut: ReadonlyMap<string, string>;
}

/** A site as far as this goes. */
export type MeshTreeSite = HangingSite & RadioSite;

const NOTHING: MeshTree = { hangs: new Map(), loose: [], standby: new Map(), alone: [], cut: new Map() };

/** Of a site's links those by radio, from who hangs to whom it hangs on. */
export const hangsNow = (links: readonly Link[]): ReadonlyMap<string, string> =>
  new Map(
    links.flatMap(({ a, b, hangs }) =>
      hangs ? [hangs === 'a' ? ([a.deviceId, b.deviceId] as const) : ([b.deviceId, a.deviceId] as const)] : [],
    ),
  );

const isByRadio = ({ hangs }: Link): boolean => hangs !== undefined;

/** The port each AP hangs on by cable. */
const ownPorts = (roster: readonly RosterDevice[]): ReadonlyMap<string, string> =>
  new Map(
    roster.flatMap((device) => {
      const sheet = sheetFor(device);
      return sheet.kind === 'ap' ? [[device.id, sheet.ports[0]!.name]] : [];
    }),
  );

/**
 * Who hangs on whom, by what is said of each and what APs measured of each other: an AP stays where it hangs while it may; else it
 * takes the parent over which a frame is the shortest on the air, hop by hop (as the airtime link metric of IEEE 802.11-2020
 * §14.9 has it).
 * @param links as devices report them.
 */
export function meshTree(
  site: MeshTreeSite,
  roster: readonly RosterDevice[],
  links: readonly Link[],
  near: AirFacts['near'] = [],
): MeshTree {
  const now = hangsNow(links);
  if (!site.mesh && now.size === 0) return NOTHING;
  return new Planting(site, roster, links, near, now).tree();
}

/** Links as they are used: an AP that hangs by radio does not use its cable. */
export function linksNow(roster: readonly RosterDevice[], links: readonly Link[]): readonly Link[] {
  const hung = hangsNow(links);
  if (hung.size === 0) return links;
  const own = ownPorts(roster);
  return links.filter(
    (link) =>
      isByRadio(link) || ![link.a, link.b].some((end) => hung.has(end.deviceId) && own.get(end.deviceId) === end.port),
  );
}

/**
 * TCP in Mb/s of a client of an AP that hangs by radio. @param air what the client's own part of the way would let through.
 */
export function speedThrough({ airtime }: Pick<Hang, 'airtime'>, band: Band, air: number): number {
  const own = 1 / air + (airtime[band] ?? 0);
  return 1 / Math.max(own, ...Object.values(airtime));
}

/** What becomes of links once APs hang as a tree says: those by radio are its own, and a cable that an AP does not use is none. */
export function linksAs(tree: MeshTree, roster: readonly RosterDevice[], links: readonly Link[]): readonly Link[] {
  if (tree.hangs.size === 0 && !links.some(isByRadio)) return links;
  const own = ownPorts(roster);
  const kept = links.filter(
    (link) =>
      !isByRadio(link) &&
      ![link.a, link.b].some((end) => tree.hangs.has(end.deviceId) && own.get(end.deviceId) === end.port),
  );
  const hung = [...tree.hangs.values()].map(({ deviceId, parentId }): Link => {
    const [a, b] = [deviceId, parentId].sort() as [string, string];
    const hangs = a === deviceId ? 'a' : 'b';
    return { a: { deviceId: a, port: MESH_PORT }, b: { deviceId: b, port: MESH_PORT }, hangs };
  });
  return [...kept, ...hung];
}

interface Rooted {
  readonly hops: number;
  /** Airtime of a megabit on the way, in seconds, by band: hops of one band share a channel. */
  readonly airtime: ReadonlyMap<Band, number>;
  /** Whether all of it is known. */
  readonly known: boolean;
  /** APs on the way, itself included. */
  readonly past: ReadonlySet<string>;
}
const ROOT: Omit<Rooted, 'past'> = { hops: 0, airtime: new Map(), known: true };

const waySpeed = ({ airtime, known }: Pick<Rooted, 'airtime' | 'known'>): number | null =>
  known && airtime.size > 0 ? 1 / Math.max(...airtime.values()) : null;
const cost = (airtime: ReadonlyMap<Band, number>): number => [...airtime.values()].reduce((sum, each) => sum + each, 0);

interface Edge {
  readonly parentId: string;
  readonly signal: number | null;
  readonly width: Width;
  readonly link: number | null;
}

/** Where an AP could hang, and the airtime of a megabit on the whole way. */
interface Offer {
  readonly edge: Edge;
  readonly at: number;
}

const speeds = new Map<string, number>();
/** TCP in Mb/s of a link alone on the air; there are few signals, each is asked for often. */
function speedAt(signal: number, width: Width, pairing: Pairing): number {
  const key = `${signal} ${width} ${pairing.phy} ${pairing.maxNss} ${pairing.band}`;
  let speed = speeds.get(key);
  if (speed === undefined) speeds.set(key, (speed = expectedAt(signal, width, 0, pairing).tcp));
  return speed;
}

/** Works out a tree. */
class Planting {
  private readonly aps: readonly RosterDevice[];
  private readonly settings: ReadonlyMap<string, MeshSetting>;
  private readonly cabled: ReadonlySet<string>;
  private readonly byId: ReadonlyMap<string, RosterDevice>;
  private readonly radios = new Map<string, RadioSetting>();
  /** What of a signal is lost, by band and AP, and by the other AP. */
  private readonly heard = new Map<string, Map<string, number>>();
  private readonly rooted = new Map<string, Rooted>();
  private readonly hangs = new Map<string, Hang>();

  constructor(
    private readonly site: MeshTreeSite,
    roster: readonly RosterDevice[],
    links: readonly Link[],
    near: AirFacts['near'],
    private readonly now: ReadonlyMap<string, string>,
  ) {
    this.aps = roster.filter((device) => sheetFor(device).kind === 'ap');
    this.byId = new Map(this.aps.map((device) => [device.id, device]));
    this.settings = new Map(this.aps.map((device) => [device.id, meshSetting(site, device)]));
    const own = ownPorts(this.aps);
    this.cabled = new Set(
      links.flatMap(({ a, b }) => [a, b].flatMap((end) => (own.get(end.deviceId) === end.port ? [end.deviceId] : []))),
    );
    const hears = (band: Band, by: string, of: string, loss: number): void => {
      const key = `${band} ${by}`;
      const heard = this.heard.get(key);
      if (heard) heard.set(of, loss);
      else this.heard.set(key, new Map([[of, loss]]));
    };
    for (const { band, a, b, loss } of near) {
      hears(band, a, b, loss);
      hears(band, b, a, loss);
    }
  }

  tree(): MeshTree {
    const asks = (device: RosterDevice, when: MeshSetting['when']) => this.settings.get(device.id)!.when === when;
    const seeking = this.aps.filter(
      (device) => asks(device, 'always') || (asks(device, 'fallback') && !this.cabled.has(device.id)),
    );
    const sought = new Set(seeking.map(({ id }) => id));
    for (const { id } of this.aps)
      if (this.cabled.has(id) && !sought.has(id)) this.rooted.set(id, { ...ROOT, past: new Set([id]) });
    // Those that can stay where they are, from the cables outwards; then the others, the shortest way first.
    for (let [before, stay] = [-1, [...this.now]] as [number, [string, string][]]; stay.length !== before;) {
      before = stay.length;
      stay = stay.filter(([child, parent]) => {
        const edge = sought.has(child) ? this.edge(this.byId.get(child)!, parent) : null;
        if (edge) this.hang(this.byId.get(child)!, edge);
        return !edge;
      });
    }
    this.grow(seeking.filter(({ id }) => !this.hangs.has(id)));
    const backup = this.aps.filter((device) => asks(device, 'fallback') && this.cabled.has(device.id));
    const standby = backup.flatMap((device) => {
      const offer = this.best(device, ({ past }) => !past.has(device.id));
      return offer ? [[device.id, this.hangOf(device, offer.edge)] as const] : [];
    });
    const saved = new Map(standby);
    return {
      hangs: this.hangs,
      loose: seeking.filter(({ id }) => !this.hangs.has(id)).map((device) => this.looseOf(device)),
      standby: saved,
      alone: backup.filter(({ id }) => !saved.has(id)).map((device) => this.looseOf(device)),
      cut: new Map([...this.now].filter(([id]) => !this.cabled.has(id) && !sought.has(id))),
    };
  }

  private grow(left: readonly RosterDevice[]): void {
    const offers = new Map<RosterDevice, Offer | null>(left.map((device) => [device, this.best(device)]));
    while (offers.size > 0) {
      let next: { readonly device: RosterDevice; readonly offer: Offer } | null = null;
      for (const [device, offer] of offers) if (offer && (!next || offer.at < next.offer.at)) next = { device, offer };
      if (!next) return;
      this.hang(next.device, next.offer.edge);
      offers.delete(next.device);
      for (const [device, known] of offers) {
        const offer = this.offer(device, next.device.id);
        if (offer && (!known || offer.at < known.at)) offers.set(device, offer);
      }
    }
  }

  private offer(device: RosterDevice, parentId: string): Offer | null {
    const edge = this.edge(device, parentId);
    return edge && { edge, at: cost(this.rootedBy(device, edge).airtime) };
  }

  /** The parent of those that hang already over which a frame is the shortest on the air. */
  private best(device: RosterDevice, may: (rooted: Rooted) => boolean = () => true): Offer | null {
    let best: Offer | null = null;
    for (const id of this.near(device)) {
      const rooted = this.rooted.get(id);
      const offer = rooted && may(rooted) ? this.offer(device, id) : null;
      if (offer && (!best || offer.at < best.at)) best = offer;
    }
    return best;
  }

  /** APs that an AP hears at its band, and the one that it hangs on now. */
  private near(device: RosterDevice): Iterable<string> {
    const heard = this.heard.get(`${this.settings.get(device.id)!.band} ${device.id}`);
    const now = this.now.get(device.id);
    return new Set([...(heard?.keys() ?? []), ...(now === undefined ? [] : [now])]);
  }

  private lossBetween = (device: RosterDevice, parentId: string): number | undefined =>
    this.heard.get(`${this.settings.get(device.id)!.band} ${device.id}`)?.get(parentId);

  /** How an AP could hang on one that hangs already; null where it cannot. */
  private edge(device: RosterDevice, parentId: string): Edge | null {
    const { band, hops, parents } = this.settings.get(device.id)!;
    const rooted = this.rooted.get(parentId);
    if (!rooted || rooted.hops + 1 > hops || parentId === device.id) return null;
    if (parents !== 'any' && !parents.includes(parentId)) return null;
    // Whom it hangs on now it hears, whatever was scanned.
    const loss = this.lossBetween(device, parentId);
    if (loss === undefined && this.now.get(device.id) !== parentId) return null;
    const pair = this.pair(device, parentId, band);
    if (!pair) return null;
    const { width, powers, pairing } = pair;
    if (loss === undefined) return { parentId, signal: null, width, link: null };
    const signal = Math.round(Math.min(...powers) - loss);
    return signal < LEAST_HANG ? null : { parentId, signal, width, link: speedAt(signal, width, pairing) };
  }

  /** Two radios of a band that both send; null where either does not. */
  private pair(device: RosterDevice, parentId: string, band: Band) {
    const parent = this.byId.get(parentId);
    const [own, theirs] = [sheetRadio(device, band), parent && sheetRadio(parent, band)];
    if (!parent || !own || !theirs) return null;
    const [mine, other] = [this.radio(device, band), this.radio(parent, band)];
    if (!mine.on || !other.on || other.eirp === null) return null;
    const width = Math.min(other.at?.width ?? other.width, own.width) as Width;
    const phy = own.phy ?? 'HE';
    return {
      width,
      powers: [other.eirp, mine.eirp ?? other.eirp],
      pairing: { phy, maxNss: Math.min(own.streams, theirs.streams), band },
    };
  }

  /** What is said of a radio, worked out once. */
  private radio(device: RosterDevice, band: Band): RadioSetting {
    const key = `${band} ${device.id}`;
    let known = this.radios.get(key);
    if (!known) this.radios.set(key, (known = radioSetting(this.site, device, band)));
    return known;
  }

  private rootedBy(device: RosterDevice, { parentId, link }: Edge): Rooted {
    const { hops, airtime, known, past } = this.rooted.get(parentId)!;
    const { band } = this.settings.get(device.id)!;
    const more = new Map(airtime).set(band, (airtime.get(band) ?? 0) + (link ? 1 / link : 0));
    return { hops: hops + 1, airtime: more, known: known && link !== null, past: new Set([...past, device.id]) };
  }

  private hangOf(device: RosterDevice, edge: Edge): Hang {
    const rooted = this.rootedBy(device, edge);
    const { band } = this.settings.get(device.id)!;
    const airtime = Object.fromEntries(rooted.airtime);
    return { deviceId: device.id, band, hops: rooted.hops, way: waySpeed(rooted), airtime, ...edge };
  }

  private hang(device: RosterDevice, edge: Edge): void {
    this.hangs.set(device.id, this.hangOf(device, edge));
    this.rooted.set(device.id, this.rootedBy(device, edge));
  }

  /** Why nobody takes an AP. */
  private looseOf(device: RosterDevice): Loose {
    const setting = this.settings.get(device.id)!;
    const { band, parents } = setting;
    const loose = (why: NoParent, best?: Loose['best']): Loose => {
      return { deviceId: device.id, why, setting, ...(best ? { best } : {}) };
    };
    if (!this.radio(device, band).on) return loose('off');
    const named = this.aps.filter(({ id }) => id !== device.id && (parents === 'any' || parents.includes(id)));
    const sending = named.flatMap(({ id }) => {
      const pair = this.pair(device, id, band);
      return pair ? [{ id, ...pair }] : [];
    });
    if (sending.length === 0) return loose('silent');
    const heard = sending
      .flatMap(({ id, powers }) => {
        const loss = this.lossBetween(device, id);
        return loss === undefined ? [] : [{ parentId: id, signal: Math.round(Math.min(...powers) - loss) }];
      })
      .sort((a, b) => b.signal - a.signal);
    if (heard.length === 0) return loose('unheard');
    return heard[0]!.signal < LEAST_HANG ? loose('weak', heard[0]) : loose('hops', heard[0]);
  }
}
