import { randomUUID } from 'node:crypto';
import { writePcapng } from '@iron-lattice/core/formats';
import type { Exchange } from '@iron-lattice/core/radius';
import type {
  BusyShare,
  Capacity,
  CapturedPacket,
  CommandName,
  DrilledMishap,
  DeviceFrame,
  EntryTry,
  ProbeTry,
  ScanReport,
  SpeedGot,
  SpeedTry,
  SweepFind,
} from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import { Device } from '../roster/device.model';
import type { SecretService } from '../intent/secret.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { note } from '../platform/journal';

/** What a device answered. */
export interface Answer {
  readonly ok: boolean;
  readonly text: string;
  readonly packets?: readonly CapturedPacket[];
  readonly found?: readonly SweepFind[];
  readonly stoppedBy?: string;
  readonly scan?: ScanReport;
  readonly speed?: SpeedGot;
  readonly exchange?: Exchange;
  readonly octets?: string;
  readonly capacity?: Capacity;
  readonly shares?: readonly BusyShare[];
}

/** How long each command may take, in milliseconds; a capture takes what it was asked for besides. */
const WITHIN_MS: Readonly<Record<CommandName, number>> = {
  locate: 5000,
  ping: 5000,
  trace: 10_000,
  lookup: 5000,
  probe: 5000,
  capture: 5000,
  restart: 5000,
  sweep: 600_000,
  scan: 60_000,
  speed: 20_000,
  disconnect: 5000,
  authenticate: 5000,
  session: 5000,
  invite: 5000,
  forget: 5000,
  'bring-back': 5000,
  capacity: 20_000,
  drill: 5000,
};
/** Commands that change a device go into its history. */
const NOTED: ReadonlySet<CommandName> = new Set([
  'restart',
  'capture',
  'forget',
  'disconnect',
  'session',
  'bring-back',
]);
/** A notification may be lost, so the row is looked for this often. */
const LOOK_AGAIN_MS = 1000;
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** Has devices do things, over whichever controller holds their lines. */
export class CommandService {
  constructor(
    private readonly database: Sequelize,
    private readonly bus: Bus,
    private readonly secrets: Pick<SecretService, 'seal'>,
  ) {}

  /** A device of ours that can be asked now. @throws AppError when it is silent or being updated. */
  async reachable(deviceId: string): Promise<Device> {
    const device = await Device.findByPk(deviceId);
    if (!device || device.siteId === null) throw unknown('device of ours');
    if (!device.online) throw new AppError('device.silent', `${device.name} is silent. Check its power and cable.`);
    if (device.updating !== null)
      throw new AppError(
        'device.updating',
        `${device.name} is being updated to ${device.updating}. Wait until it is through.`,
      );
    return device;
  }

  /** Has a device do something and waits for its answer. @throws AppError when it is silent or does not answer. */
  async ask(
    deviceId: string,
    name: CommandName,
    target: string,
    more: {
      readonly seconds?: number;
      readonly personId?: string;
      readonly id?: string;
      readonly probe?: ProbeTry;
      readonly speed?: SpeedTry;
      readonly entry?: EntryTry;
      readonly octets?: string;
      readonly mishaps?: readonly DrilledMishap[];
      readonly busy?: readonly number[];
    } = {},
  ): Promise<Answer> {
    const device = await this.reachable(deviceId);
    const id = more.id ?? randomUUID();
    const withinMs = WITHIN_MS[name] + (more.seconds ?? 0) * 1000;
    const answer = this.awaited(id, withinMs);
    if (more.personId && NOTED.has(name))
      await note(this.database, more.personId, `device.${name}`, { target }, undefined, deviceId);
    const { probe, speed, entry, octets, mishaps, busy } = more;
    const seconds = name === 'capture' ? more.seconds : undefined;
    await this.bus.send('command', {
      id,
      deviceId,
      name,
      target,
      ...(seconds === undefined ? {} : { seconds }),
      ...(probe ? { probe } : {}),
      ...(speed ? { speed } : {}),
      ...(octets ? { octets } : {}),
      ...(mishaps ? { mishaps } : {}),
      ...(busy ? { busy } : {}),
      // Secrets and passwords are in it: between controllers it travels sealed.
      ...(entry ? { sealed: this.secrets.seal(id, JSON.stringify(entry)).toString('base64') } : {}),
    });
    const given = await answer;
    if (!given) throw new AppError('device.no-answer', `${device.name} did not answer within ${withinMs / 1000} s.`);
    return given;
  }

  /**
   * Captures what passes a port, as a pcapng file.
   * @param port name of a port; empty for all of them.
   */
  async capture(
    deviceId: string,
    port: string,
    seconds: number,
    personId: string,
  ): Promise<{ name: string; file: Uint8Array }> {
    const device = await this.reachable(deviceId);
    if (port !== '' && !device.hardware?.ports.some((each) => each.name === port))
      throw new AppError('command.refused', `${device.name} has no port ${port}.`);
    const answer = await this.ask(deviceId, 'capture', port, { seconds, personId });
    if (!answer.ok) throw new AppError('command.refused', answer.text);
    const frames = (answer.packets ?? []).map(({ at, bytes, length }) => ({
      at,
      length,
      bytes: Buffer.from(bytes, 'base64'),
    }));
    return {
      name: `${device.name}${port === '' ? '' : `-${port}`}.pcapng`,
      file: writePcapng(port || 'all ports', frames),
    };
  }

  /** A device answered: keeps the answer for whoever asked; the notification is too small for it. */
  async answered({
    id,
    ok,
    text,
    packets,
    found,
    stoppedBy,
    scan,
    speed,
    exchange,
    octets,
    capacity,
    shares,
  }: Extract<DeviceFrame, { type: 'answer' }>): Promise<void> {
    if (!UUID.test(id)) return; // not one of ours
    const body: Answer = {
      ok,
      text,
      ...(packets ? { packets } : {}),
      ...(found ? { found } : {}),
      ...(stoppedBy ? { stoppedBy } : {}),
      ...(scan ? { scan } : {}),
      ...(speed ? { speed } : {}),
      ...(exchange ? { exchange } : {}),
      ...(octets ? { octets } : {}),
      ...(capacity ? { capacity } : {}),
      ...(shares ? { shares } : {}),
    };
    await this.database.query('INSERT INTO command_answer (id, body) VALUES (:id, :body) ON CONFLICT DO NOTHING', {
      replacements: { id, body: JSON.stringify(body) },
    });
    await this.database.query(`DELETE FROM command_answer WHERE at < now() - interval '15 minutes'`);
    await this.bus.send('answered', { id });
  }

  private awaited(id: string, withinMs: number): Promise<Answer | null> {
    return new Promise((resolve, reject) => {
      const look = (): void => {
        this.database
          .query<{ body: Answer }>('DELETE FROM command_answer WHERE id = :id RETURNING body', {
            replacements: { id },
            type: QueryTypes.SELECT,
          })
          .then(([row]) => row && done(row.body))
          .catch((error: Error) => {
            clear();
            reject(error);
          });
      };
      const deadline = setTimeout(() => done(null), withinMs);
      const again = setInterval(look, LOOK_AGAIN_MS);
      const stop = this.bus.on('answered', (message) => {
        if (message.id === id) look();
      });
      const clear = (): void => {
        clearTimeout(deadline);
        clearInterval(again);
        stop();
      };
      const done = (value: Answer | null): void => {
        clear();
        resolve(value);
      };
    });
  }
}
