import type { PathsReport } from '@iron-lattice/core/line';
import { GatewayPaths } from './gateway-paths';
import { Drills } from './drills';
import type { Gateway, Leaver } from './leaver';
import { crossing } from './crossing';
import { FarGateways } from './far-gateways';
import { farOutside } from './far-outside';
import type { Providers } from './providers';

/** How all gateways of a world leave it. */
export class Paths<Box extends Leaver = Leaver> {
  private readonly gateways = new Map<string, Gateway<Box>>();
  /** Whose uplink an address is; worked out anew once something was otherwise. */
  private homes: Map<string, { readonly box: Box; readonly port: string }> | null = null;
  /** Gateways by the public key of their tunnels. */
  private keys: Map<string, Gateway<Box>> | null = null;
  private ticks = false;
  /** Gateways that were switched off while clocks ran. */
  private readonly off = new Set<string>();
  readonly drills: Drills;

  /** @param changed is told of a gateway that leaves otherwise now. */
  constructor(
    private readonly providers: Providers,
    private readonly changed: (box: Box) => void,
    /** Whether somebody behind a gateway answers, or hands on to somebody who does. */
    private readonly handsOn: (box: Box, neighbour: string, target: string) => boolean = () => false,
    /** Gateways of others. */
    readonly far = new FarGateways({}),
  ) {
    this.drills = new Drills(providers, (serial) => {
      this.homes = null;
      this.gateways.get(serial)?.paths.look();
    });
  }

  /** From now on clocks run: uplinks are asked at their intervals. */
  begin(boxes: Iterable<Box>): void {
    this.ticks = true;
    for (const { paths } of this.gateways.values()) paths.stop();
    this.gateways.clear();
    for (const box of boxes) this.run(box);
  }

  stop(): void {
    this.drills.endAll();
    for (const { paths } of this.gateways.values()) paths.stop();
    this.gateways.clear();
    this.homes = null;
    this.ticks = false;
  }

  /** What a box runs, or whether it has power, is otherwise now. */
  run(box: Box): void {
    const { serial } = box.device;
    this.homes = this.keys = null;
    if (box.document.kind !== 'gateway' || !box.powered) {
      this.gateways.get(serial)?.paths.stop();
      this.gateways.delete(serial);
      if (this.ticks && !box.powered) this.off.add(serial);
      return;
    }
    const paths = this.of(box)!;
    paths.run(box.document, box.secrets);
    if (this.off.delete(serial)) paths.started();
  }

  /** Links of a provider, or of all, are otherwise now. */
  look(): void {
    this.homes = null;
    for (const { paths } of this.gateways.values()) paths.look();
  }

  /** How a gateway leaves; null while it has no power, or is none. */
  of(box: Box): GatewayPaths | null {
    const { serial } = box.device;
    const known = this.gateways.get(serial)?.paths;
    if (known || box.document.kind !== 'gateway' || !box.powered) return known ?? null;
    const changed = (): void => {
      this.homes = null;
      this.changed(box);
    };
    const outer = crossing(box, {
      at: (address) => this.at(address),
      byKey: (key) => this.byKey(key),
      of: (other) => this.of(other),
      ask: (socket, to) => this.providers.ask(socket, { to }).ms,
    });
    const far = farOutside(box, {
      ...{ far: this.far, at: (address) => this.at(address), paths: () => this.of(box) },
      ask: (socket, to) => this.providers.ask(socket, { to }).ms,
    });
    const handsOn = (neighbour: string, target: string): boolean => this.handsOn(box, neighbour, target);
    const made = new GatewayPaths(serial, box.device.mac, this.providers, changed, this.ticks, { outer, handsOn, far });
    this.gateways.set(serial, { box, paths: made });
    this.homes = this.keys = null;
    made.run(box.document, box.secrets);
    return made;
  }

  /** The gateway, and the uplink of it, that has an address; null: none. */
  at(address: string): { readonly box: Box; readonly port: string } | null {
    if (!this.homes) {
      this.homes = new Map();
      for (const { box, paths } of this.gateways.values())
        for (const [port, own] of paths.addresses()) this.homes.set(own, { box, port });
      for (const [address, socket] of this.providers.forwards()) {
        const [serial, port] = socket.split(':') as [string, string];
        const gateway = this.gateways.get(serial);
        if (gateway) this.homes.set(address, { box: gateway.box, port });
      }
    }
    return this.homes.get(address) ?? null;
  }

  /** The gateway whose tunnels have a public key; undefined: none that has power. */
  byKey(key: string): Gateway<Box> | undefined {
    if (!this.keys) {
      this.keys = new Map();
      for (const each of this.gateways.values()) {
        const { document } = each.box;
        if (document.kind === 'gateway' && document.overlay) this.keys.set(document.overlay.public, each);
      }
    }
    return this.keys.get(key);
  }

  /** The gateway that keeps a tunnel to one of others that stands; null: none does. */
  keeping(far: string): { readonly box: Box; readonly paths: GatewayPaths; readonly tunnel: string } | null {
    for (const { box, paths } of this.gateways.values()) {
      const tunnel = paths.pacts.by(far);
      if (tunnel !== undefined) return { box, paths, tunnel };
    }
    return null;
  }

  /** One round of questions in every tunnel, and by every route that is tracked; for who does not wait for clocks. */
  askOnward(at = Date.now()): void {
    for (const { paths } of this.gateways.values()) paths.onward.ask(at);
  }

  report = (box: Box): PathsReport | null => this.of(box)?.report() ?? null;
}
