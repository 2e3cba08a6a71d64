import { randomUUID } from 'node:crypto';
import { isOwnSpace } from './sweep-space';
import { formatPrefix, parsePrefix, sizeOf, type Prefix } from '@iron-lattice/core/address';
import type { SweepFound, SweepView } from '@iron-lattice/core/intake';
import type { DeviceFrame, SweepFind } from '@iron-lattice/core/line';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import type { CommandService } from '../line/command.service';
import { invite, sweepFromHere } from './sweep-probe';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';
import { Site } from '../intent/intent.model';
import { Device } from '../roster/device.model';

/** Largest prefix we sweep: 16,384 addresses. */
const SHORTEST = 18;
const LISTED = 10;
/** Sweeps under way at the same time. */
const MOST_RUNNING = 8;

interface Row {
  id: string;
  prefix: string;
  device_id: string | null;
  by: string | null;
  state: SweepView['state'];
  done: number;
  total: number;
  reason: string | null;
  found: SweepFind[];
  ms: number;
}

/** Sweeps: looking at every address of a prefix for devices that do not know their controller. */
export class SweepService {
  /** Stops of sweeps that run from here. */
  private readonly running = new Map<string, AbortController>();
  private readonly stopListening: () => void;

  constructor(
    private readonly database: Sequelize,
    private readonly commands: CommandService,
    private readonly bus: Bus,
    private readonly port: number,
    private readonly address: () => string,
    private readonly failed: (error: unknown) => void,
  ) {
    this.stopListening = bus.on('sweep', ({ id, stop }) => {
      if (stop) this.running.get(id)?.abort();
    });
  }

  /** What was under way when a controller stopped is not gone on with. */
  async open(): Promise<void> {
    await this.database.query(
      `UPDATE sweep SET state = 'failed', ended_at = now(), reason = 'The controller was restarted. Sweep again.' WHERE state = 'running'`,
    );
  }

  close(): void {
    this.stopListening();
    for (const abort of this.running.values()) abort.abort();
  }

  /**
   * Starts a sweep.
   * @param deviceId gateway that sweeps in its own network; null: the controller does.
   * @throws AppError `sweep.refused`.
   */
  async start(text: string, deviceId: string | null, siteId: string | null, personId: string): Promise<SweepView> {
    const prefix = checked(text);
    if (siteId !== null && !(await Site.findByPk(siteId, { attributes: ['id'] }))) throw unknown('site');
    const [{ running }] = (await this.database.query(
      `SELECT count(*)::int AS running FROM sweep WHERE state = 'running'`,
      {
        type: QueryTypes.SELECT,
      },
    )) as [{ running: number }];
    if (running >= MOST_RUNNING)
      throw new AppError('sweep.refused', `${MOST_RUNNING} sweeps are under way. Wait for one, or stop one.`);
    if (deviceId !== null && (await this.commands.reachable(deviceId)).hardware?.kind !== 'gateway')
      throw new AppError('sweep.refused', 'Only a gateway can sweep.');
    const id = randomUUID();
    await this.database.query(
      `INSERT INTO sweep (id, prefix, device_id, site_id, state, total, person_id)
       VALUES (:id, :prefix, :deviceId, :siteId, 'running', :total, :personId)`,
      {
        replacements: {
          id,
          prefix: formatPrefix(prefix),
          deviceId,
          siteId,
          total: Number(sizeOf(4, prefix.length)),
          personId,
        },
      },
    );
    await note(this.database, personId, 'sweep.start', { prefix: formatPrefix(prefix), deviceId });
    void (deviceId === null ? this.runHere(id, prefix) : this.runAt(id, deviceId, prefix)).catch(
      async (error: unknown) => {
        const reason = error instanceof AppError ? error.message : 'It failed on our side.';
        if (!(error instanceof AppError)) this.failed(error);
        await this.end(id, 'failed', reason).catch(this.failed);
      },
    );
    return this.get(id);
  }

  async stop(id: string): Promise<SweepView> {
    const row = await this.row(id);
    if (row.state !== 'running') throw new AppError('sweep.over', 'This sweep is over.');
    await this.end(id, 'stopped', null);
    if (row.device_id === null) await this.bus.send('sweep', { id, stop: true });
    else await this.bus.send('cancel', { id, deviceId: row.device_id });
    return this.get(id);
  }

  async list(siteId: string | null): Promise<SweepView[]> {
    const rows = await this.rows('s.site_id IS NOT DISTINCT FROM :value', siteId);
    return Promise.all(rows.map((row) => this.view(row)));
  }

  async get(id: string): Promise<SweepView> {
    return this.view(await this.row(id));
  }

