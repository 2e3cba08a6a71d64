import { parseIp } from '@iron-lattice/core/address';
import { standingBy, type DeviceDocument, type GatewayDocument, type PairDocument } from '@iron-lattice/core/document';
import type { PairReport } from '@iron-lattice/core/line';
import { downMs, Vrrp, type Advertisement, type VrrpSelf, type VrrpState } from '@iron-lattice/core/paths';
import type { Box } from './box';

/** What of the world a pair of gateways needs. */
interface Ground {
  /** Another box by its serial number; undefined where there is none. */
  box(serial: string): Box | undefined;
  /** Whether frames of one get to the other in a VLAN, whatever carries them. */
  reaches(from: Box, to: Box, vlan: number): boolean;
  /** Whether an uplink of a gateway is good. */
  isGood(box: Box, port: string): boolean;
  /** One of a pair routes now, or does not any more. */
  turned(box: Box, routes: boolean, why: string): void;
  /** What one knows of leases the other is told. */
  tellLeases(from: Box, to: Box): void;
}

/** One of a pair as it is played. */
interface Player {
  readonly box: Box;
  document: GatewayDocument;
  pair: PairDocument;
  readonly vrrp: Vrrp;
  since: number;
  priority: number;
  timer: NodeJS.Timeout | null;
}

/** Pairs of gateways: each goes by the state machine of RFC 9568, and by what it hears of the other over cables. */
export class Pairs {
  private readonly players = new Map<string, Player>();
  private ticks = false;
  private now = Date.now();

  constructor(private readonly ground: Ground) {}

  /** Clocks run from now on. */
  begin(): void {
    this.ticks = true;
    for (const player of this.players.values()) this.wait(player);
  }

  /**
   * A box runs a document, or another. One that routed goes on: nobody is left without a gateway while two become a pair.
   * @returns what of the document is in effect.
   */
  run(box: Box, document: DeviceDocument, at = Date.now()): DeviceDocument {
    const { serial } = box.device;
    const known = this.players.get(serial);
    const pair = document.kind === 'gateway' ? document.pair : undefined;
    if (document.kind !== 'gateway' || !pair) {
      this.players.delete(serial);
      if (known) this.leave(known);
      return document;
    }
    if (known) {
      Object.assign(known, { document, pair });
      this.settle(known);
      return this.inEffect(known);
    }
    const routed = box.document.kind === 'gateway' && box.document.interfaces.length > 0;
    const player: Player = {
      ...{ box, document, pair, since: at, priority: pair.priority, timer: null },
      vrrp: new Vrrp(selfOf(pair, pair.priority), (said) => this.said(player, said)),
    };
    this.players.set(serial, player);
    this.settle(player);
    if (box.powered) {
      player.vrrp.start(routed ? at - downMs(player.priority, pair.advert) : at);
      if (routed) player.vrrp.pass(at);
      this.wait(player);
    }
    return this.inEffect(player);
  }

  /** It has power, or not any more. @returns what is in effect from now on. */
  power(box: Box, at = Date.now()): DeviceDocument {
    const player = this.players.get(box.device.serial);
    if (!player) return box.document;
    if (box.powered) {
      this.settle(player);
      player.vrrp.start(at);
    } else player.vrrp.stop(true);
    player.since = at;
    this.wait(player);
    return this.inEffect(player);
  }

  /** Uplinks of a box may be otherwise. */
  look(box: Box): void {
    const player = this.players.get(box.device.serial);
    if (player) this.settle(player);
  }

  /** Time passed; for who does not wait for clocks. */
  pass(at: number): void {
    for (;;) {
      const due = [...this.players.values()].filter(({ vrrp }) => vrrp.due !== null && vrrp.due <= at);
      if (due.length === 0) return;
      const next = due.reduce((a, b) => (a.vrrp.due! <= b.vrrp.due! ? a : b));
      this.fire(next, next.vrrp.due!);
    }
  }

  /** What one of a pair is to the addresses that both share; null: it is of none. */
  stateOf = (serial: string): VrrpState | null => this.players.get(serial)?.vrrp.state ?? null;

  /** How one of a pair fares; null: it is of none. */
  report(box: Box, at = Date.now()): PairReport | null {
    const player = this.players.get(box.device.serial);
    if (!player) return null;
    const { vrrp, since, priority, pair } = player;
    // The one that routes is not spoken to; whether it is heard is told by where its own words get.
    const other = this.ground.box(pair.serial);
    const meets = other !== undefined && other.powered && this.ground.reaches(other, box, pair.vlan);
    const hears = meets && (this.players.get(pair.serial)?.vrrp.state ?? 'initialize') !== 'initialize';
    return { state: vrrp.state, since: Math.min(since, at), priority, hears };
  }

  private inEffect = ({ document, vrrp, box }: Player): DeviceDocument =>
    vrrp.state === 'active' || !box.powered ? document : standingBy(document);

  /** What it tracks makes of its priority. */
  private settle(player: Player): void {
    const { pair, box, vrrp } = player;
    const { tracks = [], any, priority, lowered } = pair;
    const lost = tracks.filter((port) => !this.ground.isGood(box, port)).length;
    player.priority = tracks.length > 0 && (any ? lost > 0 : lost === tracks.length) ? lowered : priority;
    vrrp.be(selfOf(pair, player.priority));
  }

  private leave({ vrrp, timer }: Player): void {
    if (timer) clearTimeout(timer);
    vrrp.stop();
  }

  private wait(player: Player): void {
    if (player.timer) clearTimeout(player.timer);
    player.timer = null;
    const { due } = player.vrrp;
    if (!this.ticks || due === null) return;
    player.timer = setTimeout(() => this.fire(player, Date.now()), Math.max(0, due - Date.now()));
    player.timer.unref();
  }

  private fire(player: Player, at: number): void {
    this.now = at;
    const before = player.vrrp.state;
    player.vrrp.pass(at);
    this.turn(player, before, at, 'Nothing was heard of the other.');
    this.wait(player);
  }

  /** Its words get to the other where cables, VLANs and lists let them. */
  private said({ box, pair }: Player, advertisement: Advertisement): void {
    const peer = this.players.get(pair.serial);
    if (!peer || !peer.box.powered || peer.pair.router !== pair.router) return;
    if (!this.ground.reaches(box, peer.box, pair.vlan)) return;
    if (pair.leases) this.ground.tellLeases(box, peer.box);
    const at = this.ticks ? Date.now() : this.now;
    const before = peer.vrrp.state;
    peer.vrrp.hear(advertisement, at);
    this.turn(peer, before, at, 'The other has the higher priority.');
    this.wait(peer);
  }

  private turn(player: Player, before: string, at: number, why: string): void {
    const is = player.vrrp.state;
    if (is === before) return;
    player.since = at;
    this.ground.turned(player.box, is === 'active', why);
  }

  /** What is in effect at a box now; null: it is of no pair. */
  effectOf(box: Box): DeviceDocument | null {
    const player = this.players.get(box.device.serial);
    return player ? this.inEffect(player) : null;
  }
}

const selfOf = ({ advert, own }: PairDocument, priority: number): VrrpSelf => ({
  ...{ priority, advert },
  address: parseIp(own.split('/')[0]!)?.value ?? 0n,
});
