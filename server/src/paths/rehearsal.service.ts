import { randomUUID } from 'node:crypto';
import { rehearsedGateway } from '@iron-lattice/core/assess';
import type { DrilledMishap } from '@iron-lattice/core/line';
import {
  DRILL_AFTER,
  MOST_REHEARSALS,
  MOST_RUNS_TOLD,
  type KeptRehearsal,
  type Mishap,
  type Rehearsed,
  type RehearsalRun,
} from '@iron-lattice/core/paths';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { clock } from '../platform/clock';
import type { Heavy } from '../platform/heavy';
import { note } from '../platform/journal';
import { Device, rosterDeviceOf } from '../roster/device.model';
import type { PathService } from './path.service';

interface Kept {
  readonly id: string;
  readonly site_id: string;
  readonly device_id: string;
  readonly name: string;
  readonly mishaps: readonly Mishap[];
  readonly most: number;
}
import { rehearsedHere } from './rehearsed-here';

/** Rehearsals that sites keep: worked out when they are kept, and anew after each rollout that touches the site. */
export class RehearsalService {
  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly paths: PathService,
    private readonly heavy: Heavy,
    private readonly bus: Bus,
  ) {}

  /** Those of a site, with what they came to. */
  async of(siteId: string): Promise<KeptRehearsal[]> {
    const rows = await this.select<Kept & { by: string; runs: readonly RehearsalRun[] }>(
      `SELECT r.*, p.name AS by, coalesce((SELECT jsonb_agg(jsonb_strip_nulls(jsonb_build_object('at', u.at, 'passed', u.passed,
           'usual', u.usual, 'worst', u.worst, 'course', u.course)) || jsonb_build_object('revision', u.revision) ORDER BY u.at DESC)
         FROM (SELECT * FROM path_rehearsal_run WHERE rehearsal_id = r.id ORDER BY at DESC LIMIT :runs) u), '[]') AS runs
       FROM path_rehearsal r JOIN person p ON p.id = r.person_id WHERE r.site_id = :siteId ORDER BY r.kept_at, r.id`,
      { siteId, runs: MOST_RUNS_TOLD },
    );
    return rows.map(({ id, device_id: deviceId, name, mishaps, most, by, runs }) => ({
      ...{ id, deviceId, name, mishaps, most, by },
      runs: runs.map((run) => ({ ...run, at: new Date(run.at).toISOString() })),
    }));
  }

  /** Keeps one of a gateway, in the place of another of its name. @throws AppError where there are too many, or no such gateway or uplink. */
  async keep(
    deviceId: string,
    {
      name,
      mishaps,
      most,
    }: { readonly name: string; readonly mishaps: readonly DrilledMishap[]; readonly most: number },
    personId: string,
  ): Promise<KeptRehearsal> {
    const device = await Device.findByPk(deviceId);
    if (!device?.siteId || device.hardware?.kind !== 'gateway') throw unknown('gateway');
    const { siteId } = device;
    const { intent } = await this.intents.live();
    const gateway = rehearsedGateway(intent.sites.get(siteId) ?? {}, rosterDeviceOf(device), null);
    const strange = mishaps.find(
      ({ what, port }) => what !== 'off' && !gateway.uplinks.some((each) => each.port === port),
    );
    if (strange)
      throw new AppError('rehearsal.refused', `${device.name} has no uplink ${strange.port} as it runs now.`);
    const of = mishaps.map((mishap): Mishap => ({ ...mishap, gatewayId: deviceId }));
    const kept = await this.database.transaction(async (transaction) => {
      const replacements = {
        ...{ id: randomUUID(), siteId, deviceId, name: name.trim(), most, personId, limit: MOST_REHEARSALS },
        mishaps: JSON.stringify(of),
      };
      await this.database.query('SELECT id FROM site WHERE id = :siteId FOR UPDATE', { replacements, transaction });
      const [rows] = await this.database.query(
        `INSERT INTO path_rehearsal (id, site_id, device_id, name, mishaps, most, person_id)
         SELECT :id, :siteId, :deviceId, :name, :mishaps, :most, :personId WHERE
           EXISTS (SELECT 1 FROM path_rehearsal WHERE device_id = :deviceId AND name = :name)
           OR (SELECT count(*) FROM path_rehearsal WHERE site_id = :siteId) < :limit
         ON CONFLICT (device_id, name) DO UPDATE SET site_id = excluded.site_id, mishaps = excluded.mishaps, most = excluded.most,
           person_id = excluded.person_id RETURNING *`,
        { replacements, transaction },
      );
      return rows[0] as Kept | undefined;
    });
    if (!kept)
      throw new AppError(
        'rehearsal.refused',
        `A site keeps ${MOST_REHEARSALS} rehearsals at most. Take one away first.`,
      );
    await note(this.database, personId, 'path.rehearsal-kept', { name: kept.name }, undefined, deviceId);
    await this.run(kept);
    await this.tell(siteId);
    return (await this.of(siteId)).find(({ id }) => id === kept.id)!;
  }

  async drop(siteId: string, id: string, personId: string): Promise<void> {
    const [gone] = await this.select<{ name: string; device_id: string }>(
      'DELETE FROM path_rehearsal WHERE site_id = :siteId AND id = :id RETURNING name, device_id',
      { siteId, id },
    );
    if (!gone) throw unknown('rehearsal at this site');
    await note(this.database, personId, 'path.rehearsal-dropped', { name: gone.name }, undefined, gone.device_id);
    await this.tell(siteId);
  }

  /** Works those of sites out anew. */
  async runFor(siteIds: readonly string[]): Promise<void> {
    const kept = await this.select<Kept>(
      'SELECT * FROM path_rehearsal WHERE site_id = ANY(ARRAY[:siteIds]::uuid[]) ORDER BY site_id, kept_at',
      { siteIds: siteIds.length > 0 ? siteIds : [null] },
    );
    for (const one of kept) await this.run(one);
    for (const siteId of new Set(kept.map(({ site_id }) => site_id))) await this.tell(siteId);
  }

  private async run({ id, site_id: siteId, device_id: deviceId, name, mishaps, most }: Kept): Promise<void> {
    // Of what is live now: it may be otherwise by the time that it is worked out.
    const at = new Date(clock.now());
    const [{ intent, revision }, device, { gateways }] = await Promise.all([
      this.intents.live(),
      Device.findByPk(deviceId),
      this.paths.of(siteId),
    ]);
    const site = intent.sites.get(siteId);
    if (!site || device?.siteId !== siteId) return;
    const gateway = await rehearsedHere(site, device, gateways);
    if (gateway.uplinks.length === 0) return;
    const seconds = Math.max(...mishaps.map(({ from, to }) => to ?? from)) + DRILL_AFTER;
    const play = (phase: 'mean' | 'worst'): Promise<Rehearsed> =>
      this.heavy.run('rehearsal', gateway, mishaps, seconds, phase);
    const [mean, worst] = await Promise.all([play('mean'), play('worst')]);
    const [usual, longest] = [longestOf(mean), longestOf(worst)];
    const passed = longest.seconds <= most + 1e-6;
    const course = site.courses?.find((each) => each.id === longest.course)?.name ?? null;
    const [before] = await this.select<{ passed: boolean }>(
      'SELECT passed FROM path_rehearsal_run WHERE rehearsal_id = :id ORDER BY at DESC LIMIT 1',
      { id },
    );
    await this.database.query(
      `INSERT INTO path_rehearsal_run (rehearsal_id, at, revision, passed, usual, worst, course)
       SELECT :id, :at, :revision, :passed, :usual, :worst, :course WHERE EXISTS (SELECT 1 FROM path_rehearsal WHERE id = :id)
       ON CONFLICT DO NOTHING`,
      {
        replacements: {
          ...{ id, at, revision: revision || null, passed },
          ...{ usual: usual.seconds, worst: longest.seconds, course },
        },
      },
    );
    const detail = { name, worst: Math.round(longest.seconds), most };
    if (!passed && before?.passed !== false)
      await note(this.database, null, 'path.rehearsal-failed', detail, undefined, deviceId);
  }

  private tell = (siteId: string): Promise<void> => this.bus.send('live', { type: 'paths', siteId });

  private select<T extends object>(sql: string, replacements: Record<string, unknown>): Promise<T[]> {
    return this.database.query<T>(sql, { replacements, type: QueryTypes.SELECT });
  }
}

/** Who waits the longest, and for how long. */
function longestOf({ longest, courses = [] }: Rehearsed): { readonly seconds: number; readonly course: string | null } {
  return courses.reduce<{ seconds: number; course: string | null }>(
    (most, each) => (each.longest > most.seconds ? { seconds: each.longest, course: each.id } : most),
    { seconds: longest, course: null },
  );
}
