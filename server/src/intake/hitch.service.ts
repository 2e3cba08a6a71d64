import { randomUUID } from 'node:crypto';
import type { HitchCode, HitchView } from '@iron-lattice/core/intake';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import { unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { Gate } from '../platform/gate';
import { later } from '../platform/held-connection';
import { note } from '../platform/journal';
import { Device } from '../roster/device.model';
import { HITCH_WORDS } from './hitch-words';
import { Hitch } from './hitch.model';
import { clock } from '../platform/clock';

/** What a person does about a hitch of a kind. @throws AppError when it cannot be done. */
export type Retry = (hitch: Hitch, personId: string) => Promise<void>;

/** Open hitches that are listed at once, and of one site among those of all: none pushes out another’s. */
const LISTED = { inAll: 500, ofSite: 100 } as const;
/** Hitches of devices that are none of ours which are listed one by one, and addresses of floods. */
const STRANGERS = { ofAddress: 20, inAll: 200, floods: 50 } as const;
/** The line of those addresses that have none of their own. */
const MANY = 'from many addresses';
/** An address that floods is taken to go on for so long, in milliseconds. */
const FLOOD_MS = 5000;
/** The same hitch is written once in this time, in milliseconds. */
const REPEAT_MS = 1000;

/** Whose hitch it is; `calledFrom` of somebody who is none of ours. */
interface Who {
  readonly serial: string;
  readonly deviceId?: string | null;
  readonly calledFrom?: string;
}
const keyOf = (code: HitchCode, serial: string): string => `${code} ${serial}`;

/** Keeps what goes wrong with devices until it is settled, so that nothing is lost. */
export class HitchService {
  private readonly retries = new Map<HitchCode, Retry>();

  /** Hitches that were written within the last second, and how often they came since. */
  private readonly recent = new Map<string, { more: number }>();
  private closed = false;
  /** Addresses that flood at the moment, and under which name that is listed. */
  private readonly flooding = new Map<string, string>();
  private readonly oneByOne = new Gate(1);

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {}

  /** Counts nothing more. */
  end(): void {
    this.closed = true;
  }

  /** Says what trying again does for hitches of a kind. */
  onRetry(code: HitchCode, retry: Retry): void {
    this.retries.set(code, retry);
  }

  /** Lists a hitch, or counts it once more when it is open already. One that repeats is written once a second. */
  async raise(code: HitchCode, who: Who, reason: string, detail: Record<string, string> = {}): Promise<void> {
    const key = keyOf(code, who.serial);
    const recent = this.recent.get(key);
    if (recent) {
      recent.more++;
      return;
    }
    const entry = { more: 0 };
    this.recent.set(key, entry);
    later(REPEAT_MS, () => {
      if (this.closed || this.recent.get(key) !== entry) return; // settled meanwhile
      this.recent.delete(key);
      if (entry.more > 0) void this.write(code, who, reason, detail, entry.more).catch(this.failed);
    });
    await this.write(code, who, reason, detail, 1);
  }

  /**
   * The same of somebody who is none of ours: so many are listed from one address and in all, the rest is one line with a
   * count.
   * @param from address they called from.
   */
  async raiseOfStranger(
    code: HitchCode,
    serial: string,
    from: string,
    reason: string,
    detail: Record<string, string> = {},
  ): Promise<void> {
    const flooded = `More goes wrong with devices that call from ${from} than is listed one by one.`;
    // One that floods is counted without a look at the database for each.
    if (this.flooding.has(from)) return this.flood(from, flooded);
    return this.oneByOne.run(() => this.listStranger(code, serial, from, reason, detail, flooded));
  }

  private async listStranger(
    code: HitchCode,
    serial: string,
    from: string,
    reason: string,
    detail: Record<string, string>,
    flooded: string,
  ): Promise<void> {
    const [row] = await this.database.query<{ here: number; all: number; open: boolean }>(
      `SELECT count(*) FILTER (WHERE called_from = :from)::int AS here, count(*)::int AS all,
         coalesce(bool_or(serial = :serial AND code = :code), false) AS open
       FROM hitch WHERE settled_at IS NULL AND device_id IS NULL`,
      { replacements: { from, serial, code }, type: QueryTypes.SELECT },
    );
    const { here, all, open } = row!;
    if (open || (here < STRANGERS.ofAddress && all < STRANGERS.inAll))
      return this.raise(code, { serial, calledFrom: from }, reason, detail);
    await this.flood(from, flooded);
  }

  /** Says once, with a count, that too much comes from an address. */
  async flood(from: string, reason: string): Promise<void> {
    let serial = this.flooding.get(from);
    if (serial === undefined) {
      serial = `from ${from}`;
      const open = await Hitch.findAll({ attributes: ['serial'], where: { code: 'flood', settledAt: null } });
      if (open.length >= STRANGERS.floods && !open.some((each) => each.serial === serial)) serial = MANY;
      this.flooding.set(from, serial);
      later(FLOOD_MS, () => this.flooding.delete(from));
    }
    await this.raise('flood', { serial, calledFrom: from }, reason);
  }

  private async write(
    code: HitchCode,
    who: Who,
    reason: string,
    detail: Record<string, string>,
    count: number,
  ): Promise<void> {
    const { next, retry } = HITCH_WORDS[code];
    const [rows] = await this.database.query(
      `INSERT INTO hitch (id, code, serial, device_id, called_from, reason, next, retry, detail, times)
       VALUES (:id, :code, :serial, :deviceId, :from, :reason, :next, :retry, :detail, :count)
       ON CONFLICT (serial, code) WHERE settled_at IS NULL
       DO UPDATE SET times = least(hitch.times::bigint + :count, 2000000000)::int, last_at = now(), reason = :reason, detail = :detail,
         device_id = :deviceId
       RETURNING times`,
      {
        replacements: {
          id: randomUUID(),
          code,
          serial: who.serial,
          deviceId: who.deviceId ?? null,
          from: who.calledFrom ?? null,
          reason,
          next,
          retry,
          detail: JSON.stringify(detail),
          count,
        },
      },
    );
    const { times } = (rows as { times: number }[])[0]!;
    if (times === count)
      await note(this.database, null, `hitch.${code}`, { serial: who.serial, reason }, undefined, who.deviceId);
    await this.told(who.deviceId);
  }

  /** Codes of the hitches of a device that are open: most have none, and nothing has to be settled then. */
  async openOf(serial: string): Promise<ReadonlySet<HitchCode>> {
    const rows = await Hitch.findAll({ attributes: ['code'], where: { serial, settledAt: null } });
    return new Set(rows.map((row) => row.code));
  }

  /** The reason has gone. */
  async settle(code: HitchCode | readonly HitchCode[], serial: string): Promise<void> {
    for (const each of typeof code === 'string' ? [code] : code) this.recent.delete(keyOf(each, serial));
    const [count] = await Hitch.update(
      { settledAt: clock.date() },
      { where: { serial, settledAt: null, code: typeof code === 'string' ? code : { [Op.in]: [...code] } } },
    );
    if (count > 0) await this.told((await Device.findOne({ where: { serial }, attributes: ['id'] }))?.id);
  }

  /** Open hitches, newest first; of one site with those of devices that belong nowhere. Strangers push out none of ours. */
  async list(siteId?: string): Promise<HitchView[]> {
    const rows = await this.database.query<Hitch & { site_id: string | null; name: string | null }>(
      `SELECT * FROM (
         SELECT h.*, coalesce(d.site_id, d.expected_site_id) AS site_id, d.name,
           row_number() OVER (PARTITION BY h.device_id IS NULL, coalesce(d.site_id, d.expected_site_id) ORDER BY h.last_at DESC) AS nth
         FROM hitch h LEFT JOIN device d ON d.id = h.device_id
         WHERE h.settled_at IS NULL
           AND (:siteId::uuid IS NULL OR coalesce(d.site_id, d.expected_site_id) IS NULL
                OR coalesce(d.site_id, d.expected_site_id) = :siteId::uuid)
       ) open
       ORDER BY device_id IS NULL, nth > ${LISTED.ofSite} AND :siteId::uuid IS NULL, last_at DESC LIMIT ${LISTED.inAll}`,
      { replacements: { siteId: siteId ?? null }, type: QueryTypes.SELECT },
    );
    const views = rows.map((raw): HitchView => {
      const row = raw as unknown as Record<string, string> & { times: number; first_at: Date; last_at: Date };
      return {
        id: row['id']!,
        code: row['code'] as HitchCode,
        serial: row['serial']!,
        deviceId: row['device_id'] ?? null,
        siteId: row['site_id'] ?? null,
        who: row['name'] ?? row['serial']!,
        reason: row['reason']!,
        next: row['next']!,
        retry: row['retry']!,
        times: row.times,
        firstAt: row.first_at.toISOString(),
        lastAt: row.last_at.toISOString(),
      };
    });
    return views.sort((a, b) => (a.lastAt < b.lastAt ? 1 : -1));
  }

  /** Tries again; the hitch stays listed when it fails. @throws AppError with the reason. */
  async retry(id: string, personId: string): Promise<void> {
    const hitch = await this.open(id);
    await this.retries.get(hitch.code)?.(hitch, personId);
    await this.close(hitch, personId, 'hitch.retry');
  }

  /** Takes a hitch off the list; it comes back when it happens again. */
  async dismiss(id: string, personId: string): Promise<void> {
    await this.close(await this.open(id), personId, 'hitch.dismiss');
  }

  private async open(id: string): Promise<Hitch> {
    const hitch = await Hitch.findOne({ where: { id, settledAt: null } });
    if (!hitch) throw unknown('open hitch');
    return hitch;
  }

  private async close(hitch: Hitch, personId: string, act: string): Promise<void> {
    await hitch.update({ settledAt: clock.date() });
    this.recent.delete(keyOf(hitch.code, hitch.serial));
    const { serial, code, deviceId } = hitch;
    await note(this.database, personId, act, { serial, code }, undefined, deviceId);
    await this.told(deviceId);
  }

  private async told(deviceId: string | null | undefined): Promise<void> {
    await this.bus.send('live', { type: 'hitch' });
    if (deviceId) {
      // Rows show how many hitches are open.
      await this.database.query('UPDATE device SET model = model WHERE id = :deviceId', { replacements: { deviceId } });
      this.bus.changed({ id: deviceId, siteId: null });
    }
  }
}