  /** Has a device that a sweep found call this controller. @throws AppError `command.refused`. */
  async invite(id: string, address: string, personId: string): Promise<void> {
    const row = await this.row(id);
    if (!row.found.some((each) => each.address === address)) throw unknown('device in this sweep');
    if (row.device_id === null) {
      if (!(await invite(address, this.port, this.address())))
        throw new AppError('command.refused', `${address} did not take the invitation. Sweep again.`);
    } else {
      const answer = await this.commands.ask(row.device_id, 'invite', address, { personId });
      if (!answer.ok) throw new AppError('command.refused', answer.text);
    }
    await note(this.database, personId, 'sweep.invite', { address });
  }

  /** A gateway says how far it is. */
  async progress({ id, done, found }: Extract<DeviceFrame, { type: 'progress' }>): Promise<void> {
    await this.got(id, done, found ?? []);
  }

  private async runAt(id: string, deviceId: string, prefix: Prefix): Promise<void> {
    const answer = await this.commands.ask(deviceId, 'sweep', formatPrefix(prefix), { id });
    await this.got(id, Number(sizeOf(4, prefix.length)), answer.found ?? []);
    await this.end(id, answer.ok ? 'done' : 'failed', answer.ok ? null : answer.text);
  }

  private async runHere(id: string, prefix: Prefix): Promise<void> {
    const abort = new AbortController();
    this.running.set(id, abort);
    try {
      await sweepFromHere(prefix, this.port, abort.signal, (done, found) => this.got(id, done, found));
      if (!abort.signal.aborted) await this.end(id, 'done', null);
    } finally {
      this.running.delete(id);
    }
  }

  private async got(id: string, done: number, found: readonly SweepFind[]): Promise<void> {
    await this.database.query(
      `UPDATE sweep SET done = greatest(done, :done), found = (
         SELECT coalesce(jsonb_agg(DISTINCT each), '[]') FROM jsonb_array_elements(found || :found::jsonb) each)
       WHERE id = :id AND state <> 'failed'`,
      { replacements: { id, done, found: JSON.stringify(found) } },
    );
    await this.bus.send('live', { type: 'sweep', sweepId: id });
  }

  private async end(id: string, state: SweepView['state'], reason: string | null): Promise<void> {
    await this.database.query(
      `UPDATE sweep SET state = :state, reason = :reason, ended_at = now() WHERE id = :id AND state = 'running'`,
      { replacements: { id, state, reason } },
    );
    await this.bus.send('live', { type: 'sweep', sweepId: id });
  }

  private async row(id: string): Promise<Row> {
    const [row] = await this.rows('s.id = :value', id);
    if (!row) throw unknown('sweep');
    return row;
  }

  private rows(where: string, value: string | null): Promise<Row[]> {
    return this.database.query<Row>(
      `SELECT s.id, s.prefix, s.device_id, d.name AS by, s.state, s.done, s.total, s.reason, s.found,
         (extract(epoch FROM coalesce(s.ended_at, now()) - s.started_at) * 1000)::int AS ms
       FROM sweep s LEFT JOIN device d ON d.id = s.device_id WHERE ${where} ORDER BY s.started_at DESC LIMIT ${LISTED}`,
      { replacements: { value }, type: QueryTypes.SELECT },
    );
  }

  private async view({ id, prefix, by, state, done, total, reason, found, ms }: Row): Promise<SweepView> {
    const known = await Device.findAll({
      attributes: ['serial', 'siteId', 'online', 'expectedSiteId'],
      where: { serial: { [Op.in]: found.map((each) => each.serial) } },
    });
    const bySerial = new Map(known.map((device) => [device.serial, device]));
    const whatIs = (device: Device | undefined): SweepFound['known'] => {
      if (!device) return 'new';
      if (device.siteId !== null) return 'ours';
      return device.online ? 'calling' : device.expectedSiteId !== null ? 'expected' : 'new';
    };
    const finds = found.map((each) => ({ ...each, known: whatIs(bySerial.get(each.serial)) }));
    // Those that wait for somebody first, then by address.
    const rank = (each: SweepFound): number => (each.known === 'ours' ? 1 : 0);
    finds.sort((a, b) => rank(a) - rank(b) || a.address.localeCompare(b.address, 'en', { numeric: true }));
    return {
      id,
      prefix,
      by,
      state,
      done,
      of: total,
      reason,
      ms,
      found: finds,
    };
  }
}

function checked(text: string): Prefix {
  const refuse = (message: string): AppError =>
    new AppError('sweep.refused', message, [{ code: 'sweep.prefix', message, field: 'prefix' }]);
  const prefix = parsePrefix(text.trim());
  if (!prefix) throw refuse(`“${text}” is not a prefix, such as 10.12.1.0/24.`);
  if (prefix.version !== 4) throw refuse('An IPv6 prefix has too many addresses to look at each.');
  if (prefix.length < SHORTEST)
    throw refuse(`A sweep takes /${SHORTEST} at most, 16,384 addresses. Sweep parts of it.`);
  if (!isOwnSpace(prefix))
    throw refuse('A sweep is for your own networks: private, shared or loopback addresses (RFC 1918, RFC 6598).');
  return prefix;
}
