import {
  togetherOf,
  translator,
  usesOf,
  watchOf,
  type CourseDocument,
  type GatewayDocument,
  type RouteDocument,
  type UplinkDocument,
} from '@iron-lattice/core/document';
import { formatIp, type IpAddress } from '@iron-lattice/core/address';
import {
  BUSY_SECONDS,
  type BusyShare,
  type Capacity,
  type PathChange,
  type PathsReport,
} from '@iron-lattice/core/line';
import {
  checked,
  healthy,
  pickUplink,
  roundOctets,
  Rounds,
  Together,
  unplugged,
  type Flow,
  type Health,
  type UsedUplink,
} from '@iron-lattice/core/paths';
import { playBusy } from './busy-play';
import type { Given, Given6, Providers } from './providers';
import { leavesBySix, sixOf, type Six } from './six';
import { Steering, wordsOf } from './steering';
import type { FarOutside, Pacts } from './pacts';
import { Onward, type OnwardChange } from './onward';
import type { Told } from './told-routes';
import { ALONE, type Outer, type Tunnels } from './tunnels';
import { uplinkReport, type Watched } from './watched';

/** Changes that are kept. */
const CHANGES = 20;

/** What is around a gateway, beside its providers. */
export interface Surroundings {
  readonly outer?: Outer;
  readonly far?: FarOutside;
  /** Whether somebody in a segment answers, or hands on to somebody who does. */
  readonly handsOn?: (neighbour: string, target: string) => boolean;
}

/** How a gateway leaves: its uplinks, what checks make of them, which are used, and where sessions stay. */
export class GatewayPaths {
  private uplinks: Watched[] = [];
  private together = new Together([], togetherOf());
  private document: GatewayDocument | null = null;
  private secrets: Readonly<Record<string, string>> = {};
  private changes: PathChange[] = [];
  private usedBefore = '';
  private counted = 0;
  private due: NodeJS.Timeout | null = null;
  private steering: Steering = this.steeringOf([]);
  private translate = translator([]);
  /** What goes another way than the rest: by routes, and into tunnels. */
  readonly onward: Onward;
  /** The uplink of each session that goes on. */
  private readonly pinned = new Map<string, string>();

  constructor(
    private readonly serial: string,
    private readonly mac: string,
    private readonly providers: Providers,
    /** Something is otherwise now. */
    private readonly changed: () => void,
    private readonly ticks: boolean,
    { outer = ALONE, handsOn = () => false, far }: Surroundings = {},
  ) {
    const hears = ({ by, to, tracks = '' }: RouteDocument): boolean =>
      by === undefined
        ? to !== undefined && handsOn(to, tracks)
        : this.carries(by) && this.providers.ask(`${this.serial}:${by}`, { to: tracks }).ms !== null;
    this.onward = new Onward(outer, hears, (at, all) => this.goesOtherwise(at, all), ticks, far);
  }

  /** It runs a document, or another. What is known of uplinks that stay as they are is kept. */
  run(document: GatewayDocument, secrets: Readonly<Record<string, string>>, at = Date.now()): void {
    if (this.document === document && this.secrets === secrets) return this.look(at);
    const before = new Map(this.uplinks.map((each) => [each.uplink.port, each]));
    this.document = document;
    this.secrets = secrets;
    for (const { timer } of this.uplinks) if (timer) clearTimeout(timer);
    this.uplinks = document.uplinks.map((uplink): Watched => {
      const socket = `${this.serial}:${uplink.port}`;
      const given = this.providers.given(socket, uplink, secrets);
      const old = before.get(uplink.port);
      const stays = old && old.given.address !== null && old.given.address === given.address;
      const start = given.address === null ? unplugged(healthy(at), at) : healthy(at);
      const kept = stays ? old : { since: at, health: start, rounds: new Rounds() };
      const { since, health, rounds } = kept;
      const octets = old?.octets ?? { down: 0, up: 0 };
      const had = given.address !== null || (old?.had ?? false);
      const six = this.sixOf(uplink, socket, given, old?.six ?? null, at);
      return { uplink, socket, given, had, since, health, rounds, octets, six, timer: null, sessions: 0 };
    });
    this.together = new Together(usesOf(document.uplinks), togetherOf(document.leaving));
    for (const { uplink, health, given } of this.uplinks) {
      if (!health.good) this.together.told(uplink.port, false, at);
      this.together.link(uplink.port, given.address !== null);
    }
    this.pinned.clear();
    this.usedBefore = this.usedWords(at);
    this.steering = this.steeringOf(document.courses ?? []);
    this.translate = translator(document.translations ?? []);
    this.onward.run(document, at, this.secrets);
    for (const { uplink, rounds } of this.uplinks)
      if (rounds.count > 0) this.steering.measured(uplink.port, rounds.measure());
    this.steering.begin(at);
    this.counted = at;
    if (this.ticks) for (const each of this.uplinks) this.wait(each, Math.random());
  }

