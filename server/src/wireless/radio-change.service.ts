import type { Band } from '@iron-lattice/core/hardware';
import type { RadioReport } from '@iron-lattice/core/line';
import type { RadioChange } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import { Device } from '../roster/device.model';
import type { Speaker } from '../line/line-listener';

interface Row {
  readonly site_id: string;
  readonly device_id: string | null;
  readonly band: Band;
  readonly person: string;
  readonly draft: string;
  readonly at: Date;
}

/** How far two moments of one and the same rest may be apart, in milliseconds: a device tells it anew from its own clock. */
const SAME_REST_MS = 5000;

/** What radios were changed by: edits of people that were rolled out, and radar. */
export class RadioChangeService {
  /** Until when the channels rest that devices left, as last heard: a report says it again and again. */
  private readonly rests = new Map<string, number>();

  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
  ) {}

  /** The last change of each radio. @param siteId of one site; null: of all. */
  async of(siteId: string | null): Promise<RadioChange[]> {
    const [edits, radar] = await Promise.all([
      this.database.query<Row>(
        `SELECT DISTINCT ON (o.body->>'siteId', o.body->>'deviceId', o.body->>'band') o.body->>'siteId' AS site_id,
           o.body->>'deviceId' AS device_id, o.body->>'band' AS band,
           p.name AS person, d.name AS draft, o.at
         FROM operation o JOIN draft d ON d.id = o.draft_id JOIN person p ON p.id = o.person_id
         WHERE o.body->>'type' LIKE 'radio.%' ${siteId === null ? '' : `AND o.body->>'siteId' = :siteId`} AND NOT o.undone AND o.undoes IS NULL
           AND d.state IN ('rolling-out', 'rolled-out')
         ORDER BY o.body->>'siteId', o.body->>'deviceId', o.body->>'band', o.at DESC`,
        { replacements: { siteId }, type: QueryTypes.SELECT },
      ),
      this.database.query<{ device_id: string; band: Band; channel: number; at: Date }>(
        `SELECT DISTINCT ON (j.device_id, j.detail->>'band') j.device_id, j.detail->>'band' AS band,
           (j.detail->>'channel')::int AS channel, j.at
         FROM journal j JOIN device d ON d.id = j.device_id
         WHERE ${siteId === null ? 'd.site_id IS NOT NULL' : 'd.site_id = :siteId'} AND j.act = 'radio.radar' ORDER BY j.device_id, j.detail->>'band', j.at DESC`,
        { replacements: { siteId }, type: QueryTypes.SELECT },
      ),
    ]);
    const devices = await this.database.query<{ id: string; site_id: string }>(
      `SELECT id, site_id FROM device WHERE ${siteId === null ? 'site_id IS NOT NULL' : 'site_id = :siteId'}`,
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    const bySite = new Map<string, string[]>();
    for (const { id, site_id } of devices) bySite.set(site_id, [...(bySite.get(site_id) ?? []), id]);
    const last = new Map<string, RadioChange>();
    const take = (change: RadioChange): void => {
      const key = `${change.deviceId} ${change.band}`;
      if ((last.get(key)?.at ?? '') < change.at) last.set(key, change);
    };
    for (const { site_id, device_id, band, person, draft, at } of edits) {
      const how = device_id === null ? `the band, in ${draft}` : draft;
      // What was said of the band is said of all its radios.
      for (const deviceId of device_id === null ? (bySite.get(site_id) ?? []) : [device_id])
        take({ deviceId, band, how, by: person, at: at.toISOString() });
    }
    for (const { device_id, band, channel, at } of radar)
      take({ deviceId: device_id, band, how: `radar on ${channel}`, by: 'by itself', at: at.toISOString() });
    return [...last.values()];
  }

  /** A device reported: that it left a channel for radar is written down, once. */
  async reported({ deviceId }: Speaker, radios: readonly RadioReport[]): Promise<void> {
    for (const { band, left } of radios) {
      if (!left) continue;
      const key = `${deviceId} ${band} ${left.channel}`;
      if (Math.abs((this.rests.get(key) ?? 0) - left.until) < SAME_REST_MS) continue;
      this.rests.set(key, left.until);
      const [known] = await this.database.query<{ until: string }>(
        `SELECT detail->>'until' AS until FROM journal WHERE device_id = :deviceId AND act = 'radio.radar'
           AND detail->>'band' = :band ORDER BY id DESC LIMIT 1`,
        { replacements: { deviceId, band }, type: QueryTypes.SELECT },
      );
      if (known && Math.abs(Number(known.until) - left.until) < SAME_REST_MS) continue;
      await note(this.database, null, 'radio.radar', { band, ...left }, undefined, deviceId);
      const device = await Device.findByPk(deviceId, { attributes: ['siteId'], raw: true });
      if (device?.siteId) await this.bus.send('live', { type: 'air', siteId: device.siteId, what: 'radar' });
    }
  }
}
