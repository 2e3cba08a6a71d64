import { contains, parseIp, parsePrefix, type IpAddress, type Prefix } from '@iron-lattice/core/address';
import {
  overlayLines,
  TUNNEL_ASKS_SECONDS,
  TUNNEL_LOSSES,
  type OverlayDocument,
  type OverlayLine,
  type OverlayPeer,
} from '@iron-lattice/core/document';
import type { PeerReport } from '@iron-lattice/core/line';
import { Rounds } from '@iron-lattice/core/paths';

/** A way from one gateway to another outside of tunnels, there and back. */
export interface Crossing {
  /** The uplink it leaves by, and the address that it is sent to. */
  readonly by: string;
  readonly to: string;
  /** Milliseconds there and back; null: this time nothing came back. */
  readonly ms: number | null;
}

/** What a gateway looks for at the other end. */
export interface Outer {
  /** A way to another gateway, begun by either end; a sentence where there is none. */
  cross(own: OverlayDocument, peer: OverlayPeer): Crossing | string;
  /** Whether another gateway says that its tunnel to a site is up. */
  holds(peer: OverlayPeer, site: string): boolean;
}

/** Of a gateway that is alone in the world. */
export const ALONE: Outer = { cross: () => 'Nobody is there.', holds: () => false };

interface Tunnel {
  readonly peer: OverlayPeer;
  up: boolean;
  since: number;
  misses: number;
  crossing: Crossing | null;
  why: string;
  readonly rounds: Rounds;
}

/** The tunnels of a gateway to other sites: which are up, and where what is for an address goes by them. */
export class Tunnels {
  private readonly tunnels = new Map<string, Tunnel>();
  private readonly lines: readonly { readonly prefix: Prefix; readonly line: OverlayLine }[];
  private timer: NodeJS.Timeout | null = null;

  /** @param before those that it had until now: what stays goes on. */
  constructor(
    readonly document: OverlayDocument,
    private readonly outer: Outer,
    /** Something is otherwise now: some are up or down, with why, or go another way. */
    private readonly changed: (
      turned: { down: readonly string[]; up: readonly string[]; why: string },
      at: number,
    ) => void,
    at: number,
    before?: Tunnels,
  ) {
    for (const peer of document.peers) {
      const old = before?.document.public === document.public ? before.tunnels.get(peer.name) : undefined;
      const stays = old?.peer.public === peer.public ? old : undefined;
      const { up, since, misses, crossing, why, rounds } = stays ?? {
        ...{ up: false, since: at, misses: 0, crossing: null, why: 'Nothing was heard yet.', rounds: new Rounds() },
      };
      this.tunnels.set(peer.name, { peer, up, since, misses, crossing, why, rounds });
    }
    this.lines = overlayLines(document)
      .map((line) => ({ prefix: parsePrefix(line.prefix)!, line }))
      .sort((a, b) => b.prefix.length - a.prefix.length || a.line.metric - b.line.metric);
  }

  /** From now on it asks at its intervals. */
  begin(): void {
    this.timer = setInterval(() => this.ask(Date.now()), TUNNEL_ASKS_SECONDS * 1000);
    this.timer.unref();
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }

  /** One question to each other end. */
  ask(at: number): void {
    let isOther = false;
    const turned: { down: string[]; up: string[]; why: string } = { down: [], up: [], why: '' };
    for (const tunnel of this.tunnels.values()) {
      const found = this.outer.cross(this.document, tunnel.peer);
      const answered = typeof found !== 'string' && found.ms !== null;
      tunnel.rounds.add(answered ? found.ms : null);
      tunnel.misses = answered ? 0 : tunnel.misses + 1;
      const before = `${tunnel.up} ${tunnel.crossing?.by} ${tunnel.crossing?.to}`;
      if (!answered) tunnel.why = typeof found === 'string' ? found : 'Nothing comes back.';
      if (answered) tunnel.crossing = found;
      const up = answered || (tunnel.up && tunnel.misses < TUNNEL_LOSSES);
      if (up !== tunnel.up) {
        Object.assign(tunnel, { up, since: at });
        turned[up ? 'up' : 'down'].push(tunnel.peer.name);
        if (!up) turned.why ||= tunnel.why;
      }
      if (!up) tunnel.crossing = null;
      if (`${tunnel.up} ${tunnel.crossing?.by} ${tunnel.crossing?.to}` !== before) isOther = true;
    }
    if (isOther) this.changed(turned, at);
  }

  isUp = (peer: string): boolean => this.tunnels.get(peer)?.up ?? false;

  /** What leads to an address: the longest prefix, then the first that is up; null: nothing that the overlay says. */
  to(destination: IpAddress): { readonly prefix: Prefix; readonly line: OverlayLine } | null {
    for (const each of this.lines) {
      if (!contains(each.prefix, destination)) continue;
      const { peer, asks } = each.line;
      if (peer === null || this.leads(peer, asks)) return each;
    }
    return null;
  }

  /** Whether a tunnel is up, and, of a hub that is asked for a site, whether it says that it has that one. */
  private leads(name: string, site: string | undefined): boolean {
    const tunnel = this.tunnels.get(name);
    return tunnel !== undefined && tunnel.up && (site === undefined || this.outer.holds(tunnel.peer, site));
  }

  /** Whether it takes something in that came out of a tunnel: what is not behind the other end is dropped. */
  takes(from: string, source: string): boolean {
    const peer = this.tunnels.get(from)?.peer;
    const ip = parseIp(source);
    if (!peer || !ip) return false;
    const { role, takes, spans, leaves } = this.document;
    // Whoever leaves by a hub hears from everybody there.
    if (leaves && peer.role === 'hub') return true;
    const behind = peer.role === 'spoke' ? peer.carries : role === 'hub' ? spans : (takes ?? spans);
    return behind.some((text) => contains(parsePrefix(text)!, ip));
  }

  report(): PeerReport[] {
    return [...this.tunnels.values()].map(({ peer, up, since, crossing, why, rounds }): PeerReport => {
      const { loss, delay } = rounds.over(20);
      return {
        ...{ peer: peer.name, up, since },
        ...(up && crossing ? { by: crossing.by, to: crossing.to } : {}),
        ...(rounds.count > 0 ? { loss: Number(loss.toFixed(2)) } : {}),
        ...(delay === null || !up ? {} : { delay: Number(delay.toFixed(1)) }),
        ...(up ? {} : { why }),
      };
    });
  }
}
