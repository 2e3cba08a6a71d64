import { randomUUID } from 'node:crypto';
import type { DrilledMishap } from '@iron-lattice/core/line';
import {
  DRILL_AFTER,
  MOST_DRILLS_TOLD,
  type DrillForecast,
  type DrillView,
  type Mishap,
  type Phase,
  type Rehearsed,
} from '@iron-lattice/core/paths';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import type { CommandService } from '../line/command.service';
import { AppError, unknown } from '../platform/app-error';
import { clock } from '../platform/clock';
import type { Heavy } from '../platform/heavy';
import { note } from '../platform/journal';
import { changeOf, type ChangeRow, type PathService } from './path.service';
import { rehearsedHere } from './rehearsed-here';

/** How much earlier than it was asked for a drill may have begun by the gateway’s clock, in milliseconds. */
const EARLY_MS = 2000;

/** Rehearsals that gateways really play, beside what was computed of them. */
export class DrillService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly paths: PathService,
    private readonly commands: Pick<CommandService, 'ask' | 'reachable'>,
    private readonly heavy: Heavy,
  ) {}

  /** What would become of a gateway as it runs now that plays mishaps: as usual, and at worst. @throws AppError when it cannot be asked. */
  async forecast(deviceId: string, mishaps: readonly DrilledMishap[]): Promise<DrillForecast> {
    const { gateway, of } = await this.asked(deviceId, mishaps);
    const play = (phase: Phase): Promise<Rehearsed> =>
      this.heavy.run('rehearsal', gateway, of, endOf(of) + DRILL_AFTER, phase);
    const [mean, worst] = await Promise.all([play('mean'), play('worst')]);
    return { mean, worst };
  }

  /** Has a gateway play mishaps on its own uplinks. @throws AppError when it cannot be asked, or one is already under way. */
  async play(deviceId: string, mishaps: readonly DrilledMishap[], personId: string): Promise<{ readonly id: string }> {
    const { gateway, of, device, siteId } = await this.asked(deviceId, mishaps);
    const predicted = await this.heavy.run('rehearsal', gateway, of, endOf(of) + DRILL_AFTER, 'mean');
    const [id, at] = [randomUUID(), new Date(clock.now())];
    // Of two who ask at once one is first: the gateway’s row is held while what is under way is looked at.
    const isFirst = await this.database.transaction(async (transaction) => {
      const replacements = {
        ...{ id, siteId, deviceId, personId, at, mishaps: JSON.stringify(of), predicted: JSON.stringify(predicted) },
      };
      await this.database.query('SELECT id FROM device WHERE id = :deviceId FOR UPDATE', { replacements, transaction });
      const [rows] = await this.database.query(
        `INSERT INTO path_drill (id, site_id, device_id, person_id, at, mishaps, predicted)
         SELECT :id, :siteId, :deviceId, :personId, :at, :mishaps, :predicted WHERE NOT EXISTS (
           SELECT 1 FROM path_drill r, jsonb_array_elements(r.mishaps) m WHERE r.device_id = :deviceId
           AND r.at + coalesce(m->>'to', m->>'from')::numeric * interval '1 second' > :at)
         RETURNING id`,
        { replacements, transaction },
      );
      return rows.length > 0;
    });
    if (!isFirst)
      throw new AppError('command.refused', `${device.name} plays something already. Wait until that is over.`);
    try {
      const { ok, text } = await this.commands.ask(deviceId, 'drill', '', { personId, mishaps });
      if (!ok) throw new AppError('command.refused', text);
    } catch (error) {
      await this.database.query('DELETE FROM path_drill WHERE id = :id', { replacements: { id } });
      throw error;
    }
    await note(this.database, personId, 'path.drill', { mishaps: of.length }, undefined, deviceId);
    return { id };
  }

  /** A gateway that can be asked, as it runs now, and what it is to play. */
  private async asked(deviceId: string, mishaps: readonly DrilledMishap[]) {
    const device = await this.commands.reachable(deviceId);
    const siteId = device.siteId!;
    const { intent } = await this.intents.live();
    const site = intent.sites.get(siteId);
    if (!site || device.hardware?.kind !== 'gateway') throw unknown('gateway');
    const gateway = await rehearsedHere(site, device, (await this.paths.of(siteId)).gateways);
    const known = new Set(gateway.uplinks.map(({ port }) => port));
    const strange = mishaps.find(({ what, port }) => what !== 'off' && !known.has(port));
    if (strange) throw new AppError('command.refused', `${device.name} has no uplink ${strange.port}.`);
    const of = mishaps.map((mishap): Mishap => ({ ...mishap, gatewayId: deviceId }));
    return { gateway, of, device, siteId };
  }

  /** The latest drills of a site, with what gateways told of them. */
  async of(siteId: string): Promise<DrillView[]> {
    const rows = await this.select<{
      id: string;
      device_id: string;
      at: Date;
      by: string;
      mishaps: readonly Mishap[];
      predicted: Rehearsed;
    }>(
      `SELECT r.id, r.device_id, r.at, p.name AS by, r.mishaps, r.predicted FROM path_drill r JOIN person p ON p.id = r.person_id
       WHERE r.site_id = :siteId ORDER BY r.at DESC LIMIT :most`,
      { siteId, most: MOST_DRILLS_TOLD },
    );
    return Promise.all(
      rows.map(async ({ device_id: deviceId, at, ...row }): Promise<DrillView> => {
        const end = new Date(at.getTime() + (endOf(row.mishaps) + DRILL_AFTER) * 1000);
        const changes = await this.select<ChangeRow & { readonly device_id: string }>(
          `SELECT device_id, at, port, what, course, why, uses FROM path_change
           WHERE (device_id = :deviceId OR (device_id = ANY(ARRAY[:pair]::uuid[]) AND what IN ('took-over', 'stands-by')))
           AND at BETWEEN :from AND :end ORDER BY at LIMIT 200`,
          { deviceId, pair: pairOf(row.predicted), from: new Date(at.getTime() - EARLY_MS), end },
        );
        return {
          ...{ ...row, deviceId, at: at.toISOString() },
          changes: changes.map((change) => changeOf(change.device_id, change)),
        };
      }),
    );
  }

  private select<T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> {
    return this.database.query<T>(sql, { replacements, type: QueryTypes.SELECT });
  }
}

/** Ids of those that take turns, where what was computed is of one of a pair. */
const pairOf = ({ turns = [] }: Rehearsed): (string | null)[] => {
  const ids = [...new Set(turns.flatMap(({ gatewayId }) => gatewayId ?? []))];
  return ids.length > 0 ? ids : [null];
};

/** When the last mishap ends, in seconds. */
const endOf = (mishaps: readonly Mishap[]): number => Math.max(...mishaps.map(({ from, to }) => to ?? from));
