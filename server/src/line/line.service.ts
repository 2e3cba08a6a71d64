import { randomUUID } from 'node:crypto';
import type { IncomingMessage, Server } from 'node:http';
import { sameValue } from '@iron-lattice/core/base';
import { checkFirst } from '@iron-lattice/core/intent';
import { CLOCK_TOLERANCE_MS, FLAPPING } from '@iron-lattice/core/intake';
import {
  LINE_PATH,
  readDeviceFrame,
  type ControllerFrame,
  type DeviceFrame,
  type Report,
  type EntryTry,
} from '@iron-lattice/core/line';
import { setTimeout as pause } from 'node:timers/promises';
import type { Logger } from 'pino';
import type { Attributes, Sequelize } from 'sequelize';
import { WebSocketServer, type WebSocket } from 'ws';
import { Device, DocumentRow } from '../roster/device.model';
import type { CablingService } from '../roster/cabling.service';
import type { SecretService } from '../intent/secret.service';
import { unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { clock } from '../platform/clock';
import { later } from '../platform/held-connection';
import { isConnectionLost, isPoolBusy } from '../platform/connection-loss';
import { Gate } from '../platform/gate';
import { greet, refuse, type Hello, type Proven } from './greeting';
import { answersWithin, heldLine, noteAsked, pauseOf, type Line } from './held-line';
import type { CommandService } from './command.service';
import type { LineListener } from './line-listener';
import { LineListeners } from './line-listeners';
import { LineRows } from './line-rows';
import { ReportBook } from './report-book';
import { isOfDocument, ToldDocuments } from './told-documents';
import { UnprovenCallers } from './unproven-callers';

const FRAME_LIMIT = 1_000_000;
/** After so long it is tried again to tell the database which lines there are. */
const HOLD_AGAIN_MS = 1000;
/** Frames of one device that may wait to be dealt with; beyond it the device is not read until they are. */
const MOST_WAITING = 32;
/** Frames that a device may send which are not taken from it, before its line is ended. */
const MOST_UNTAKEN = 32;
/** Devices that are entered at the same time: others wait, so that these are answered in time. */
const MOST_ENTERING = 16;
/** Bytes that may wait to be sent to one device; a device that does not take more than that is let go. */
const MOST_UNSENT = 4_000_000;

export interface LineOptions {
  readonly keepWithinSeconds: number;
  readonly reportSeconds: number;
  /** How often lines are tried, and what the database says of them is held against what there is. */
  readonly beatSeconds: number;
}

/** The controller's end of the device line: who calls, what they run, and what they are told. */
export class LineService {
  private readonly lines = new Map<string, Line>();
  private readonly server = new WebSocketServer({ noServer: true, perMessageDeflate: false, maxPayload: FRAME_LIMIT });
  private beat: NodeJS.Timeout | null = null;
  private closing = false;
  private readonly book: ReportBook;
  private readonly documents: ToldDocuments;
  private readonly entering = new Gate(MOST_ENTERING);
  private readonly listeners = new LineListeners();
  private readonly unproven = new UnprovenCallers();
  private readonly rows: LineRows;
  /** How often the bus was away since what was told meanwhile was looked up. */
  private unheard = 0;
  /** Where else the controller answers: who somebody is (a UDP port), and where guests sign in. */
  answers: Pick<Extract<ControllerFrame, { type: 'welcome' }>, 'entry' | 'portal'> = {};
  /** While the database is told which lines there are. */
  private holding: Promise<void> | null = null;
  private again: NodeJS.Timeout | null = null;

  constructor(
    database: Sequelize,
    private readonly secrets: SecretService,
    private readonly commands: CommandService,
    private readonly cabling: CablingService,
    private readonly bus: Bus,
    private readonly options: LineOptions,
    private readonly log: Logger,
  ) {
    this.rows = new LineRows(database, bus);
    this.documents = new ToldDocuments(database, secrets, bus, options.keepWithinSeconds, {
      lineOf: (deviceId) => this.lines.get(deviceId),
      say: (deviceId, frame) => this.say(deviceId, frame),
      welcome: (device) => this.welcome(device),
      putRight: (line) => {
        line.toldBack = null;
        return this.listeners.tell('putRight', line);
      },
      failed: this.report('sync'),
    });
    this.book = new ReportBook(
      database,
      (devices) => {
        for (const device of devices) {
          this.bus.changed(device);
          if (device.cabling && device.siteId !== null) this.cabling.refresh(device.siteId);
        }
      },
      (deviceId, error) => this.misreported(deviceId, error),
      this.report('report'),
    );
  }

  /** Says whom to tell; before lines are taken. */
  listen(listener: LineListener): void {
    this.listeners.add(listener);
  }

  /** Says devices where else the controller answers; those that called before hear it too. */
  answersAt(more: LineService['answers']): void {
    const next = { ...this.answers, ...more };
    if (sameValue(next, this.answers)) return;
    this.answers = next;
    for (const { deviceId, claimed } of this.lines.values())
      if (claimed) this.welcome({ id: deviceId, siteId: deviceId });
  }

  /** What a device reported cannot be kept. */
  misreported(deviceId: string, error: unknown): void {
    this.report('report')(error);
    const line = this.lines.get(deviceId);
    if (line) void this.listeners.tell('untaken', line, 'Its report cannot be kept').catch(this.report('bad'));
  }

  /** Whether this process holds a device's line. */
  holds(deviceId: string): boolean {
    return this.lines.has(deviceId);
  }

  /** Takes lines on an HTTP server and messages from the other controllers. */
  async attach(
    http: Server,
    isOurs: (host: string) => boolean,
    addressOf: (request: IncomingMessage) => string,
  ): Promise<void> {
    await this.rows.forgetDead();
    http.on('upgrade', (request, socket, head) => {
      socket.on('error', () => socket.destroy()); // nobody else listens yet: a caller that is gone would end the process
      // Devices name no origin (RFC 6454 §7); a page of some site would.
      const { origin, host = '' } = request.headers;
      if (request.url !== LINE_PATH || origin !== undefined || !isOurs(host)) return socket.destroy();
      const from = addressOf(request);
      if (!this.unproven.hasRoom(from))
        return socket.end('HTTP/1.1 503 Service Unavailable\r\nRetry-After: 5\r\nConnection: close\r\n\r\n');
      this.server.handleUpgrade(request, socket, head, (line) => this.greet(line, from));
    });
    this.bus.on(
      'sync',
      ({ deviceId, urgent }) => void this.documents.sync(deviceId, urgent).catch(this.report('sync')),
    );
    this.bus.on('keep', ({ deviceId, hash }) => this.say(deviceId, { type: 'keep', hash }));
    this.bus.on('probe', (probe) => void this.probe(probe).catch(this.report('probe')));
    this.bus.on('command', ({ deviceId, sealed, ...command }) => {
      const { unseal } = this.secrets;
      const entry = sealed ? (JSON.parse(unseal(command.id, Buffer.from(sealed, 'base64'))) as EntryTry) : null;
      this.say(deviceId, { type: 'command', ...command, ...(entry ? { entry } : {}) });
    });
    this.bus.on('cancel', ({ id, deviceId }) => this.say(deviceId, { type: 'cancel', id }));
    this.bus.on('drop', ({ deviceId }) => this.lines.get(deviceId)?.socket.terminate());
    this.bus.onReopened(() => {
      this.unheard++;
      void this.holdLines();
    });
    const beatMs = this.options.beatSeconds * 1000;
    const beat = (): void => {
      this.checkPulse();
      void this.holdLines();
      this.beat = setTimeout(beat, beatMs * (0.9 + Math.random() / 5));
    };
    this.beat = setTimeout(beat, beatMs);
  }

  async close(): Promise<void> {
    this.closing = true;
    if (this.beat) clearTimeout(this.beat);
    if (this.again) clearTimeout(this.again);
    const held = [...this.lines.values()];
    for (const { socket } of held) socket.terminate();
    this.server.close();
    this.documents.close();
    await this.book.close();
    await this.holding;
    await this.rows.left(held); // not those that have called elsewhere since
  }

  /** Number of lines this process holds. */
  get size(): number {
    return this.lines.size;
  }

  /** Tells a stuck device its document again. */
  async retry(deviceId: string): Promise<void> {
    const [count] = await Device.update({ trouble: null }, { where: { id: deviceId } });
    if (count === 0) throw unknown('device');
    await this.bus.send('sync', { deviceId });
  }

  private greet(socket: WebSocket, from: string): void {
    const through = this.unproven.enter(from);
    socket.on('close', through);
    const stranger = (hello: Hello, reason: string): void =>
      void this.listeners.tell('stranger', hello, from, reason).catch(this.report('version'));
    const proven = (hello: Proven): Promise<void> => {
      through();
      return this.entering.run(() => this.enter(socket, hello, from));
    };
    greet(socket, stranger, proven, this.report('greet'));
  }

  /**
   * What the database says of our lines is what there is; and where the bus was away, what was told meanwhile is looked up.
   * What cannot be done now is tried again soon.
   */
  private holdLines(): Promise<void> {
    this.holding ??= this.sayHeld()
      .catch((error: unknown) => {
        this.report('hold')(error);
        if (!this.closing && this.again === null)
          this.again = later(HOLD_AGAIN_MS, () => {
            this.again = null;
            void this.holdLines();
          });
      })
      .finally(() => (this.holding = null));
    return this.holding;
  }

  private async sayHeld(): Promise<void> {
    await this.rows.leaveLate();
    const { unheard } = this;
    const held = [...this.lines.values()].filter(({ socket }) => socket.readyState === socket.OPEN);
    const mended = await this.rows.hold(held).finally(() => {
      // One that ended meanwhile may have been written down as held after it was written down as gone.
      this.rows.owe(held.filter((line) => this.lines.get(line.deviceId) !== line));
    });
    await this.rows.leaveLate();
    for (const deviceId of unheard > 0 ? this.lines.keys() : mended.map(({ id }) => id))
      await this.documents.sync(deviceId);
    this.unheard -= unheard;
    if (this.unheard > 0) await this.sayHeld();
  }

  /** Records who is on the line, and brings the device into step. */
  private async enter(socket: WebSocket, hello: Proven, from: string): Promise<void> {
    const { serial, model, mac, firmware, key, runs } = hello;
    const now = clock.now();
    const known = await Device.findOne({ where: { serial } });
    const admitted = await this.listeners.admits(hello, known, from);
    if ('code' in admitted) {
      socket.resume();
      return refuse(socket, admitted.code, admitted.reason);
    }
    const { sheet } = admitted;
    const lineId = randomUUID();
    const calls = [...(known?.calls ?? []), now].filter((at) => now - at < FLAPPING.withinMs).slice(-FLAPPING.calls);
    const facts = {
      model,
      mac,
      firmware,
      sheet,
      publicKey: key,
      runs,
      applied: null,
      online: true,
      lineOwner: this.bus.processId,
      lineId,
      heardAt: new Date(now),
      calls,
      calledFrom: from,
    };
    // Whatever was wrong, it runs what it should now.
    const trouble = known && known.wants !== runs ? known.trouble : null;
    const device = known
      ? await enterAgain(known.id, { ...facts, trouble })
      : await Device.create({ id: randomUUID(), serial, ...facts });
    if (socket.readyState !== socket.OPEN || this.closing) {
      await Device.update({ online: false, lineOwner: null }, { where: { id: device.id, lineId } });
      return;
    }
    this.lines.get(device.id)?.socket.terminate(); // the device called again: the old line is dead
    const of = { id: lineId, socket, deviceId: device.id, serial, claimed: device.siteId !== null };
    const line = heldLine(of, now);
    this.lines.set(device.id, line);
    socket.on('pong', () => (line.alive = true));
    socket.on('message', (data: Buffer) => {
      line.alive = true;
      const read = readDeviceFrame(data.toString());
      if (!read.ok) {
        if (line.claimed)
          void this.listeners
            .tell('untaken', line, `It said what cannot be read (${read.reason})`)
            .catch(this.report('unreadable'));
        return refuse(socket, 'frame', read.reason);
      }
      this.enqueue(line, read.frame, data.length);
    });
    socket.on('close', () => void this.left(line).catch(this.report('left')));
    // What it says meanwhile waits in its queue: first things first.
    line.queue = this.entering.run(() => this.entered(line, device, hello, now)).catch(this.report('entered'));
    socket.resume();
  }

  /** What follows from a call: hitches, how an update went, being taken in, its document. */
  private async entered(line: Line, device: Device, hello: Proven, now: number): Promise<void> {
    if (hello.runs === null) await this.sayFirst(line, device, hello);
    line.able = await this.listeners.called(device, hello, now);
    this.welcome(device);
    this.bus.changed(device);
    await this.listeners.tell('welcomed', device);
    if (device.siteId !== null) return this.documents.sync(device.id);
    // It was released or replaced while it was away, and still runs what we told it.
    if (hello.runs !== null && (await DocumentRow.count({ where: { hash: hello.runs } })) > 0)
      return this.say(device.id, { type: 'command', id: randomUUID(), name: 'forget', target: '' });
    if (device.expectedSiteId !== null && line.able) await this.listeners.tell('expected', device);
  }

  /** A box in factory state: what somebody said at its own page of how it comes to an address is taken where it can be so. */
  private async sayFirst(line: Line, device: Device, { first }: Proven): Promise<void> {
    const [flaw] = first
      ? checkFirst({ model: device.model, ...(device.sheet ? { sheet: device.sheet } : {}) }, first)
      : [];
    if (flaw && line.claimed)
      await this.listeners.tell('untaken', line, `It calls by an uplink that cannot be (${flaw.message})`);
    await this.listeners.tell('first', device, flaw ? null : (first ?? null));
  }

  /** Has a frame dealt with after those before it, and stops reading a device that sends faster than that goes. */
  private enqueue(line: Line, frame: DeviceFrame, octets: number): void {
    const wait = pauseOf(line, octets);
    if (++line.waiting >= MOST_WAITING || wait > 0) line.socket.pause();
    line.queue = line.queue
      .then(() => this.hear(line, frame))
      .catch((error: unknown) => {
        this.report('hear')(error);
        // What it said was not taken: it calls again, and says what it runs.
        if (isConnectionLost(error) || isPoolBusy(error)) line.socket.terminate();
      })
      .then(() => (wait > 0 ? pause(wait, undefined, { ref: false }) : undefined))
      .finally(() => {
        if (--line.waiting < MOST_WAITING / 2 && line.socket.isPaused) line.socket.resume();
      });
  }

  private welcome({ id, siteId }: Pick<Device, 'id' | 'siteId'>): void {
    const { reportSeconds } = this.options;
    this.say(id, { type: 'welcome', claimed: siteId !== null, reportSeconds, now: clock.now(), ...this.answers });
  }

  private async left(line: Line): Promise<void> {
    if (this.lines.get(line.deviceId) !== line) return; // it called again meanwhile
    this.lines.delete(line.deviceId);
    this.documents.gone(line.deviceId);
    this.book.forget(line.deviceId);
    await this.listeners.tell('left', line);
    if (this.closing) return;
    await this.rows.left([line]);
  }

  private async hear(line: Line, frame: DeviceFrame): Promise<void> {
    if (frame.type === 'answer') {
      if (line.asked.delete(frame.id)) return this.commands.answered(frame);
      return this.untaken(line);
    }
    if (frame.type === 'firmware-progress' || frame.type === 'firmware-failed') {
      if (line.asked.get(frame.id) !== 'firmware') return this.untaken(line);
      return this.listeners.tell('firmware', line, frame);
    }
    if (!line.claimed) return this.untaken(line);
    if (frame.type === 'report') return this.hearReport(line, frame.report);
    if (frame.type === 'progress') {
      const name = line.asked.get(frame.id);
      if (name === 'sweep') return this.listeners.tell('progress', frame);
      if (name === 'scan') return this.listeners.tell('scanning', frame);
      return this.untaken(line);
    }
    if (frame.type === 'changed') return this.hearChanged(line, frame.hash);
    if (frame.type === 'told-back') {
      if (frame.hash !== line.toldBack) return this.untaken(line);
      return this.listeners.tell('toldBack', line, frame);
    }
    if (frame.type === 'guests-ask' || frame.type === 'guests-told') return this.listeners.tell('guests', line, frame);
    if (frame.type === 'ring-at') return this.listeners.tell('ringAt', line, frame);
    if (isOfDocument(frame)) return this.documents.heard(line, frame);
    frame satisfies Extract<DeviceFrame, { readonly type: 'hello' | 'proof' }>; // said already
  }

  /** What nobody asked for, or is not the device's to say now, is not taken; one that goes on with it is let go. */
  private untaken(line: Line): void {
    if (++line.untaken > MOST_UNTAKEN) refuse(line.socket, 'claim', 'None of this was asked for.');
  }

  /** Somebody changed at the device itself what it runs. */
  private async hearChanged(line: Line, runs: string): Promise<void> {
    if (!(await this.documents.changed(line, runs))) return;
    await this.listeners.tell('changed', line);
    await this.documents.sync(line.deviceId);
  }

  private async hearReport(line: Line, report: Report): Promise<void> {
    const now = clock.now();
    this.book.take(line.deviceId, report, now);
    await this.listeners.tell('reported', line, report, () => this.documents.rulesOf(line));
    if (report.clock === undefined) return;
    const right = Math.abs(report.clock - now) <= CLOCK_TOLERANCE_MS;
    if (right !== line.clockRight) await this.listeners.tell('clock', line, report.clock, now);
    line.clockRight = right;
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

  /** Says something on a device's line, if this process holds it. */
  say(deviceId: string, frame: ControllerFrame): void {
    const line = this.lines.get(deviceId);
    if (!line) return;
    const { socket } = line;
    noteAsked(line, frame);
    if (socket.readyState !== socket.OPEN) return;
    if (socket.bufferedAmount > MOST_UNSENT) socket.terminate();
    else socket.send(JSON.stringify(frame));
  }

  private report(step: string): (error: unknown) => void {
    return (error) => {
      if (!this.closing) this.log.error({ err: error, step }, 'line');
    };
  }
}

/** Writes every fact, also one that was the same when the row was read: a line that ends may have changed it since. */
async function enterAgain(id: string, facts: Partial<Attributes<Device>>): Promise<Device> {
  const [, [device]] = await Device.update(facts, { where: { id }, returning: true });
  return device!;
}
