import type { HeldKey } from '@iron-lattice/core/bench';
import type { RingKey } from '@iron-lattice/core/document';
import { KEYS_A_FRAME, type ControllerFrame, type DeviceFrame } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { SecretService } from '../intent/secret.service';
import type { Lines, Speaker } from '../line/line-listener';
import type { Bus } from '../platform/bus';
import { WriteBehind } from '../platform/write-behind';
import type { KeyRow } from './ring-rows';

/** How long is waited for an AP to say that it took what it was told, before it is told again, in milliseconds. */
const TAKEN_WITHIN_MS = 30_000;
/** Octets of keys from which a frame is full: a device takes a megabyte. */
const MOST_OCTETS = 600_000;
/** Frames that are remembered for other APs which stand at the same change. */
const MOST_FRAMES = 50;

/** The devices of a key that has room for some: those that gave it first. */
const DEVICES = `ARRAY(SELECT mac FROM ring_device d WHERE d.key_id = k.id AND k.most IS NOT NULL
  ORDER BY first_at, mac LIMIT k.most)`;
type HeldRow = KeyRow & { readonly devices: readonly string[] };

/** How far APs have come is written together, this soon, and that many in a statement. */
const [SOON_MS, MOST_AT_ONCE] = [200, 1000];
/** How far an AP has a ring; null: it asks for none of it any more. */
interface Reached {
  readonly deviceId: string;
  readonly ssidId: string;
  readonly at: number | null;
}

/** Documents of APs that are told the keys of a ring: not of one whose keys servers name. */
const ASKS_HERE = `x.body->'ssids' @> :named::jsonb AND NOT x.body->'ssids' @> :asked::jsonb`;

type RingFrame = Extract<ControllerFrame, { type: 'ring' }>;
interface Follower {
  /** Change that it has come to, by what it said. */
  at: number;
  /** Until when its word on what it was last told is waited for. */
  waits: number;
  /** Whether the ring changed while it was being told. */
  again: boolean;
  /** Whether it is being told the ring from its beginning: what was forgotten before that is nothing to it. */
  whole: boolean;
}

/** Tells APs the keys of rings: each what changed since the change that it has come to, a frame at a time. */
export class RingLines {
  /** By SSID and device, of lines that this process holds. */
  private readonly followers = new Map<string, Map<string, Follower>>();
  private readonly reached: WriteBehind<Reached>;
  private readonly frames = new Map<string, Promise<RingFrame | null>>();

