import type { ControllerFrame, DeviceFrame } from '@iron-lattice/core/line';
import type { World } from '../world/world';
import { KeyRing } from '../world/rings';
import type { DeviceStore } from './device-store';

/** Keys of rings that one box holds: told on its line, kept over a restart, dropped with the document that named them. */
export class HeldRings {
  constructor(
    private readonly serial: string,
    private readonly world: World,
    private readonly store: DeviceStore,
    private readonly say: (frame: DeviceFrame) => void,
  ) {
    for (const [id, ring] of Object.entries(store.rings)) this.rings.set(id, new KeyRing(ring));
  }

  private get rings(): Map<string, KeyRing> {
    return this.world.box(this.serial).rings;
  }

  /** Says how far it has each ring that its document names, so that it is told what changed since; others it forgets. */
  sayAll(): void {
    const named = this.named();
    for (const id of this.rings.keys()) if (!named.includes(id)) this.rings.delete(id);
    for (const ssid of named) this.say({ type: 'ring-at', ssid, at: this.rings.get(ssid)?.at ?? 0 });
  }

  take({ ssid, ...change }: Extract<ControllerFrame, { type: 'ring' }>): void {
    if (!this.named().includes(ssid)) return;
    const ring = this.rings.get(ssid) ?? new KeyRing();
    this.rings.set(ssid, ring);
    if (ring.take(change)) {
      this.store.keepRing(ssid, ring.kept);
      this.world.keysChanged(this.serial);
    }
    this.say({ type: 'ring-at', ssid, at: ring.at });
  }

  /** Ids of the SSIDs that ask for keys of a ring which the controller tells, by the document it keeps. */
  private named(): string[] {
    const document = this.store.kept?.document;
    return document?.kind === 'ap' ? document.ssids.flatMap(({ id, ring }) => (ring && !ring.asked ? [id] : [])) : [];
  }
}
