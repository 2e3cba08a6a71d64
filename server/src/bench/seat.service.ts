import { randomUUID } from 'node:crypto';
import {
  seatWords,
  type KeptProbe,
  type SeatAnswer,
  type SeatQuestion,
  type SuiteQuestion,
  type SuiteResult,
  type SuiteRun,
} from '@iron-lattice/core/bench';
import { resolve } from '@iron-lattice/core/intent';
import { localMoment, momentAt } from '@iron-lattice/core/rules';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { KeyTeller } from '../roster/key-offer';
import { rosterOf, type RosterService } from '../roster/roster.service';
import type { DraftService } from '../intent/draft.service';
import type { IntentService } from '../intent/intent.service';
import type { CommandService } from '../line/command.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import type { Heavy } from '../platform/heavy';
import { clock } from '../platform/clock';

/** Runs of a suite that are kept for each site. */
const KEPT = 50;
const LISTED = 10;

/** Asks the fleet as a pretend client would, beside what the draft says; keeps questions and asks them again. */
export class SeatService {
  constructor(
    private readonly database: Sequelize,
    private readonly drafts: DraftService,
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly commands: CommandService,
    private readonly heavy: Heavy,
    private readonly bus: Bus,
    private readonly keys: KeyTeller,
  ) {}

  /** What a seat gets to hear from the devices, and what the draft says of the same. */
  async try(draftId: string, siteId: string, question: SeatQuestion): Promise<SeatAnswer> {
    const live = await this.live(siteId, question);
    const { intent } = await this.drafts.open(draftId);
    const site = intent.sites.get(siteId);
    if (!site) throw unknown('site');
    const roster = (await this.rosters.devices(siteId)).map(rosterOf);
    const input = { site: resolve(intent.estate, site), roster, live: null };
    const { probe } = question;
    const ssid = input.site.ssids.find(({ name }) => name === probe.ssid);
    const key = ssid?.ring && probe.key !== undefined ? await this.keys(ssid.id, probe.key) : null;
    const given = { key, now: localMoment(clock.now(), site.timeZone) };
    const draft = await this.heavy.run('seat', input, question, momentAt(clock.now(), site.timeZone), given);
    const differs = draft !== null && (draft.passes ? live.stoppedBy !== undefined : live.ok);
    return { live, draft, differs };
  }

  /** A site's kept probes, by name. */
  async probes(siteId: string): Promise<KeptProbe[]> {
    return this.database.query<KeptProbe>(
      'SELECT id, name, seat FROM bench_probe WHERE site_id = :siteId ORDER BY name',
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
  }

  /** Keeps a probe; one of the same name moves. */
  async keepProbe(siteId: string, { name, seat }: Omit<KeptProbe, 'id'>): Promise<KeptProbe> {
    await this.ours(siteId, seat.deviceId);
    const [row] = await this.database.query<KeptProbe>(
      `INSERT INTO bench_probe (id, site_id, name, seat) VALUES (:id, :siteId, :name, :seat)
       ON CONFLICT (site_id, name) DO UPDATE SET seat = excluded.seat RETURNING id, name, seat`,
      { replacements: { id: randomUUID(), siteId, name, seat: JSON.stringify(seat) }, type: QueryTypes.SELECT },
    );
    return row!;
  }

  async dropProbe(siteId: string, id: string): Promise<void> {
    await this.database.query('DELETE FROM bench_probe WHERE site_id = :siteId AND id = :id', {
      replacements: { siteId, id },
    });
  }

  async questions(siteId: string): Promise<SuiteQuestion[]> {
    const rows = await this.database.query<{ id: string; body: Omit<SuiteQuestion, 'id'> }>(
      'SELECT id, body FROM suite_question WHERE site_id = :siteId ORDER BY position',
      { replacements: { siteId }, type: QueryTypes.SELECT },
    );
    return rows.map(({ id, body }) => ({ id, ...body }));
  }

  async keep(siteId: string, question: Omit<SuiteQuestion, 'id'>): Promise<SuiteQuestion> {
    await this.ours(siteId, question.deviceId);
    const id = randomUUID();
    await this.database.query(
      `INSERT INTO suite_question (id, site_id, body, position)
       SELECT :id, :siteId, :body, coalesce(max(position), 0) + 1 FROM suite_question WHERE site_id = :siteId`,
      { replacements: { id, siteId, body: JSON.stringify(question) } },
    );
    return { id, ...question };
  }

  async drop(siteId: string, id: string): Promise<void> {
    await this.database.query('DELETE FROM suite_question WHERE site_id = :siteId AND id = :id', {
      replacements: { siteId, id },
    });
  }

  /** Runs of a site's suite, newest first. */
  async runs(siteId: string): Promise<SuiteRun[]> {
    const rows = await this.database.query<Omit<SuiteRun, 'at'> & { at: Date }>(
      'SELECT id, revision, at, results FROM suite_run WHERE site_id = :siteId ORDER BY at DESC LIMIT :most',
      { replacements: { siteId, most: LISTED }, type: QueryTypes.SELECT },
    );
    return rows.map((row) => ({ ...row, at: row.at.toISOString() }));
  }

  /** Asks every question of a site; null where it has none. */
  async run(siteId: string): Promise<SuiteRun | null> {
    const questions = await this.questions(siteId);
    if (questions.length === 0) return null;
    const results: SuiteResult[] = [];
    for (const question of questions) {
      const { ok, text } = await this.live(siteId, question);
      const passed = ok === (question.expects === 'answer');
      results.push({ questionId: question.id, words: seatWords(question), passed, got: text });
    }
    const { revision } = await this.intents.live();
    const run = { id: randomUUID(), revision: revision || null, at: clock.date().toISOString(), results };
    await this.database.query(
      'INSERT INTO suite_run (id, site_id, revision, at, results) VALUES (:id, :siteId, :revision, :at, :results)',
      { replacements: { ...run, siteId, results: JSON.stringify(results) } },
    );
    await this.database.query(
      `DELETE FROM suite_run WHERE site_id = :siteId AND id NOT IN
         (SELECT id FROM suite_run WHERE site_id = :siteId ORDER BY at DESC LIMIT :kept)`,
      { replacements: { siteId, kept: KEPT } },
    );
    await this.bus.send('live', { type: 'site', siteId });
    return run;
  }

  /** Asks the suites of sites that a rollout touched. */
  async runFor(siteIds: readonly string[]): Promise<void> {
    for (const siteId of siteIds) await this.run(siteId);
  }

  private async live(siteId: string, { deviceId, probe, target }: SeatQuestion): Promise<SeatAnswer['live']> {
    await this.ours(siteId, deviceId);
    try {
      const { ok, text, stoppedBy } = await this.commands.ask(deviceId, 'probe', target, { probe });
      return { ok, text, ...(stoppedBy ? { stoppedBy } : {}) };
    } catch (error) {
      if (error instanceof AppError) return { ok: false, text: error.message };
      throw error;
    }
  }

  private async ours(siteId: string, deviceId: string): Promise<void> {
    const devices = await this.rosters.devices(siteId);
    if (!devices.some(({ id }) => id === deviceId)) throw unknown('device at this site');
  }
}
