import type { ClientReport } from '@iron-lattice/core/line';
import type { Speaker } from '../line/line-listener';
import { WriteBehind } from '../platform/write-behind';
import type { RingService } from './ring.service';

/** Uses are written together, this soon, and that many in a statement. */
const [SOON_MS, MOST_AT_ONCE] = [200, 1000];

const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** A device that gave a key. */
export interface KeyUse {
  readonly key: string;
  readonly mac: string;
  readonly ssidId: string;
}

/** Which devices give which keys, as APs report it. */
export class RingUse {
  /** Who was there with which key, as last heard, by AP. */
  private readonly known = new Map<string, ReadonlySet<string>>();
  private readonly uses: WriteBehind<KeyUse>;

  /** @param ringsOf ids of the rings that an AP has keys of: of others it says nothing that is taken. */
  constructor(
    rings: RingService,
    private readonly ringsOf: (deviceId: string) => readonly string[],
    failed: (error: unknown) => void,
  ) {
    this.uses = new WriteBehind<KeyUse>({
      write: async (entries) => {
        const byRing = new Map<string, KeyUse[]>();
        for (const use of entries.values()) byRing.set(use.ssidId, [...(byRing.get(use.ssidId) ?? []), use]);
        for (const [ssidId, uses] of byRing) await rings.gave(ssidId, uses);
        return [];
      },
      merge: (_older, newer) => newer,
      bad: (_key, error) => failed(error),
      failed,
      soonMs: SOON_MS,
      most: MOST_AT_ONCE,
    });
  }

  /** An AP reported its clients: those that are new with a key are its devices. */
  reported({ deviceId }: Speaker, clients: readonly ClientReport[]): void {
    const before = this.known.get(deviceId);
    const now = new Set(clients.flatMap(({ key, mac }) => (key === undefined ? [] : [`${key} ${mac}`])));
    if (now.size > 0) this.known.set(deviceId, now);
    else this.known.delete(deviceId);
    if (!before && now.size === 0) return;
    for (const each of now) {
      if (before?.has(each)) continue;
      const [key, mac] = each.split(' ') as [string, string];
      if (!UUID.test(key)) continue;
      // Whose ring it is the rows say; of an AP that has several, each is tried.
      for (const ssidId of this.ringsOf(deviceId)) this.uses.put(`${ssidId} ${each}`, { key, mac, ssidId });
    }
  }

  close(): Promise<void> {
    return this.uses.close();
  }
}
