import type { HeldKey } from '@iron-lattice/core/bench';
import type { RingKey } from '@iron-lattice/core/document';
import { KEYS_A_FRAME, type ControllerFrame, type DeviceFrame } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { SecretService } from '../intent/secret.service';
import type { Lines, Speaker } from '../line/line-listener';
import type { Bus } from '../platform/bus';
import type { KeyRow } from './ring-rows';

/** How long is waited for an AP to say that it took what it was told, before it is told again, in milliseconds. */
const TAKEN_WITHIN_MS = 30_000;
/** Frames that are remembered for other APs which stand at the same change. */
const MOST_FRAMES = 50;

/** The devices of a key that has room for some: those that gave it first. */
const DEVICES = `ARRAY(SELECT mac FROM ring_device d WHERE d.key_id = k.id AND k.most IS NOT NULL
  ORDER BY first_at, mac LIMIT k.most)`;
type HeldRow = KeyRow & { readonly devices: readonly string[] };

type RingFrame = Extract<ControllerFrame, { type: 'ring' }>;
interface Follower {
  /** Change that it has come to, by what it said. */
  at: number;
  /** Until when its word on what it was last told is waited for. */
  waits: number;
}

/** Tells APs the keys of rings: each what changed since the change that it has come to, a frame at a time. */
export class RingLines {
  /** By SSID and device, of lines that this process holds. */
  private readonly followers = new Map<string, Map<string, Follower>>();
  private readonly frames = new Map<string, Promise<RingFrame | null>>();

