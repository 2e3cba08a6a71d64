import { createPublicKey, randomBytes, randomUUID, verify } from 'node:crypto';
import type { Server } from 'node:http';
import { secretsOf } from '@iron-lattice/core/document';
import { sheetOf } from '@iron-lattice/core/hardware';
import {
  LINE_PATH,
  LINE_VERSION,
  proofText,
  readDeviceFrame,
  type ControllerFrame,
  type DeviceFrame,
} from '@iron-lattice/core/line';
import type { Logger } from 'pino';
import { QueryTypes, type Sequelize } from 'sequelize';
import { WebSocketServer, type WebSocket } from 'ws';
import { Device, DocumentRow } from '../intake/device.model';
import type { SecretService } from '../intent/secret.service';
import { AppError, unknown } from '../platform/app-error';
import { LISTENER_NAME, type Bus } from '../platform/bus';
import { note } from '../platform/journal';

const FRAME_LIMIT = 1_000_000;
/** A device that does not prove itself by then is let go. */
const PROOF_WITHIN_MS = 10_000;
const BEAT_MS = 15_000;
const ANSWER_WITHIN_MS = 5_000;
/** Frames of one device that may wait to be dealt with; beyond it the device is not read until they are. */
const MOST_WAITING = 32;
/** Bytes that may wait to be sent to one device; a device that does not take more than that is let go. */
const MOST_UNSENT = 4_000_000;

type Hello = Extract<DeviceFrame, { type: 'hello' }>;

/** One device's line, held by this process. */
interface Line {
  readonly socket: WebSocket;
  readonly deviceId: string;
  /** Answered since the last beat. */
  alive: boolean;
  /** Whether the device has been told that it is claimed. */
  claimed: boolean;
  /** Frames are dealt with one after the other, in the order they came. */
  queue: Promise<void>;
  /** How many of them wait. */
  waiting: number;
}

export interface LineOptions {
  readonly keepWithinSeconds: number;
  readonly reportSeconds: number;
}

/** The controller's end of the device line: who calls, what they run, and what they are told. */
export class LineService {
  private readonly lines = new Map<string, Line>();
  private readonly server = new WebSocketServer({ noServer: true, perMessageDeflate: false, maxPayload: FRAME_LIMIT });
  private beat: NodeJS.Timeout | null = null;
  private closing = false;

  constructor(
    private readonly database: Sequelize,
    private readonly secrets: SecretService,
    private readonly bus: Bus,
    private readonly options: LineOptions,
    private readonly log: Logger,
  ) {}

  /** Takes lines on an HTTP server and messages from the other controllers. */
  async attach(http: Server): Promise<void> {
    await this.forgetDeadLines();
    http.on('upgrade', (request, socket, head) => {
      if (request.url !== LINE_PATH) return socket.destroy();
      this.server.handleUpgrade(request, socket, head, (line) => this.greet(line));
    });
    this.bus.on('sync', ({ deviceId }) => void this.sync(deviceId).catch(this.report('sync')));
    this.bus.on('keep', ({ deviceId, hash }) => this.say(deviceId, { type: 'keep', hash }));
    this.bus.on('probe', (probe) => void this.probe(probe).catch(this.report('probe')));
    this.bus.on('command', ({ id, deviceId, name, target }) =>
      this.say(deviceId, { type: 'command', id, name, target }),
    );
    const beat = (): void => {
      this.checkPulse();
      this.beat = setTimeout(beat, BEAT_MS * (0.9 + Math.random() / 5));
    };
    this.beat = setTimeout(beat, BEAT_MS);
  }

  async close(): Promise<void> {
    this.closing = true;
    if (this.beat) clearTimeout(this.beat);
    const ids = [...this.lines.keys()];
    for (const { socket } of this.lines.values()) socket.terminate();
    this.server.close();
    if (ids.length > 0) await Device.update({ online: false, lineOwner: null }, { where: { id: ids } });
  }

  /** Number of lines this process holds. */
  get size(): number {
    return this.lines.size;
  }

