import type { PathsReport } from '@iron-lattice/core/line';
import type { DeviceDocument } from '@iron-lattice/core/document';
import { GatewayPaths } from './gateway-paths';
import type { Providers } from './providers';

/** A box that may be a gateway. */
export interface Leaver {
  readonly device: { readonly serial: string };
  readonly document: DeviceDocument;
  readonly secrets: Readonly<Record<string, string>>;
  readonly powered: boolean;
}

/** How all gateways of a world leave it. */
export class Paths<Box extends Leaver = Leaver> {
  private readonly gateways = new Map<string, GatewayPaths>();
  private ticks = false;

  /** @param changed is told of a gateway that leaves otherwise now. */
  constructor(
    private readonly providers: Providers,
    private readonly changed: (box: Box) => void,
  ) {}

  /** From now on clocks run: uplinks are asked at their intervals. */
  begin(boxes: Iterable<Box>): void {
    this.ticks = true;
    for (const each of this.gateways.values()) each.stop();
    this.gateways.clear();
    for (const box of boxes) this.run(box);
  }

  stop(): void {
    for (const each of this.gateways.values()) each.stop();
    this.gateways.clear();
    this.ticks = false;
  }

  /** What a box runs, or whether it has power, is otherwise now. */
  run(box: Box): void {
    const { serial } = box.device;
    if (box.document.kind !== 'gateway' || !box.powered) {
      this.gateways.get(serial)?.stop();
      this.gateways.delete(serial);
      return;
    }
    this.of(box)!.run(box.document, box.secrets);
  }

  /** Links of a provider, or of all, are otherwise now. */
  look(): void {
    for (const each of this.gateways.values()) each.look();
  }

  /** How a gateway leaves; null while it has no power, or is none. */
  of(box: Box): GatewayPaths | null {
    const { serial } = box.device;
    const known = this.gateways.get(serial);
    if (known || box.document.kind !== 'gateway' || !box.powered) return known ?? null;
    const made = new GatewayPaths(serial, this.providers, () => this.changed(box), this.ticks);
    this.gateways.set(serial, made);
    made.run(box.document, box.secrets);
    return made;
  }

  report = (box: Box): PathsReport | null => this.of(box)?.report() ?? null;
}