  constructor(
    private readonly database: Sequelize,
    private readonly secrets: SecretService,
    private readonly lines: Lines,
    bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {
    const look = (ssidId: string): void => void this.changed(ssidId).catch(failed);
    bus.on('ring', ({ ssidId }) => look(ssidId));
    bus.onReopened(() => [...this.followers.keys()].forEach(look));
    this.reached = new WriteBehind<Reached>({
      write: async (entries) => {
        await this.writeDown([...entries.values()]);
        return [];
      },
      merge: (_older, newer) => newer,
      bad: (_key, error) => failed(error),
      failed,
      soonMs: SOON_MS,
      most: MOST_AT_ONCE,
    });
  }

  /** An AP says how far it has a ring; one that its document does not name it is told nothing of. */
  async at({ deviceId }: Speaker, { ssid, at }: Extract<DeviceFrame, { type: 'ring-at' }>): Promise<void> {
    if (!this.followers.get(ssid)?.has(deviceId) && !(await this.asksFor(deviceId, ssid))) return;
    const there = this.followers.get(ssid) ?? new Map<string, Follower>();
    this.followers.set(ssid, there);
    const whole = at > 0 && (there.get(deviceId)?.whole ?? false);
    there.set(deviceId, { at, waits: 0, again: false, whole });
    this.reached.put(`${deviceId} ${ssid}`, { deviceId, ssidId: ssid, at });
    await this.tell(ssid, deviceId);
  }

  /** How many APs ask for keys of a ring, and have all that was said of it, whoever holds their lines. */
  async told(ssidId: string, at: number): Promise<{ aps: number; told: number }> {
    const [row] = await this.database.query<{ aps: number; told: number }>(
      `SELECT count(*)::int AS aps, count(*) FILTER (WHERE (rings->>:ssidId)::bigint >= :at)::int AS told
       FROM device WHERE site_id IS NOT NULL AND rings ? :ssidId`,
      { replacements: { ssidId, at }, type: QueryTypes.SELECT },
    );
    return row ?? { aps: 0, told: 0 };
  }

  close(): Promise<void> {
    return this.reached.close();
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
       WHERE d.id = :deviceId AND ${ASKS_HERE} LIMIT 1`,
      { replacements: { deviceId, ...namedBy(ssidId) }, type: QueryTypes.SELECT },
    );
    return rows.length > 0;
  }

  /** Keys of a ring changed: those of its APs are told whose documents still name it. */
  private async changed(ssidId: string): Promise<void> {
    for (const key of this.frames.keys()) if (key.startsWith(ssidId)) this.frames.delete(key);
    const there = this.followers.get(ssidId);
    if (!there || there.size === 0) return;
    const asking = await this.database.query<{ id: string }>(
      `SELECT DISTINCT d.id FROM device d JOIN document x ON x.hash IN (d.runs, d.wants)
       WHERE d.id = ANY(ARRAY[:ids]::uuid[]) AND d.site_id IS NOT NULL AND ${ASKS_HERE}`,
      { replacements: { ids: [...there.keys()], ...namedBy(ssidId) }, type: QueryTypes.SELECT },
    );
    const ids = new Set(asking.map(({ id }) => id));
    for (const deviceId of [...there.keys()])
      if (ids.has(deviceId)) void this.tell(ssidId, deviceId).catch(this.failed);
      else {
        there.delete(deviceId);
        this.reached.put(`${deviceId} ${ssidId}`, { deviceId, ssidId, at: null });
      }
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
    if (one.waits > now) {
      one.again = true; // what it says next brings the rest
      return;
    }
    one.waits = now + TAKEN_WITHIN_MS;
    const frame = await this.frameAfter(ssidId, one);
    if (!frame) {
      one.waits = 0;
      one.whole = false;
      // What changed meanwhile may not have been in it.
      if (one.again) await this.again(ssidId, deviceId, one);
      return;
    }
    if (frame.after === 0) one.whole = true;
    this.lines.say(deviceId, frame);
  }

  private again(ssidId: string, deviceId: string, one: Follower): Promise<void> {
    one.again = false;
    this.frames.delete(frameKey(ssidId, one));
    return this.tell(ssidId, deviceId);
  }

  /** What follows a change of a ring; null: nothing. Many APs stand at the same one. */
  private frameAfter(ssidId: string, { at, whole }: Follower): Promise<RingFrame | null> {
    const key = frameKey(ssidId, { at, whole });
    const known = this.frames.get(key);
    if (known) return known;
    const made = this.read(ssidId, at, whole);
    this.frames.set(key, made);
    made.catch(() => this.frames.delete(key));
    for (const [oldest] of this.frames) {
      if (this.frames.size <= MOST_FRAMES) break;
      this.frames.delete(oldest);
    }
    return made;
  }

  private async read(ssidId: string, said: number, whole: boolean): Promise<RingFrame | null> {
    const [ring] = await this.database.query<{ at: string; floor: string }>(
      'SELECT at, floor FROM ring WHERE ssid_id = :ssidId',
      { replacements: { ssidId }, type: QueryTypes.SELECT },
    );
    if (!ring) return said === 0 ? null : { type: 'ring', ssid: ssidId, after: 0, at: 0, keys: [], gone: [] };
    // Of what was forgotten nobody can say whether it has heard; and none is further than the ring.
    const forgotten = !whole && said < Number(ring.floor);
    const after = forgotten || said > Number(ring.at) ? 0 : said;
    const rows = await this.database.query<HeldRow>(
      `SELECT k.*, ${DEVICES} AS devices
       FROM ring_key k WHERE k.ssid_id = :ssidId AND k.at > :after ${after === 0 ? 'AND k.revoked_at IS NULL' : ''}
       ORDER BY k.at LIMIT ${KEYS_A_FRAME}`,
      { replacements: { ssidId, after }, type: QueryTypes.SELECT },
    );
    const [keys, gone]: [RingKey[], string[]] = [[], []];
    let [octets, at] = [0, after];
    for (const row of rows) {
      if (octets > MOST_OCTETS) break;
      at = Number(row.at);
      if (row.revoked_at !== null) {
        gone.push(row.id);
        continue;
      }
      const key = this.keyOf(row);
      octets += JSON.stringify(key).length;
      keys.push(key);
    }
    if (rows.length < KEYS_A_FRAME && octets <= MOST_OCTETS) at = Number(ring.at);
    return at === after && said === after ? null : { type: 'ring', ssid: ssidId, after, at, keys, gone };
  }

  private keyOf({
    id,
    sealed,
    segment,
    access_class: accessClass,
    macs,
    most,
    starts,
    ends,
    devices,
  }: HeldRow): RingKey {
    const full = most !== null && devices.length >= most;
    const only = full ? devices : macs;
    return {
      ...{ id, key: this.secrets.unseal(id, sealed) },
      ...(segment === null ? {} : { segment }),
      ...(accessClass === null ? {} : { accessClass }),
      ...(only.length > 0 ? { macs: only } : {}),
      ...(full ? { full: true as const } : {}),
      ...(most === null ? {} : { most }),
      ...(starts === null ? {} : { from: starts }),
      ...(ends === null ? {} : { until: ends }),
    };
  }

  /** Remembers how far devices have come, many in a statement. */
  private async writeDown(reached: readonly Reached[]): Promise<void> {
    await this.database.query(
      `UPDATE device d SET rings = (d.rings - r.gone) || r.came
       FROM (SELECT "deviceId" AS id, array_remove(array_agg(CASE WHEN at IS NULL THEN "ssidId" END), NULL) AS gone,
               COALESCE(jsonb_object_agg("ssidId", at) FILTER (WHERE at IS NOT NULL), '{}') AS came
             FROM jsonb_to_recordset(:rows::jsonb) AS t("deviceId" uuid, "ssidId" text, at bigint) GROUP BY "deviceId") AS r
       WHERE d.id = r.id`,
      { replacements: { rows: JSON.stringify(reached) } },
    );
  }
}

const frameKey = (ssidId: string, { at, whole }: Pick<Follower, 'at' | 'whole'>): string => `${ssidId} ${at} ${whole}`;

/** Names of an SSID in documents: with a ring, and with one whose keys servers name. */
const namedBy = (id: string): { readonly named: string; readonly asked: string } => ({
  named: JSON.stringify([{ id, ring: {} }]),
  asked: JSON.stringify([{ id, ring: { asked: true } }]),
});