  /** Has a device do something. @throws AppError when it is silent or does not answer. */
  async command(deviceId: string, name: 'locate' | 'ping', target: string): Promise<{ ok: boolean; text: string }> {
    const device = await Device.findByPk(deviceId);
    if (!device || device.siteId === null) throw unknown('device of ours');
    if (!device.online) throw new AppError('device.silent', `${device.name} is silent. Check its power and cable.`);
    const id = randomUUID();
    const answer = new Promise<{ ok: boolean; text: string } | null>((resolve) => {
      const timer = setTimeout(() => done(null), ANSWER_WITHIN_MS);
      const stop = this.bus.on('answer', (message) => {
        if (message.id === id) done({ ok: message.ok, text: message.text });
      });
      const done = (value: { ok: boolean; text: string } | null): void => {
        clearTimeout(timer);
        stop();
        resolve(value);
      };
    });
    await this.bus.send('command', { id, deviceId, name, target });
    const given = await answer;
    if (!given) throw new AppError('device.no-answer', `${device.name} did not answer within 5 s.`);
    return given;
  }

  /** Tells a stuck device its document again. */
  async retry(deviceId: string): Promise<void> {
    const [count] = await Device.update({ trouble: null }, { where: { id: deviceId } });
    if (count === 0) throw unknown('device');
    await this.bus.send('sync', { deviceId });
  }

  /** Lines that a process held which is no more: their devices have to call again. */
  private async forgetDeadLines(): Promise<void> {
    await this.database.query(
      `UPDATE device SET online = false, line_owner = NULL WHERE online AND (line_owner IS NULL OR line_owner = :own OR line_owner NOT IN
       (SELECT pid FROM pg_stat_activity WHERE application_name = :name AND datname = current_database()))`,
      { replacements: { name: LISTENER_NAME, own: this.bus.processId }, type: QueryTypes.UPDATE },
    );
  }

  private greet(socket: WebSocket): void {
    const nonce = randomBytes(32).toString('base64');
    const timer = setTimeout(() => socket.terminate(), PROOF_WITHIN_MS);
    let hello: Hello | null = null;
    socket.on('error', () => socket.terminate());
    socket.on('close', () => clearTimeout(timer));
    const hear = (data: Buffer): void => {
      const read = readDeviceFrame(data.toString());
      if (!read.ok) return refuse(socket, 'frame', read.reason);
      const { frame } = read;
      if (frame.type === 'hello' && hello === null) {
        const objection = checkHello(frame);
        if (objection) return refuse(socket, objection.code, objection.reason);
        hello = frame;
        socket.send(JSON.stringify({ type: 'challenge', nonce } satisfies ControllerFrame));
      } else if (frame.type === 'proof' && hello !== null) {
        if (!isProof(hello, nonce, frame.signature))
          return refuse(socket, 'proof', 'The signature does not fit the key.');
        clearTimeout(timer);
        socket.off('message', hear);
        socket.pause(); // nothing it says is read before its line is entered
        void this.enter(socket, hello).catch((error: unknown) => {
          this.report('enter')(error);
          socket.terminate();
        });
      } else refuse(socket, 'frame', `${frame.type} was not expected here.`);
    };
    socket.on('message', hear);
  }

