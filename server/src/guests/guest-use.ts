import type { TakenReport } from '@iron-lattice/core/line';
import type { Sequelize } from 'sequelize';
import type { Speaker } from '../line/line-listener';
import { clock } from '../platform/clock';
import { WriteBehind } from '../platform/write-behind';

/** What guests take is kept by the quarter of an hour: every zone’s days begin at one. */
const QUARTER_MS = 15 * 60_000;
/** A pause between reports that is longer is not taken for having been there. */
const MOST_PAUSE_MS = 10 * 60_000;
/** Uses are written together, this soon, and that many in a statement. */
const [SOON_MS, MOST_AT_ONCE] = [500, 1000];

interface Use {
  readonly portalId: string;
  readonly mac: string;
  /** Begin of the quarter, and until when it was looked at, in milliseconds since 1970. */
  readonly at: number;
  readonly last: number;
  readonly octets: number;
  readonly ms: number;
}

/** What guests took, as devices report it. */
export class GuestUse {
  /** What each had taken when its device reported last, by device. */
  private readonly before = new Map<string, Map<string, { readonly octets: number; readonly at: number }>>();
  private readonly uses: WriteBehind<Use>;

  /**
   * @param guestsAt the portal of each guest of a device, by MAC address.
   */
  constructor(
    private readonly database: Sequelize,
    private readonly guestsAt: (deviceId: string) => ReadonlyMap<string, string>,
    failed: (error: unknown) => void,
  ) {
    this.uses = new WriteBehind<Use>({
      write: async (entries) => {
        await this.write([...entries.values()]);
        return [];
      },
      merge: (older, newer) => ({ ...newer, octets: older.octets + newer.octets, ms: older.ms + newer.ms }),
      bad: (_key, error) => failed(error),
      failed,
      soonMs: SOON_MS,
      most: MOST_AT_ONCE,
    });
  }

  /** A device reported what those who are there took since they came. */
  reported({ deviceId }: Speaker, taken: readonly TakenReport[]): void {
    const guests = this.guestsAt(deviceId);
    if (guests.size === 0) {
      this.before.delete(deviceId);
      return;
    }
    const now = clock.now();
    const before = this.before.get(deviceId);
    const next = new Map<string, { readonly octets: number; readonly at: number }>();
    for (const { mac, down, up } of taken) {
      const portalId = guests.get(mac);
      if (portalId === undefined) continue;
      const octets = down + up;
      next.set(mac, { octets, at: now });
      const last = before?.get(mac);
      if (!last || now - last.at > MOST_PAUSE_MS) continue;
      // Who came anew begins at nothing.
      this.put({ portalId, mac }, octets >= last.octets ? octets - last.octets : octets, last.at, now);
    }
    this.before.set(deviceId, next);
  }

  left({ deviceId }: Speaker): void {
    this.before.delete(deviceId);
  }

  close(): Promise<void> {
    return this.uses.close();
  }

  /** Parts what was taken between two moments among the quarters that it reaches over, by time. */
  private put(of: { readonly portalId: string; readonly mac: string }, octets: number, from: number, to: number): void {
    for (let at = Math.floor(from / QUARTER_MS) * QUARTER_MS; at < to; at += QUARTER_MS) {
      const ms = Math.min(to, at + QUARTER_MS) - Math.max(from, at);
      const last = Math.min(to, at + QUARTER_MS);
      this.uses.put(`${of.portalId} ${of.mac} ${at}`, { ...of, at, last, octets: (octets * ms) / (to - from), ms });
    }
  }

  private async write(uses: readonly Use[]): Promise<void> {
    const rows = uses.map(({ portalId, mac, at, last, octets, ms }) => ({
      ...{ portal_id: portalId, mac, at: new Date(at), last_at: new Date(last) },
      ...{ octets: Math.round(octets), seconds: Math.round(ms / 1000) },
    }));
    await this.database.query(
      `INSERT INTO guest_use (portal_id, mac, at, last_at, octets, seconds)
       SELECT r.portal_id, r.mac, r.at, r.last_at, r.octets, r.seconds
       FROM jsonb_to_recordset(:rows::jsonb) AS r(portal_id uuid, mac text, at timestamptz, last_at timestamptz, octets bigint, seconds int)
       ON CONFLICT (portal_id, mac, at) DO UPDATE SET octets = guest_use.octets + EXCLUDED.octets,
         seconds = guest_use.seconds + EXCLUDED.seconds, last_at = GREATEST(guest_use.last_at, EXCLUDED.last_at)`,
      { replacements: { rows: JSON.stringify(rows) } },
    );
    await this.stayed(rows.filter(({ octets }) => octets > 0));
  }

  /** Guests who took something go on, where their visits end otherwise; to the half minute. */
  private async stayed(rows: readonly { portal_id: string; mac: string; last_at: Date }[]): Promise<void> {
    if (rows.length === 0) return;
    await this.database.query(
      `UPDATE visit v SET active_at = r.last_at FROM jsonb_to_recordset(:rows::jsonb) AS r(portal_id uuid, mac text, last_at timestamptz)
       WHERE v.portal_id = r.portal_id AND v.mac = r.mac AND v.ended_at IS NULL AND v.idle IS NOT NULL
         AND (v.active_at IS NULL OR v.active_at < r.last_at - interval '30 seconds')`,
      { replacements: { rows: JSON.stringify(rows) } },
    );
  }
}
