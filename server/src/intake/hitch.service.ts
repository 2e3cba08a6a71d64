import { randomUUID } from 'node:crypto';
import type { HitchCode, HitchView } from '@iron-lattice/core/intake';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import { unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import { Device } from './device.model';
import { HITCH_WORDS } from './hitch-words';
import { Hitch } from './hitch.model';

/** What a person does about a hitch of a kind. @throws AppError when it cannot be done. */
export type Retry = (hitch: Hitch, personId: string) => Promise<void>;

const LISTED = 500;

/** Keeps what goes wrong with devices until it is settled, so that nothing is lost. */
export class HitchService {
  private readonly retries = new Map<HitchCode, Retry>();

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
  ) {}

  /** Says what trying again does for hitches of a kind. */
  onRetry(code: HitchCode, retry: Retry): void {
    this.retries.set(code, retry);
  }

  /** Lists a hitch, or counts it once more when it is open already. */
  async raise(
    code: HitchCode,
    who: { readonly serial: string; readonly deviceId?: string | null },
    reason: string,
    detail: Record<string, string> = {},
  ): Promise<void> {
    const { next, retry } = HITCH_WORDS[code];
    const [rows] = await this.database.query(
      `INSERT INTO hitch (id, code, serial, device_id, reason, next, retry, detail)
       VALUES (:id, :code, :serial, :deviceId, :reason, :next, :retry, :detail)
       ON CONFLICT (serial, code) WHERE settled_at IS NULL
       DO UPDATE SET times = hitch.times + 1, last_at = now(), reason = :reason, detail = :detail, device_id = :deviceId
       RETURNING times`,
      {
        replacements: {
          id: randomUUID(),
          code,
          serial: who.serial,
          deviceId: who.deviceId ?? null,
          reason,
          next,
          retry,
          detail: JSON.stringify(detail),
        },
      },
    );
    const { times } = (rows as { times: number }[])[0]!;
    if (times === 1)
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
    const [count] = await Hitch.update(
      { settledAt: new Date() },
      { where: { serial, settledAt: null, code: typeof code === 'string' ? code : { [Op.in]: [...code] } } },
    );
    if (count > 0) await this.told((await Device.findOne({ where: { serial }, attributes: ['id'] }))?.id);
  }

  /** Open hitches, newest first; of one site with those of devices that belong nowhere. */
  async list(siteId?: string): Promise<HitchView[]> {
    const rows = await this.database.query<Hitch & { site_id: string | null; name: string | null }>(
      `SELECT h.*, coalesce(d.site_id, d.expected_site_id) AS site_id, d.name FROM hitch h LEFT JOIN device d ON d.id = h.device_id
       WHERE h.settled_at IS NULL
         AND (:siteId::uuid IS NULL OR coalesce(d.site_id, d.expected_site_id) IS NULL
              OR coalesce(d.site_id, d.expected_site_id) = :siteId::uuid)
       ORDER BY h.last_at DESC LIMIT ${LISTED}`,
      { replacements: { siteId: siteId ?? null }, type: QueryTypes.SELECT },
    );
    return rows.map((raw) => {
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
    await hitch.update({ settledAt: new Date() });
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