  /** Tunnels or routes are otherwise than they were. */
  private goesOtherwise(at: number, all: readonly OnwardChange[]): void {
    const uses = this.used(at).map(({ port }) => port);
    const changes = all.map((each): PathChange => ({ at, port: '', ...each, uses }));
    if (changes.length > 0) this.changes = [...this.changes, ...changes].slice(-CHANGES);
    this.changed();
  }

  /** Its tunnels to other sites; null: it is joined to none. */
  get tunnels(): Tunnels | null {
    return this.onward.tunnels;
  }

  /** Its tunnels to gateways of others. */
  get pacts(): Pacts {
    return this.onward.pacts;
  }

  /** Whether an uplink has an address, and what it is asked by answers. */
  isGood = (port: string): boolean =>
    this.uplinks.some(({ uplink, given, health }) => uplink.port === port && given.address !== null && health.good);

  /** It routes for its site now, or leaves that to the other of its pair. */
  turned(routes: boolean, why: string, at = Date.now()): void {
    const uses = this.used(at).map(({ port }) => port);
    const what = routes ? 'took-over' : 'stands-by';
    this.changes = [...this.changes, { at, port: '', what, why, uses } as const].slice(-CHANGES);
  }

  /** It was without power, and begins anew. */
  started(at = Date.now()): void {
    this.settle(at, { port: '', what: 'started', why: '' });
  }

  /** Looks at its links anew. */
  look(at = Date.now()): void {
    for (const each of this.uplinks) {
      const given = this.providers.given(each.socket, each.uplink, this.secrets);
      each.six = this.sixOf(each.uplink, each.socket, given, each.six, at);
      if (given.address === each.given.address) {
        each.given = given;
        continue;
      }
      each.given = given;
      each.since = at;
      each.rounds = new Rounds();
      each.had ||= given.address !== null;
      this.together.link(each.uplink.port, given.address !== null);
      if (given.address === null) this.put(each, unplugged(each.health, at), at, given.why);
      // A link that comes back is believed once something answers.
      else if (this.ticks) this.wait(each, 0);
      if (given.address !== null) this.changed();
    }
  }

  private sixOf = (uplink: UplinkDocument, socket: string, { address }: Given, before: Six | null, at: number) =>
    sixOf(this.providers, { uplink, socket, mac: this.mac, hasFour: address !== null }, before, at);

  /** One round of questions of every uplink at once; for who does not wait for clocks. */
  checkAll(at = Date.now()): void {
    for (const each of this.uplinks) this.check(each, at);
  }

  stop(): void {
    for (const { timer } of this.uplinks) if (timer) clearTimeout(timer);
    if (this.due) clearTimeout(this.due);
    this.onward.stop();
    this.document = null;
    this.uplinks = [];
  }

  /** Somebody says that those that are good are used again. */
  bringBack(at = Date.now()): void {
    this.together.bringBack();
    this.settle(at, { port: '', what: 'by-hand', why: '' });
  }

  used = (at = Date.now()): readonly UsedUplink[] => this.together.used(at);

  /** Where a route that it was told leads what is for somebody; null: there is none, and it leaves as the rest does. */
  toldTo(destination: IpAddress): Told | null {
    const faces = [...(this.document?.interfaces ?? []), ...(this.document?.interfaces6 ?? [])];
    return this.onward.to(destination, faces, this.isGood);
  }

  /** The uplink that a session leaves by; null: none is used. One that is new is counted where it begins. */
  by(flow: Flow, at = Date.now()): UplinkDocument | null {
    const key = `${flow.protocol} ${flow.source.value} ${flow.sourcePort} ${flow.destination.value} ${flow.port} ${flow.dscp ?? 0}`;
    const told = this.toldTo(flow.destination);
    if (told) {
      const found = told.kind === 'uplink' ? this.uplinks.find(({ uplink }) => uplink.port === told.port) : undefined;
      // It is carried and paid for, and no part of what is shared by weight.
      if (found && this.pinned.get(key) !== found.uplink.port) this.begins(key, found);
      return found?.uplink ?? null;
    }
    if (flow.source.version === 6) {
      const uplinks = this.uplinks.map(({ uplink, six, health: { good } }) => ({ uplink, six, good }));
      const ports = this.used(at).map(({ port }) => port);
      return leavesBySix(uplinks, ports, flow.source);
    }
    const steered = this.steering.of(flow, at);
    const used = steered?.use.used ?? this.used(at);
    const stays = this.pinned.get(key);
    const before = stays === undefined ? undefined : this.uplinks.find(({ uplink }) => uplink.port === stays);
    const isUsed = used.some(({ port }) => port === stays);
    const mayStay = steered?.mayStay(stays ?? '') ?? true;
    if (before && (isUsed || (mayStay && this.document?.leaving?.stay !== false && before.health.good)))
      return before.uplink;
    const ids = used.map(({ weight, port }) => ({
      weight,
      id: this.uplinks.findIndex(({ uplink }) => uplink.port === port),
    }));
    const picked = pickUplink(flow, ids);
    const found = picked && this.uplinks[picked.id];
    if (!found) return null;
    const size = this.begins(key, found);
    if (!this.steering.began(flow, found.uplink.port, size)) found.sessions++;
    return found.uplink;
  }

