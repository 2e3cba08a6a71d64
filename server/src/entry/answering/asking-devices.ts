import { groupClassesAt, type GroupClass } from '@iron-lattice/core/entry';
import type { EstatePart } from '@iron-lattice/core/intent';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { IntentService } from '../../intent/intent.service';
import type { SecretService } from '../../intent/secret.service';
import type { Asking, AskingWay } from './answering.contract';

interface DeviceRow {
  readonly id: string;
  readonly site_id: string;
  readonly secrets: readonly string[];
}
interface TrialRow {
  readonly id: string;
  readonly sealed: Buffer;
  readonly classes: readonly GroupClass[];
}

/** How long somebody may try out with a secret that is drawn for it, in seconds. */
export const TRIAL_SECONDS = 120;

/** Devices of ours that may ask the controller who somebody is: those that were told so, and those that try it out. */
export class AskingDevices {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly secrets: SecretService,
  ) {}

  /** Who a device is by its MAC address, and by which secrets it may ask; null: by none. */
  async find(mac: string): Promise<Asking | null> {
    const replacements = { mac };
    const [rows, trials] = await Promise.all([
      this.database.query<DeviceRow>(
        `SELECT d.id, d.site_id, coalesce(array_agg(s #>> '{}') FILTER (WHERE s IS NOT NULL), '{}') AS secrets FROM device d
         LEFT JOIN document t ON t.hash IN (d.runs, d.applied, d.wants)
         LEFT JOIN LATERAL jsonb_path_query(t.body, '$.radius.servers[*] ? (@.own == true).secret.secret') s ON true
         WHERE d.mac = :mac AND d.site_id IS NOT NULL GROUP BY d.id LIMIT 1`,
        { replacements, type: QueryTypes.SELECT },
      ),
      this.database.query<TrialRow>(
        `SELECT t.id, t.sealed, t.classes FROM entry_trial t JOIN device d ON d.id = t.device_id
         WHERE d.mac = :mac AND t.at > now() - make_interval(secs => ${TRIAL_SECONDS}) ORDER BY t.at DESC LIMIT 20`,
        { replacements, type: QueryTypes.SELECT },
      ),
    ]);
    const row = rows[0];
    if (!row || (row.secrets.length === 0 && trials.length === 0)) return null;
    const pair = await this.intents.pairNow(row.site_id);
    if (!pair) return null;
    const opened = await this.secrets.open([...new Set(row.secrets)]);
    const classes = groupClassesAt(pair.estate, row.site_id);
    const ways: AskingWay[] = [
      ...Object.values(opened).map((secret) => ({ secret, classes, trial: false })),
      ...trials.map((trial) => ({
        ...{ secret: this.secrets.unseal(trial.id, trial.sealed), classes: trial.classes, trial: true },
      })),
    ];
    return { deviceId: row.id, timeZone: pair.site.timeZone, ways };
  }

  /** Lets a device try out with a secret drawn for it, and the classes of a draft. */
  async tryOut(id: string, deviceId: string, secret: string, estate: EstatePart, siteId: string): Promise<void> {
    await this.database.query(
      'INSERT INTO entry_trial (id, device_id, sealed, classes) VALUES (:id, :deviceId, :sealed, :classes)',
      {
        replacements: {
          ...{ id, deviceId, sealed: this.secrets.seal(id, secret) },
          classes: JSON.stringify(groupClassesAt(estate, siteId)),
        },
      },
    );
  }
}