  /** Records who is on the line, and brings the device into step. */
  private async enter(socket: WebSocket, hello: Hello): Promise<void> {
    const { serial, model, mac, firmware, key, runs } = hello;
    const known = await Device.findOne({ where: { serial } });
    if (known?.siteId && known.publicKey && known.publicKey !== key) {
      socket.resume();
      await known.update({ trouble: `A device with another key called as ${serial}. It was turned away.` });
      await note(this.database, null, 'line.wrong-key', { serial, key });
      await this.changed(known);
      return refuse(socket, 'key', 'This serial number belongs to a device with another key.');
    }
    const facts = {
      model,
      mac,
      firmware,
      publicKey: key,
      runs,
      applied: null,
      online: true,
      lineOwner: this.bus.processId,
      heardAt: new Date(),
    };
    // Whatever was wrong, it runs what it should now.
    const trouble = known && known.wants !== runs ? known.trouble : null;
    const device = known
      ? await known.update({ ...facts, trouble })
      : await Device.create({ id: randomUUID(), serial, ...facts });
    if (socket.readyState !== socket.OPEN || this.closing) {
      await device.update({ online: false, lineOwner: null });
      return;
    }
    this.lines.get(device.id)?.socket.terminate(); // the device called again: the old line is dead
    const line: Line = {
      socket,
      deviceId: device.id,
      alive: true,
      claimed: device.siteId !== null,
      queue: Promise.resolve(),
      waiting: 0,
    };
    this.lines.set(device.id, line);
    socket.on('pong', () => (line.alive = true));
    socket.on('message', (data: Buffer) => {
      line.alive = true;
      const read = readDeviceFrame(data.toString());
      if (!read.ok) return refuse(socket, 'frame', read.reason);
      this.enqueue(line, read.frame);
    });
    socket.on('close', () => void this.left(line).catch(this.report('left')));
    socket.resume();
    this.welcome(device);
    await this.changed(device);
    if (device.siteId !== null) await this.sync(device.id);
  }

  /** Has a frame dealt with after those before it, and stops reading a device that sends faster than that goes. */
  private enqueue(line: Line, frame: DeviceFrame): void {
    if (++line.waiting >= MOST_WAITING) line.socket.pause();
    line.queue = line.queue
      .then(() => this.hear(line.deviceId, frame))
      .catch(this.report('hear'))
      .finally(() => {
        if (--line.waiting < MOST_WAITING / 2 && line.socket.isPaused) line.socket.resume();
      });
  }

  private welcome(device: Device): void {
    const { reportSeconds } = this.options;
    this.say(device.id, { type: 'welcome', claimed: device.siteId !== null, reportSeconds });
  }

  private async left(line: Line): Promise<void> {
    if (this.lines.get(line.deviceId) !== line) return; // it called again meanwhile
    this.lines.delete(line.deviceId);
    if (this.closing) return;
    const device = await Device.findByPk(line.deviceId);
    if (!device || this.lines.has(line.deviceId)) return;
    await device.update({ online: false, lineOwner: null, applied: null });
    await this.changed(device);
  }

  private async hear(deviceId: string, frame: DeviceFrame): Promise<void> {
    const device = await Device.findByPk(deviceId);
    if (!device) return;
    switch (frame.type) {
      case 'report':
        await device.update({ report: frame.report, heardAt: new Date() });
        return this.changed(device);
      case 'applied':
        await device.update({ applied: frame.hash, heardAt: new Date() });
        await this.changed(device);
        // During a rollout the rollout says whether it may keep: others could have lost their way.
        if (!(await this.isBeingRolledOut(deviceId, frame.hash)))
          this.say(deviceId, { type: 'keep', hash: frame.hash });
        return;
      case 'kept':
        await device.update({ runs: frame.hash, applied: null, trouble: null, heardAt: new Date() });
        await this.changed(device);
        return this.sync(deviceId);
      case 'went-back':
      case 'refused': {
        const what = frame.type === 'refused' ? 'It refused its document' : 'It went back to what it ran before';
        await device.update({
          runs: frame.runs,
          applied: null,
          trouble: `${what}: ${frame.reason}.`,
          heardAt: new Date(),
        });
        return this.changed(device);
      }
      case 'answer':
        return this.bus.send('answer', { id: frame.id, ok: frame.ok, text: frame.text });
      case 'hello':
      case 'proof':
        return; // already said
    }
  }