  constructor(
    private readonly database: Sequelize,
    private readonly secrets: SecretService,
    private readonly lines: Lines,
    bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {
    bus.on('ring', ({ ssidId }) => this.changed(ssidId));
    bus.onReopened(() => [...this.followers.keys()].forEach((ssidId) => this.changed(ssidId)));
  }

  /** An AP says how far it has a ring; one that its document does not name it is told nothing of. */
  async at({ deviceId }: Speaker, { ssid, at }: Extract<DeviceFrame, { type: 'ring-at' }>): Promise<void> {
    let there = this.followers.get(ssid);
    const known = there?.get(deviceId);
    if (!known && !(await this.asksFor(deviceId, ssid))) return;
    there ??= new Map();
    this.followers.set(ssid, there);
    there.set(deviceId, { at, waits: 0 });
    await this.tell(ssid, deviceId);
  }

  /** How far the APs have a ring whose lines are held here or elsewhere: by what they run. */
  async told(ssidId: string, at: number): Promise<{ aps: number; told: number }> {
    const [row] = await this.database.query<{ aps: number; told: number }>(
      `SELECT count(*)::int AS aps, count(*) FILTER (WHERE (d.rings->>:ssidId)::bigint >= :at)::int AS told
       FROM device d JOIN document x ON x.hash = d.runs
       WHERE d.site_id IS NOT NULL AND x.body->>'kind' = 'ap' AND x.body->'ssids' @> :named::jsonb`,
      { replacements: { ssidId, at, named: namedBy(ssidId) }, type: QueryTypes.SELECT },
    );
    return row ?? { aps: 0, told: 0 };
  }

  /** Ids of the rings that an AP has keys of, or is told them. */
  readonly of = (deviceId: string): string[] =>
    [...this.followers].flatMap(([ssidId, there]) => (there.has(deviceId) ? [ssidId] : []));

  /** A key as APs hold it, without itself. */
  async held(ssidId: string, keyId: string): Promise<HeldKey | null> {
    const [row] = await this.database.query<HeldRow>(
      `SELECT k.*, ${DEVICES} AS devices FROM ring_key k WHERE k.ssid_id = :ssidId AND k.id = :keyId AND k.revoked_at IS NULL`,
      { replacements: { ssidId, keyId }, type: QueryTypes.SELECT },
    );
    if (!row) return null;
    const { key: _itself, ...held } = this.keyOf(row);
    return { ...held, name: row.name };
  }

  private async asksFor(deviceId: string, ssidId: string): Promise<boolean> {
    if (!/^[0-9a-f-]{36}$/.test(ssidId)) return false;
    const rows = await this.database.query(
      `SELECT 1 FROM device d JOIN document x ON x.hash IN (d.runs, d.wants)
       WHERE d.id = :deviceId AND x.body->'ssids' @> :named::jsonb LIMIT 1`,
      { replacements: { deviceId, named: namedBy(ssidId) }, type: QueryTypes.SELECT },
    );
    return rows.length > 0;
  }

  private changed(ssidId: string): void {
    for (const key of this.frames.keys()) if (key.startsWith(ssidId)) this.frames.delete(key);
    for (const deviceId of this.followers.get(ssidId)?.keys() ?? [])
      void this.tell(ssidId, deviceId).catch(this.failed);
  }

  private async tell(ssidId: string, deviceId: string): Promise<void> {
    const there = this.followers.get(ssidId);
    const one = there?.get(deviceId);
    if (!one) return;
    if (!this.lines.holds(deviceId)) {
      there!.delete(deviceId); // it says anew how far it is when it calls
      return;
    }
    const now = Date.now();
    if (one.waits > now) return; // what it says next brings the rest
    one.waits = now + TAKEN_WITHIN_MS;
    const frame = await this.frameAfter(ssidId, one.at);
    if (!frame) {
      one.waits = 0;
      return this.writeDown(ssidId, deviceId, one.at);
    }
    this.lines.say(deviceId, frame);
  }

  /** What follows a change of a ring; null: nothing. Many APs stand at the same one. */
  private frameAfter(ssidId: string, after: number): Promise<RingFrame | null> {
    const key = `${ssidId} ${after}`;
    const known = this.frames.get(key);
    if (known) return known;
    const made = this.read(ssidId, after);
    this.frames.set(key, made);
    made.catch(() => this.frames.delete(key));
    for (const [oldest] of this.frames) {
      if (this.frames.size <= MOST_FRAMES) break;
      this.frames.delete(oldest);
    }
    return made;
  }

  private async read(ssidId: string, said: number): Promise<RingFrame | null> {
    const [ring] = await this.database.query<{ at: string; floor: string }>(
      'SELECT at, floor FROM ring WHERE ssid_id = :ssidId',
      { replacements: { ssidId }, type: QueryTypes.SELECT },
    );
    if (!ring) return said === 0 ? null : { type: 'ring', ssid: ssidId, after: 0, at: 0, keys: [], gone: [] };
    // Of what was forgotten nobody can say whether it has heard; and none is further than the ring.
    const after = said < Number(ring.floor) || said > Number(ring.at) ? 0 : said;
    const rows = await this.database.query<HeldRow>(
      `SELECT k.*, ${DEVICES} AS devices
       FROM ring_key k WHERE k.ssid_id = :ssidId AND k.at > :after ${after === 0 ? 'AND k.revoked_at IS NULL' : ''}
       ORDER BY k.at LIMIT ${KEYS_A_FRAME}`,
      { replacements: { ssidId, after }, type: QueryTypes.SELECT },
    );
    const at = rows.length < KEYS_A_FRAME ? Number(ring.at) : Number(rows.at(-1)!.at);
    if (at === after && said === after) return null;
    return {
      ...{ type: 'ring', ssid: ssidId, after, at },
      keys: rows.filter((row) => row.revoked_at === null).map((row) => this.keyOf(row)),
      gone: rows.filter((row) => row.revoked_at !== null).map(({ id }) => id),
    };
  }

  private keyOf({ id, sealed, segment, macs, most, starts, ends, devices }: HeldRow): RingKey {
    const full = most !== null && devices.length >= most;
    const only = full ? devices : macs;
    return {
      ...{ id, key: this.secrets.unseal(id, sealed) },
      ...(segment === null ? {} : { segment }),
      ...(only.length > 0 ? { macs: only } : {}),
      ...(full ? { full: true as const } : {}),
      ...(most === null ? {} : { most }),
      ...(starts === null ? {} : { from: starts }),
      ...(ends === null ? {} : { until: ends }),
    };
  }

  /** Remembers how far a device has come. */
  private async writeDown(ssidId: string, deviceId: string, at: number): Promise<void> {
    await this.database.query(
      `UPDATE device SET rings = rings || jsonb_build_object(:ssidId, :at::bigint)
       WHERE id = :deviceId AND (rings->>:ssidId)::bigint IS DISTINCT FROM :at`,
      { replacements: { ssidId, deviceId, at } },
    );
  }
}

/** Documents of APs that ask for keys of this ring. */
const namedBy = (ssidId: string): string => JSON.stringify([{ id: ssidId, ring: {} }]);