  /** A session begins on an uplink. @returns octets that it takes. */
  private begins(key: string, { uplink, octets }: Watched): number {
    if (this.pinned.size >= MOST_SESSIONS) this.pinned.clear();
    this.pinned.set(key, uplink.port);
    const size = SESSION_OCTETS * -Math.log(1 - Math.random());
    octets.down += Math.round(size * 0.85);
    octets.up += Math.round(size * 0.15);
    return size;
  }

  /** Whether answers to an address of IPv6 come back by an uplink. */
  knows6 = ({ port, six }: UplinkDocument, source: IpAddress): boolean =>
    this.providers.knows6(`${this.serial}:${port}`, six === undefined ? {} : { six }, source);

  /** What a provider gave of IPv6; undefined where an uplink asks for none. */
  given6At = (port: string): Given6 | undefined => this.uplinks.find(({ uplink }) => uplink.port === port)?.six?.given;

  private steeringOf(told: readonly CourseDocument[]): Steering {
    const weights = new Map(usesOf(this.document?.uplinks ?? []).map(({ port, weight }) => [port, weight]));
    return new Steering(
      told,
      (at) => ({
        isUsable: (port) => this.has(port) && this.together.isUsable(port, at),
        weightOf: (port) => weights.get(port) || 1,
        usual: this.used(at),
      }),
      this.steering,
    );
  }

  /** The uplink by which tunnels begin: the first that is used; null: none is. */
  calls = (at = Date.now()): string | null => this.used(at)[0]?.port ?? null;

  /** Whether anything gets out by what is used. */
  works = (at = Date.now()): boolean => this.used(at).some(({ port }) => this.carries(port));

  /** Whether packets get through an uplink. */
  carries(port: string): boolean {
    const found = this.uplinks.find(({ uplink }) => uplink.port === port);
    return found !== undefined && found.given.address !== null && this.providers.carries(found.socket);
  }

  has = (port: string): boolean => this.uplinks.some(({ uplink }) => uplink.port === port);

  givenAt = (port: string): Given | undefined => this.uplinks.find(({ uplink }) => uplink.port === port)?.given;
  /** What gets through an uplink, in megabits a second, as a test of speed finds it; null: nothing. */
  capacityOf(port: string): Capacity | null {
    return this.carries(port) ? this.providers.capacityOf(`${this.serial}:${port}`) : null;
  }

  /** The address that a flow is seen with outside which leaves by an uplink; null: its uplink has none. */
  seenAs(uplink: UplinkDocument, { source, destination, ...ends }: Flow): string | null {
    if (source.version === 6) return formatIp(source);
    const packet = { version: source.version, source: source.value, destination: destination.value, ...ends };
    const as = this.translate(uplink, packet);
    if (as === 'uplink') return this.addressOf(uplink.port);
    return as === 'itself' ? formatIp(source) : formatIp({ version: 4, value: as.address });
  }

  /** The address of each uplink that has one, by its port. */
  addresses = (): readonly (readonly [port: string, address: string])[] =>
    this.uplinks.flatMap(({ uplink, given }) =>
      given.address === null ? [] : [[uplink.port, given.address] as const],
    );

  /** What VLANs get of an uplink that is kept below what it can do, while all of them are busy; a sentence where it is not kept to anything. */
  playBusy(port: string, vlans: readonly number[], capacity: Capacity): readonly BusyShare[] | string {
    const found = this.uplinks.find(({ uplink }) => uplink.port === port);
    const shape = found?.uplink.shape;
    if (!shape || !this.document) return `${port} is kept to nothing, so that whoever sends most gets most.`;
    const shares = playBusy(this.document, shape, vlans, capacity);
    // What is measured by is carried, and paid for.
    for (const way of ['down', 'up'] as const)
      found.octets[way] += Math.round(shares.reduce((sum, each) => sum + each[way], 0) * 125_000 * BUSY_SECONDS);
    return shares;
  }

  addressOf = (port: string): string | null => this.givenAt(port)?.address ?? null;

