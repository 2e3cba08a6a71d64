import { isInWindow } from '@iron-lattice/core/firmware';
import type { Operation, SitePart } from '@iron-lattice/core/intent';
import type { PlannedRadio, PlanRecurrence, PlanRecurrenceView, SitePlan } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import { Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import { Recurring } from '../platform/recurring';
import type { RolloutStarter } from '../roster/rollout-offer';
import type { PlanService } from './plan.service';

/** As it is before anybody asks for it. */
export const NO_RECURRENCE: PlanRecurrence = { on: false, bands: ['2.4', '5', '6'], leastGain: 0.2, mostMoved: 10 };
/** How often is looked whether a window is open, in milliseconds. */
const LOOK_MS = 60_000;
/** A window is at most a day long: what was looked at within it is not looked at again. */
const SAME_WINDOW_HOURS = 25;

interface Row {
  readonly site_id: string;
  readonly person_id: string;
  readonly by: string;
  readonly settings: PlanRecurrence;
  readonly last_at: Date | null;
  readonly last: string;
}

/**
 * Plans that come again: once in each update window of a site that asked for it, taken only where it is worth it, as a draft and a
 * rollout like any others. Either way a line of the journal says what came of it.
 */
export class RecurrenceService {
  private readonly recurring: Recurring;

  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly drafts: DraftService,
    private readonly plans: PlanService,
    private readonly rollOut: () => RolloutStarter,
    private readonly bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {
    this.recurring = new Recurring(() => this.look(new Date()), LOOK_MS, failed);
  }

  open(): void {
    this.recurring.open();
  }
  close(): Promise<void> {
    return this.recurring.close();
  }

  async get(siteId: string): Promise<PlanRecurrenceView> {
    if (!(await Site.findByPk(siteId, { attributes: ['id'] }))) throw unknown('site');
    const [row] = await this.rows('r.site_id = :siteId', { siteId });
    if (!row) return { ...NO_RECURRENCE, by: null, lastAt: null, last: '' };
    return { ...row.settings, by: row.by, lastAt: row.last_at?.toISOString() ?? null, last: row.last };
  }

  /** Asks for it, or does so no more. */
  async set(siteId: string, settings: PlanRecurrence, personId: string): Promise<PlanRecurrenceView> {
    await this.get(siteId);
    await this.database.query(
      `INSERT INTO air_recurrence (site_id, person_id, settings) VALUES (:siteId, :personId, :settings)
       ON CONFLICT (site_id) DO UPDATE SET person_id = excluded.person_id, settings = excluded.settings`,
      { replacements: { siteId, personId, settings: JSON.stringify(settings) } },
    );
    await note(this.database, personId, 'air.recurrence', { siteId, ...settings });
    await this.bus.send('live', { type: 'air', siteId, what: 'plan' });
    this.recurring.look(); // its window may be open now
    return this.get(siteId);
  }

  /** Works plans out for sites whose window is open and that were not looked at in it yet. */
  async look(now: Date): Promise<void> {
    const due = (
      await this.rows(
        `(r.settings->>'on')::boolean AND (r.last_at IS NULL OR r.last_at < :now::timestamptz - interval '${SAME_WINDOW_HOURS} hours')`,
        { now: now.toISOString() },
      )
    ).map(({ site_id }) => site_id);
    if (due.length === 0) return;
    const [live, estate, sites] = await Promise.all([
      this.intents.live(),
      this.intents.estate(),
      Site.findAll({ where: { id: due } }),
    ]);
    for (const site of sites) {
      const part = live.pairs.get(site.id)?.site;
      if (!part || !isInWindow(site.updateWindow ?? estate.updateWindow, part.timeZone, now)) continue;
      await this.take(part, now).catch(this.failed); // one site's fault is not another's
    }
  }

  private async take(site: SitePart, now: Date): Promise<void> {
    // Whoever takes it first has it: no other controller looks in this window again.
    const taken = await this.database.query<Pick<Row, 'person_id' | 'settings'>>(
      `UPDATE air_recurrence SET last_at = :now WHERE site_id = :siteId
         AND (last_at IS NULL OR last_at < :now::timestamptz - interval '${SAME_WINDOW_HOURS} hours') RETURNING person_id, settings`,
      { replacements: { siteId: site.id, now: now.toISOString() }, type: QueryTypes.SELECT },
    );
    const [asked] = taken;
    if (!asked) return;
    const came = await this.try(site, asked.settings, asked.person_id).catch((error: unknown) => {
      if (!(error instanceof AppError)) throw error;
      return `Not taken: ${error.message}`;
    });
    await this.database.query('UPDATE air_recurrence SET last = :came WHERE site_id = :siteId', {
      replacements: { came, siteId: site.id },
    });
    await note(this.database, asked.person_id, 'air.recurring-plan', { siteId: site.id, site: site.name, came });
    await this.bus.send('live', { type: 'air', siteId: site.id, what: 'plan' });
  }

  /** @returns what came of it, in words. */
  private async try(site: SitePart, settings: PlanRecurrence, personId: string): Promise<string> {
    const never = new AbortController().signal;
    const plan = await this.plans.planFor(site, { bands: settings.bands, deviceIds: null }, never);
    const changes = plan.bands.flatMap(({ radios }) => radios.filter(differs));
    const moved = changes.filter(({ moves }) => moves).length;
    const gain = gainOf(plan);
    const percent = `${Math.round(gain * 100)} %`;
    if (moved === 0) return 'Looked at: nothing to move.';
    if (gain < settings.leastGain)
      return `Looked at: radios would be ${percent} less in each other’s way, which is not worth moving ${moved}.`;
    if (moved > settings.mostMoved)
      return `Not taken: it would move ${moved} radios, more than the ${settings.mostMoved} that were allowed beforehand.`;
    const draft = await this.drafts.start(personId);
    try {
      const from = { name: draft.name, description: draft.description };
      const named = {
        name: `Channels of ${site.name}`,
        description: `A plan that comes again: ${percent} less in each other’s way.`,
      };
      const { head } = await this.drafts.describe(draft.id, { from, to: named });
      await this.drafts.edit(draft.id, { head, operations: changes.map((each) => editOf(site, each)) }, personId);
      await this.rollOut()(draft.id, personId);
    } catch (error) {
      await this.drafts.discard(draft.id, personId);
      throw error;
    }
    return `Rolled out: ${moved} ${moved === 1 ? 'radio' : 'radios'} moved, ${percent} less in each other’s way.`;
  }

  private rows(where: string, replacements: Record<string, string>): Promise<Row[]> {
    return this.database.query<Row>(
      `SELECT r.site_id, r.person_id, p.name AS by, r.settings, r.last_at, r.last
       FROM air_recurrence r JOIN person p ON p.id = r.person_id WHERE ${where} ORDER BY r.site_id`,
      { replacements, type: QueryTypes.SELECT },
    );
  }
}

/** Share by which radios are less in each other's way, over all bands. */
function gainOf({ bands }: SitePlan): number {
  const [before, after] = [
    bands.reduce((sum, each) => sum + each.wayBefore, 0),
    bands.reduce((sum, each) => sum + each.wayAfter, 0),
  ];
  return before > 0 ? (before - after) / before : 0;
}

const differs = ({ before, after, moves }: PlannedRadio): boolean => moves || before?.power !== after.power;

function editOf(site: SitePart, { deviceId, band, after }: PlannedRadio): Operation {
  const from = site.radios?.[deviceId]?.[band] ?? null;
  const to = { ...from, channel: after.channel, width: after.width, power: after.power };
  return { type: 'radio.set', siteId: site.id, deviceId, band, from, to };
}
