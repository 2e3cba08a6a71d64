import { randomUUID } from 'node:crypto';
import { hangsNow } from '@iron-lattice/core/assess';
import { BANDS, type Band } from '@iron-lattice/core/hardware';
import type { DeviceFrame } from '@iron-lattice/core/line';
import { scanOrder, scanSeconds, type ScanForecast, type ScanRun, type ScanStep } from '@iron-lattice/core/wireless';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { CommandService } from '../line/command.service';
import { AppError } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import type { Device } from '../roster/device.model';
import type { RosterService } from '../roster/roster.service';
import { SCAN_LOST_MS, type AirService } from './air.service';

declare module '../platform/bus' {
  interface BusMessages {
    /** Whoever runs the scan of this site: end it. */
    'scan-stop': { siteId: string };
  }
}

/** Progress is written down this often at the most, in milliseconds. */
const WRITE_MS = 400;

interface Running {
  readonly siteId: string;
  readonly id: string;
  steps: ScanStep[];
  stopped: boolean;
  writing: NodeJS.Timeout | null;
  /** Commands under way, by their id: the device. */
  readonly asked: Map<string, string>;
}

/** Scans of the air: one at a time a site, in groups, so that no place is without any AP. */
export class ScanService {
  private readonly running = new Map<string, Running>();
  private readonly stopListening: () => void;