  /** All that it tells of them. */
  report(at = Date.now()): PathsReport {
    const used = new Map(this.used(at).map(({ port, weight }) => [port, weight]));
    const standing = new Set(
      usesOf(this.document?.uplinks ?? []).flatMap(({ port, standby }) => (standby === null ? [] : [port])),
    );
    const waiting = new Set(this.together.waiting(at));
    const uplinks = this.uplinks.map((each) =>
      uplinkReport(each, { used, standing, waiting, isPlugged: this.providers.at(each.socket) !== undefined }),
    );
    const courses = this.steering.report(at);
    return {
      ...{ uplinks, counted: this.counted, changes: this.changes },
      ...this.onward.report(),
      ...(courses.length > 0 ? { courses } : {}),
    };
  }

  private wait(each: Watched, part = 1): void {
    if (each.timer) clearTimeout(each.timer);
    each.timer = setTimeout(
      () => {
        this.check(each, Date.now());
        this.wait(each);
      },
      watchOf(each.uplink).interval * 1000 * part,
    );
    each.timer.unref();
  }

  /** One round of questions; what is not answered in time is known then. */
  private check(each: Watched, at: number): void {
    if (each.given.address === null) return;
    const watch = watchOf(each.uplink);
    const { gateway } = each.given;
    const answers = watch.targets.map((target) => {
      const { ms } = this.providers.ask(each.socket, { to: target.to === 'gateway' ? gateway : target.to });
      return ms !== null && ms <= watch.timeout * 1000 ? ms : null;
    });
    const ms = answers.reduce<number | null>(
      (best, one) => (one !== null && (best === null || one < best) ? one : best),
      null,
    );
    each.rounds.add(ms);
    const asked = roundOctets(watch.targets) / 2;
    each.octets.up += asked;
    if (ms !== null) each.octets.down += asked;
    const tell = (known: number): void => {
      if (each.given.address === null || !this.uplinks.includes(each)) return;
      this.steering.measured(each.uplink.port, each.rounds.measure());
      // What is used again by itself is told before what follows from it.
      if (this.usedWords(known) === this.usedBefore) this.steer(known);
      else this.settle(known, { port: '', what: 'used', why: '' });
      this.put(
        each,
        checked(each.health, ms !== null, known, watch),
        known,
        lostWords(watch.losses, watch.targets.length),
      );
    };
    const later = ms ?? watch.timeout * 1000;
    if (this.ticks && ms === null) setTimeout(() => tell(Date.now()), later).unref();
    else tell(Math.round(at + later));
  }

  private put(each: Watched, health: Health, at: number, why: string): void {
    const before = each.health;
    each.health = health;
    if (before.good === health.good) return;
    const { port } = each.uplink;
    this.together.told(port, health.good, at);
    this.settle(at, health.good ? { port, what: 'back', why: '' } : { port, what: 'gone', why });
  }

  /** Something may be used that was not. */
  private settle(at: number, change: Pick<PathChange, 'port' | 'what' | 'why'>): void {
    const uses = this.used(at).map(({ port }) => port);
    const words = uses.join(' ');
    if (change.what !== 'used' || words !== this.usedBefore)
      this.changes = [...this.changes.slice(1 - CHANGES), { at, ...change, uses }];
    if (words !== this.usedBefore) {
      // Shares are of those that are used: with others they are others.
      for (const each of this.uplinks) each.sessions = 0;
      this.counted = at;
    }
    this.usedBefore = words;
    // What left by another goes where it goes now.
    for (const [key, port] of this.pinned) {
      const found = this.uplinks.find(({ uplink }) => uplink.port === port);
      if (!found?.health.good) this.pinned.delete(key);
    }
    this.steer(at);
    this.changed();
    this.waitForDue(at);
  }

  /** Looks whether courses leave by others now. */
  private steer(at: number): void {
    const changes = this.steering.changes(at);
    if (changes.length === 0) return;
    this.changes = [...this.changes, ...changes].slice(-CHANGES);
    this.changed();
  }

  private waitForDue(at: number): void {
    if (this.due) clearTimeout(this.due);
    const due = this.together.due(at);
    if (due === null || !this.ticks) return;
    this.due = setTimeout(() => this.settle(Date.now(), { port: '', what: 'used', why: '' }), due - at + 1);
    this.due.unref();
  }

  private usedWords = (at: number): string => wordsOf(this.used(at));
}

/** Octets of a session on the average, both ways; sizes are spread exponentially. */
const SESSION_OCTETS = 400_000;
/** Sessions whose uplinks are remembered. */
const MOST_SESSIONS = 20_000;
const lostWords = (losses: number, targets: number): string =>
  targets === 1
    ? `No answer ${losses} times in a row.`
    : `No answer of any of ${targets} targets ${losses} times in a row.`;