  /** Sends a device what it should run, unless it runs it, has it on trial, or is stuck with it. */
  private async sync(deviceId: string): Promise<void> {
    const line = this.lines.get(deviceId);
    const device = line && (await Device.findByPk(deviceId));
    if (!device || device.siteId === null) return;
    const { wants, runs, applied, trouble } = device;
    if (!line.claimed) {
      line.claimed = true;
      this.welcome(device);
    }
    if (wants === null || wants === runs || wants === applied || trouble !== null) return;
    const row = await DocumentRow.findByPk(wants);
    if (!row) throw new Error(`document ${wants} is missing`);
    const secrets = await this.secrets.open(secretsOf(row.body));
    const { keepWithinSeconds } = this.options;
    this.say(deviceId, { type: 'document', hash: wants, document: row.body, secrets, keepWithinSeconds });
  }

  private async isBeingRolledOut(deviceId: string, hash: string): Promise<boolean> {
    const rows = await this.database.query(
      `SELECT 1 FROM rollout_step s JOIN rollout r ON r.id = s.rollout_id
       WHERE s.device_id = :deviceId AND s.hash = :hash AND s.state = 'telling' AND r.ended_at IS NULL`,
      { replacements: { deviceId, hash }, type: QueryTypes.SELECT },
    );
    return rows.length > 0;
  }

  /** Pings lines and says which devices answered in time. */
  private async probe({
    token,
    deviceIds,
    withinMs,
  }: {
    token: string;
    deviceIds: string[];
    withinMs: number;
  }): Promise<void> {
    const lines = deviceIds.flatMap((id) => this.lines.get(id) ?? []);
    const answers = await Promise.all(lines.map((line) => answersWithin(line, withinMs)));
    const answered = lines.filter((_, i) => answers[i]).map((line) => line.deviceId);
    if (lines.length > 0) await this.bus.send('probed', { token, deviceIds: answered });
  }

  private checkPulse(): void {
    for (const line of this.lines.values()) {
      if (!line.alive) line.socket.terminate();
      else {
        line.alive = false;
        line.socket.ping();
      }
    }
  }

  private say(deviceId: string, frame: ControllerFrame): void {
    const socket = this.lines.get(deviceId)?.socket;
    if (!socket || socket.readyState !== socket.OPEN) return;
    if (socket.bufferedAmount > MOST_UNSENT) socket.terminate();
    else socket.send(JSON.stringify(frame));
  }

  private changed(device: Device): Promise<void> {
    return this.bus.send('live', { type: 'device', siteId: device.siteId, deviceId: device.id });
  }

  private report(step: string): (error: unknown) => void {
    return (error) => {
      if (!this.closing) this.log.error({ err: error, step }, 'line');
    };
  }
}

function checkHello(hello: Hello): { code: string; reason: string } | null {
  if (hello.version !== LINE_VERSION)
    return {
      code: 'version',
      reason: `This controller speaks version ${LINE_VERSION} of the line, not ${hello.version}.`,
    };
  if (!sheetOf(hello.model)) return { code: 'model', reason: `There is no hardware sheet for model ${hello.model}.` };
  return null;
}

function isProof(hello: Hello, nonce: string, signature: string): boolean {
  try {
    const key = createPublicKey({ key: Buffer.from(hello.key, 'base64'), format: 'der', type: 'spki' });
    if (key.asymmetricKeyType !== 'ed25519') return false;
    return verify(null, Buffer.from(proofText(hello.serial, nonce)), key, Buffer.from(signature, 'base64'));
  } catch {
    return false; // bytes that are no key prove nothing
  }
}

function refuse(socket: WebSocket, code: string, reason: string): void {
  socket.send(JSON.stringify({ type: 'refusal', code, reason: reason.slice(0, 400) } satisfies ControllerFrame));
  socket.close(1008, code);
}

function answersWithin(line: Line, ms: number): Promise<boolean> {
  return new Promise((resolve) => {
    const timer = setTimeout(() => done(false), ms);
    const heard = (): void => done(true);
    const done = (answered: boolean): void => {
      clearTimeout(timer);
      line.socket.off('pong', heard);
      resolve(answered);
    };
    line.socket.on('pong', heard);
    line.socket.ping();
  });
}