  constructor(
    private readonly database: Sequelize,
    private readonly airs: AirService,
    private readonly rosters: RosterService,
    private readonly commands: CommandService,
    private readonly bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {
    this.stopListening = bus.on('scan-stop', ({ siteId }) => {
      const run = this.running.get(siteId);
      if (run) void this.halt(run).catch(this.failed);
    });
  }

  close(): void {
    this.stopListening();
    for (const run of this.running.values()) run.stopped = true;
  }

  /** What a scan would do to clients. @param deviceIds null: every AP of the site. */
  async forecast(siteId: string, deviceIds: readonly string[] | null, bands: readonly Band[]): Promise<ScanForecast> {
    const { able, cannot } = await this.able(siteId, deviceIds, bands);
    const groups = await this.groups(
      siteId,
      able.map(({ id }) => id),
    );
    const seconds = scanSeconds(bands);
    const aps = able.map(({ id, name, report }) => {
      return { deviceId: id, name: name!, clients: (report?.clients ?? []).length };
    });
    const scanning = new Set(able.map(({ id }) => id));
    const devices = await this.rosters.devices(siteId);
    const felt = timesAway(scanning, hangsNow(this.rosters.linksAmong(devices)));
    const dropped = devices.filter(({ id }) => felt.has(id)).map(({ report }) => (report?.clients ?? []).length);
    return {
      ...{ aps, cannot, behind: felt.size - scanning.size },
      clients: dropped.reduce((sum, count) => sum + count, 0),
      awaySeconds: seconds * Math.max(1, ...felt.values()),
      seconds: seconds * groups.length,
    };
  }

  /** Begins a scan. @throws AppError where one is under way, or no AP can. */
  async start(
    siteId: string,
    deviceIds: readonly string[] | null,
    bands: readonly Band[],
    personId: string,
  ): Promise<ScanRun> {
    const { able, cannot } = await this.able(siteId, deviceIds, bands);
    if (able.length === 0)
      throw new AppError(
        'scan.refused',
        cannot[0] ? `No AP can scan now. ${cannot[0].reason}` : 'There is no AP to scan with.',
      );
    const id = randomUUID();
    const waits = able.map(({ id: deviceId, name }): ScanStep => {
      return { deviceId, name: name!, state: 'waits', done: 0, reason: '' };
    });
    const steps = [
      ...waits,
      ...cannot.map(({ deviceId, name, reason }): ScanStep => ({ deviceId, name, state: 'failed', done: 0, reason })),
    ];
    const taken = await this.database.query(
      `INSERT INTO air_scan (site_id, id, person_id, steps) VALUES (:siteId, :id, :personId, :steps)
       ON CONFLICT (site_id) DO UPDATE SET id = excluded.id, person_id = excluded.person_id, steps = excluded.steps,
         started_at = now(), alive_at = now(), running = true, stopping = false
       WHERE NOT air_scan.running OR air_scan.alive_at < now() - make_interval(secs => ${SCAN_LOST_MS / 1000}) RETURNING id`,
      { replacements: { siteId, id, personId, steps: JSON.stringify(steps) }, type: QueryTypes.SELECT },
    );
    if (taken.length === 0) {
      const run = await this.airs.run(siteId);
      throw new AppError('scan.refused', `${run?.by ?? 'Somebody'} is scanning here. Wait for it, or stop it.`);
    }
    await note(this.database, personId, 'air.scan', { siteId, aps: able.length, bands });
    const run: Running = { siteId, id, steps, stopped: false, writing: null, asked: new Map() };
    this.running.set(siteId, run);
    void this.go(run, able, bands).catch(this.failed);
    await this.bus.send('live', { type: 'air', siteId, what: 'scan' });
    return (await this.airs.run(siteId))!;
  }

  /** Ends a scan; what was heard by then is kept. @throws AppError where none is under way. */
  async stop(siteId: string): Promise<ScanRun> {
    const run = await this.airs.run(siteId);
    if (!run?.running) throw new AppError('scan.over', 'No scan is under way here.');
    await this.bus.send('scan-stop', { siteId });
    return run;
  }

  /** An AP says how far it is. */
  progress({ id, done, of }: Extract<DeviceFrame, { type: 'progress' }>): void {
    for (const run of this.running.values()) {
      const deviceId = run.asked.get(id);
      if (deviceId !== undefined) return this.step(run, deviceId, { done: of === 0 ? 1 : done / of });
    }
  }

  private async able(siteId: string, deviceIds: readonly string[] | null, bands: readonly Band[]) {
    const devices = (await this.rosters.devices(siteId)).filter(
      ({ id, hardware }) => hardware?.kind === 'ap' && (deviceIds === null || deviceIds.includes(id)),
    );
    const able: Device[] = [];
    const cannot: { deviceId: string; name: string; reason: string }[] = [];
    for (const device of devices) {
      const reason = whyNot(device, bands);
      if (reason === null) able.push(device);
      else cannot.push({ deviceId: device.id, name: device.name!, reason });
    }
    return { able, cannot };
  }

  private async groups(siteId: string, aps: readonly string[]): Promise<readonly (readonly string[])[]> {
    const { losses, measured } = await this.airs.losses(siteId);
    const least = new Map<string, number>();
    for (const { a, b, loss } of losses)
      for (const key of [`${a} ${b}`, `${b} ${a}`]) least.set(key, Math.min(loss, least.get(key) ?? Infinity));
    return scanOrder(
      aps,
      (a, b) => least.get(`${a} ${b}`),
      (ap) => measured.has(ap),
    );
  }

  private async go(run: Running, able: readonly Device[], bands: readonly Band[]): Promise<void> {
    const alive = setInterval(() => void this.write(run, true).catch(this.failed), SCAN_LOST_MS / 4);
    try {
      const groups = await this.groups(
        run.siteId,
        able.map(({ id }) => id),
      );
      for (const group of groups) {
        if (run.stopped) break;
        await Promise.all(group.map((deviceId) => this.scan(run, deviceId, bands)));
      }
    } finally {
      clearInterval(alive);
      if (run.writing) clearTimeout(run.writing);
      run.steps = run.steps.map((step) =>
        step.state === 'waits' ? { ...step, state: 'left', reason: 'The scan was stopped.' } : step,
      );
      this.running.delete(run.siteId);
      await this.airs.renewFacts(run.siteId);
      await this.write(run, false);
      // What is found at the site may be another now.
      await this.bus.send('live', { type: 'site', siteId: run.siteId });
    }
  }

  private async scan(run: Running, deviceId: string, bands: readonly Band[]): Promise<void> {
    const id = randomUUID();
    run.asked.set(id, deviceId);
    this.step(run, deviceId, { state: 'scans' });
    try {
      const answer = await this.commands.ask(deviceId, 'scan', BANDS.filter((band) => bands.includes(band)).join(','), {
        id,
      });
      if (!answer.scan)
        return this.step(
          run,
          deviceId,
          run.stopped ? { state: 'left', reason: 'The scan was stopped.' } : { state: 'failed', reason: answer.text },
        );
      await this.airs.keep(deviceId, answer.scan);
      await this.bus.send('live', { type: 'air', siteId: run.siteId, what: 'heard' });
      this.step(run, deviceId, { state: 'done', done: 1 });
    } catch (error) {
      if (!(error instanceof AppError)) throw error;
      this.step(run, deviceId, { state: 'failed', reason: error.message }); // what others heard is kept
    } finally {
      run.asked.delete(id);
    }
  }

  private async halt(run: Running): Promise<void> {
    run.stopped = true;
    for (const [id, deviceId] of run.asked) await this.bus.send('cancel', { id, deviceId });
  }

  private step(run: Running, deviceId: string, change: Partial<ScanStep>): void {
    run.steps = run.steps.map((step) => (step.deviceId === deviceId ? { ...step, ...change } : step));
    run.writing ??= setTimeout(() => {
      run.writing = null;
      void this.write(run, true).catch(this.failed);
    }, WRITE_MS);
  }

  private async write({ siteId, id, steps }: Running, running: boolean): Promise<void> {
    await this.database.query(
      `UPDATE air_scan SET steps = :steps, running = :running, alive_at = now() WHERE site_id = :siteId AND id = :id`,
      { replacements: { siteId, id, running, steps: JSON.stringify(steps) } },
    );
    await this.bus.send('live', { type: 'air', siteId, what: 'scan' });
  }
}

/** How often each AP is off the air, those included that hang by radio on one that scans. */
function timesAway(scanning: ReadonlySet<string>, hung: ReadonlyMap<string, string>): ReadonlyMap<string, number> {
  const felt = new Map<string, number>();
  for (const id of new Set([...scanning, ...hung.keys()])) {
    const way = new Set<string>();
    for (let at: string | undefined = id; at !== undefined && !way.has(at); at = hung.get(at)) way.add(at);
    const times = [...way].filter((each) => scanning.has(each)).length;
    if (times > 0) felt.set(id, times);
  }
  return felt;
}

/** Why an AP cannot scan; null where it can. */
function whyNot({ name, online, updating, hardware }: Device, bands: readonly Band[]): string | null {
  if (!online) return `${name} is silent. Check its power and cable.`;
  if (updating !== null) return `${name} is being updated to ${updating}. Wait until it is through.`;
  if (!hardware?.radios.some(({ band }) => bands.includes(band))) return `${name} has no radio for these bands.`;
  return null;
}
