import { sign } from 'node:crypto';
import { hashOf, type DeviceDocument, type FirstUplink } from '@iron-lattice/core/document';
import {
  LINE_PATH,
  LINE_VERSION,
  proofText,
  readControllerFrame,
  type ControllerFrame,
  type DeviceFrame,
  type EntryTry,
  type ProbeTry,
  type Report,
} from '@iron-lattice/core/line';
import type { PortalClaim } from '@iron-lattice/core/guests';
import type { Exchange } from '@iron-lattice/core/radius';
import WebSocket from 'ws';
import { notAsked } from '../radius/server-question';
import type { World } from '../world/world';
import type { WorldDevice } from '../world/world-file';
import { Answers } from './answers';
import { DeviceStore, type KeptDocument } from './device-store';
import { Doorbell } from './doorbell';
import { HeldGuests } from './held-guests';
import { HeldRings } from './held-rings';
import { FIRST_SECRET, factoryDocument } from '../world/factory-document';
import { fetchFirmware } from './firmware-writer';

/** How long a device waits before it calls again, in milliseconds; doubled up to the most, with jitter. */
const CALL_AGAIN = { first: 250, most: 3000 } as const;

/** A device that hears nothing for this long, in milliseconds, takes its line for dead and calls again. */
const SILENCE_MS = 45_000;

/** How a device can be told to misbehave. */
export interface Mischief {
  /** Refuses every document with this reason. */
  refuse?: string | undefined;
  /** Presents itself with a key that is not its own. */
  wrongKey?: boolean | undefined;
  /** Milliseconds its clock is ahead; it does not let itself be set. */
  clockOff?: number | undefined;
  /** A release does not start, for this reason. */
  failUpdate?: string | undefined;
  /** Says that it runs this document. */
  strangeDocument?: string | undefined;
}

/** How long a restart takes, in milliseconds. */
const RESTART_MS = 700;
/** So that the answer gets out first. */
const FORGET_MS = 100;

/**
 * One box: calls home, proves who it is, applies documents on trial and keeps them when the controller still
 * answers, else goes back. While the world lets none of its frames through, its socket neither reads nor writes.
 */
export class Device {
  readonly mischief: Mischief = {};
  private readonly store: DeviceStore;
  private readonly rings: HeldRings;
  private readonly guests: HeldGuests;
  /** A key that is not its own, for mischief. */
  private readonly foreign: DeviceStore;
  private bootedAt = Date.now();
  private readonly answers: Answers;
  private readonly doorbell: Doorbell | null;
  /** What it says of a release that it could not start. */
  private failed: { release: string; reason: string } | undefined;
  private updating = false;
  private socket: WebSocket | null = null;
  private callAgain: NodeJS.Timeout | null = null;
  private wait: number = CALL_AGAIN.first;
  private silence: NodeJS.Timeout | null = null;
  /** Whether it is switched off, as it is at first. */
  private stopped = true;
  private claimed = false;
  private heard = false;
  private reportTimer: NodeJS.Timeout | null = null;
  private trial: { readonly document: KeptDocument; readonly timer: NodeJS.Timeout } | null = null;
  private cut = false;
  private outbox: DeviceFrame[] = [];
  private lastReport = '';
  private octets = { in: 0, out: 0 };

  /** Is told at which UDP port the controller answers who somebody is. */
  private readonly answered: (port: number | undefined) => void;

  constructor(
    readonly identity: WorldDevice,
    private readonly world: World,
    private readonly controllerUrl: string,
    stateFolder: string | null,
    options: {
      readonly sweepPort?: number;
      readonly invite?: (serial: string) => void;
      /** Asks a RADIUS server by the ways of its world. */
      readonly ask?: (serial: string, entry: EntryTry) => Promise<Exchange>;
      /** Has a box ask who a pretend client is. */
      readonly learn?: (serial: string, probe: ProbeTry) => Promise<void>;
      /** Judges a packet that ends or changes a session of a box. */
      readonly judge?: (serial: string, bytes: Uint8Array) => Uint8Array | null;
      /** The controller said at which UDP port it answers who somebody is; undefined: it does not. */
      readonly answered?: (serial: string, port: number | undefined) => void;
    } = {},
  ) {
    this.store = new DeviceStore(stateFolder, identity.serial);
    this.answered = (port) => options.answered?.(identity.serial, port);
    this.answers = new Answers(identity, world, {
      restart: (afterMs, forMs) => void setTimeout(() => this.restart(forMs), afterMs),
      forget: () => setTimeout(() => this.forget(), FORGET_MS),
      invite: (serial) => options.invite?.(serial),
      learn: async (probe) => options.learn?.(identity.serial, probe),
      ask: async (entry) =>
        (await options.ask?.(identity.serial, entry)) ?? notAsked('unreachable', 'It cannot ask servers.', null),
      judge: (bytes) => options.judge?.(identity.serial, bytes) ?? null,
      say: (frame) => this.say(frame),
    });
    this.doorbell =
      identity.waits && identity.at && options.sweepPort
        ? new Doorbell(
            identity,
            identity.at,
            options.sweepPort,
            () => this.runs !== null,
            (url) => this.invited(url),
          )
        : null;
    this.foreign = new DeviceStore(null, identity.serial);
    const { kept } = this.store;
    this.guests = new HeldGuests(identity.serial, world, (frame) => this.say(frame));
    this.rings = new HeldRings(identity.serial, world, this.store, (frame) => this.say(frame));
    if (kept) world.run(identity.serial, kept.document, kept.secrets);
    else if (this.store.first) this.runFactory();
  }

  get publicKey(): string {
    return this.store.publicKey;
  }
  /** Hash of the document it keeps; null in factory state. */
  get runs(): string | null {
    return this.store.kept?.hash ?? null;
  }

  /** Release it runs. */
  get firmware(): string {
    return this.store.firmware ?? this.identity.firmware;
  }

  /** Somebody told it where its controller is. @param url `ws://host:port`; absent: where it was made to call. */
  invited(url = this.controllerUrl): void {
    this.store.setInvited(url);
    if (!this.stopped) this.call();
  }

  /** Where a guest that it holds back is sent instead of a page; null where it was told of no portal. */
  wayIn = (who: Pick<PortalClaim, 'portal' | 'mac' | 'at'>, url: string): string | null =>
    this.guests.wayIn(this.store.privateKey, who, url);

  /** What it puts into the DHCP answer of a client that it holds (RFC 8910); null: nothing. */
  captiveUrl = (who: Pick<PortalClaim, 'portal' | 'mac'>): string | null =>
    this.guests.captiveUrl(this.store.privateKey, who);

  /** Does what a box does that no controller told anything: what was said at its own page, and else as it came. */
  private runFactory(): void {
    const { first } = this.store;
    const secrets: Record<string, string> = first?.login ? { [FIRST_SECRET]: first.login.password } : {};
    this.world.run(this.identity.serial, factoryDocument(this.identity, first), secrets);
  }

  /** What somebody said at its own page of how it comes to an address. */
  get first(): FirstUplink<string> | undefined {
    return this.store.first;
  }

  /** Whether a controller answers it. */
  get isHeard(): boolean {
    return this.heard;
  }

  /** Somebody says at its own page how it comes to an address; undefined: as it came. Nothing of that is heard once a controller told it something. */
  sayFirst(first: FirstUplink<string> | undefined): void {
    if (this.runs !== null || this.trial) throw new Error(`${this.identity.serial} does what its controller says`);
    this.store.setFirst(first);
    this.runFactory();
    // It calls as what it is now.
    this.wait = CALL_AGAIN.first;
    this.socket?.terminate();
    this.call();
  }

  /** Ends its line as a bad cable would; it calls again. */
  stumble(): void {
    this.wait = CALL_AGAIN.first;
    this.socket?.terminate();
  }

  start(): void {
    this.stopped = false;
    this.bootedAt = Date.now();
    this.doorbell?.open();
    this.surroundingsChanged();
    this.call();
  }

  stop(): void {
    this.stopped = true;
    this.claimed = false;
    if (this.callAgain) clearTimeout(this.callAgain);
    if (this.trial) this.goBack('the device was switched off');
    this.doorbell?.close();
    this.stopReports();
    this.socket?.terminate();
    this.socket = null;
  }

  /** Looks again whether frames get through, and reports what changed around it. */
  surroundingsChanged(): void {
    const cut = !this.world.reachesController(this.identity.serial);
    if (cut !== this.cut) {
      this.cut = cut;
      if (cut) this.socket?.pause();
      else {
        this.socket?.resume();
        this.flush();
        if (!this.socket && !this.stopped) this.call();
      }
    }
    if (this.claimed && !cut) this.report(false);
  }

  /** Whom it calls. */
  private get calls(): string {
    return this.store.invited ?? this.controllerUrl;
  }

  private get keyShown(): DeviceStore {
    return this.mischief.wrongKey ? this.foreign : this.store;
  }

  private call(): void {
    if (this.callAgain) clearTimeout(this.callAgain);
    this.callAgain = null;
    if (this.stopped || this.socket || this.cut) return;
    if (this.identity.waits && this.store.invited === undefined) return;
    const socket = new WebSocket(`${this.calls}${LINE_PATH}`, {
      perMessageDeflate: false,
      handshakeTimeout: 10_000,
    });
    this.socket = socket;
    socket.on('open', () => this.hello());
    const heard = (): void => this.listenOn(socket);
    heard();
    socket.on('ping', heard);
    socket.on('message', (data: Buffer) => {
      heard();
      this.hear(data.toString());
    });
    socket.on('error', () => {}); // always followed by close
    socket.on('close', () => {
      if (this.socket !== socket) return;
      this.socket = null;
      this.claimed = false;
      this.heard = false;
      this.outbox = [];
      this.stopReports();
      if (this.stopped) return;
      this.callAgain = setTimeout(() => this.call(), this.wait * (0.5 + Math.random() / 2));
      this.wait = Math.min(this.wait * 2, CALL_AGAIN.most);
    });
  }

  /** Gives the controller another while to be heard. */
  private listenOn(socket: WebSocket): void {
    if (this.silence) clearTimeout(this.silence);
    this.silence = setTimeout(() => socket.terminate(), SILENCE_MS).unref();
  }

  private hello(): void {
    const { serial, model, mac } = this.identity;
    const { firmware, failed } = this;
    const key = this.keyShown.publicKey;
    const runs = this.mischief.strangeDocument ?? this.runs;
    const clock = this.clock();
    this.failed = undefined;
    this.say({
      type: 'hello',
      version: LINE_VERSION,
      serial,
      model,
      mac,
      firmware,
      key,
      runs,
      clock,
      ...(failed ? { failed } : {}),
    });
  }

  private hear(text: string): void {
    this.octets.in += text.length;
    this.answers.passed('in', text.length);
    const read = readControllerFrame(text);
    if (!read.ok) return this.socket?.close(1002, read.reason.slice(0, 100));
    this.obey(read.frame);
  }

  private obey(frame: ControllerFrame): void {
    switch (frame.type) {
      case 'challenge': {
        const proof = sign(null, Buffer.from(proofText(this.identity.serial, frame.nonce)), this.keyShown.privateKey);
        const first = this.runs === null && this.store.first ? { first: this.store.first } : {};
        return this.say({ type: 'proof', signature: proof.toString('base64'), ...first });
      }
      case 'welcome':
        this.wait = CALL_AGAIN.first;
        this.claimed = frame.claimed;
        this.heard = true;
        this.answered(frame.entry);
        if (!frame.claimed) return;
        this.rings.sayAll();
        this.guests.welcomed(frame);
        return this.startReports(frame.reportSeconds);
      case 'refusal':
        this.wait = CALL_AGAIN.most;
        return;
      case 'document':
        return this.tryOut(frame);
      case 'ring':
        return this.rings.take(frame);
      case 'guests':
        return this.guests.take(frame);
      case 'tell-back':
        return this.tellBack(frame.hash);
      case 'keep':
        return this.keep(frame.hash);
      case 'command':
        return void this.answers.obey(frame);
      case 'cancel':
        return this.answers.cancel(frame.id);
      case 'firmware':
        return void this.update(frame);
    }
  }

  /** Applies a document whole, on trial. */
  private tryOut(frame: Extract<ControllerFrame, { type: 'document' }>): void {
    const { hash, document, secrets, keepWithinSeconds } = frame;
    // The controller may have restarted and not know that it is on trial already.
    if (this.trial && this.trial.document.hash !== hash) this.goBack('another document came before this one was kept');
    const refusal = this.objection(frame);
    if (refusal !== null) return this.say({ type: 'refused', hash, runs: this.runs, reason: refusal });
    if (hash === this.runs) return this.say({ type: 'kept', hash });
    if (this.trial) clearTimeout(this.trial.timer);
    const seconds = `${keepWithinSeconds} s`;
    const timer = setTimeout(
      () => this.goBack(`the controller did not answer within ${seconds} of applying the document`, true),
      keepWithinSeconds * 1000,
    );
    this.trial = { document: { hash, document, secrets }, timer };
    this.world.run(this.identity.serial, document, secrets);
    this.say({ type: 'applied', hash });
  }

  private objection({ hash, document, secrets }: Extract<ControllerFrame, { type: 'document' }>): string | null {
    if (this.mischief.refuse !== undefined) return this.mischief.refuse;
    if (document.device.serial !== this.identity.serial) return `the document is for ${document.device.serial}`;
    if (hashOf(document) !== hash) return 'the document does not match its hash';
    if (
      document.kind === 'ap' &&
      document.ssids.some(({ passphrase, former }) =>
        [passphrase, former?.passphrase].some((ref) => ref && !(ref.secret in secrets)),
      )
    )
      return 'a passphrase is missing';
    return null;
  }

  /** Somebody changes at the box itself what it does, past its controller. @param change of the document it keeps. */
  changeByHand(change: (document: DeviceDocument) => DeviceDocument): void {
    const { kept } = this.store;
    if (!kept) throw new Error(`${this.identity.serial} is in factory state`);
    const document = change(kept.document);
    const changed = { ...kept, document, hash: hashOf(document) };
    this.store.keep(changed);
    this.world.run(this.identity.serial, document, changed.secrets);
    if (this.claimed) this.say({ type: 'changed', hash: changed.hash });
    this.report(true);
  }

  private tellBack(hash: string): void {
    const { kept } = this.store;
    if (kept?.hash === hash) this.say({ type: 'told-back', hash, document: kept.document });
  }

  private keep(hash: string): void {
    if (this.trial?.document.hash !== hash) return;
    clearTimeout(this.trial.timer);
    this.store.keep(this.trial.document);
    this.trial = null;
    this.say({ type: 'kept', hash });
    this.rings.sayAll();
    this.report(true);
  }

  private goBack(reason: string, unanswered = false): void {
    if (!this.trial) return;
    const { hash } = this.trial.document;
    clearTimeout(this.trial.timer);
    this.trial = null;
    this.outbox = this.outbox.filter((frame) => frame.type !== 'applied');
    const { kept } = this.store;
    if (kept) this.world.run(this.identity.serial, kept.document, kept.secrets);
    else this.runFactory();
    this.say({ type: 'went-back', hash, runs: this.runs, reason, ...(unanswered ? { unanswered } : {}) });
  }

  private clock(): number {
    return Date.now() + (this.mischief.clockOff ?? 0);
  }

  /** Off and on again: whatever hangs on it loses its way meanwhile. */
  private restart(forMs = RESTART_MS): void {
    if (this.stopped) return;
    const { serial } = this.identity;
    this.stop();
    this.world.power(serial, false);
    setTimeout(() => {
      this.world.power(serial, true);
      this.start();
    }, forMs);
  }

  /** Back to what it was out of the carton, key and firmware apart. */
  private forget(): void {
    if (this.trial) clearTimeout(this.trial.timer);
    this.trial = null;
    this.store.keep(null);
    this.mischief.strangeDocument = undefined;
    this.store.setFirst(undefined);
    this.runFactory();
    this.claimed = false;
    this.wait = CALL_AGAIN.first;
    this.socket?.terminate();
  }

  /** Fetches a release, writes it beside the one that runs, and restarts with it; one that does not start is left. */
  private async update(order: Extract<ControllerFrame, { type: 'firmware' }>): Promise<void> {
    if (this.updating) return;
    this.updating = true;
    const { id, release } = order;
    const say = (percent: number, restarting: boolean): void =>
      this.say({ type: 'firmware-progress', id, percent, restarting });
    try {
      await fetchFirmware(order, this.calls, (percent) => say(percent, false));
      say(100, true);
      const reason = this.mischief.failUpdate;
      if (reason === undefined) this.store.setFirmware(release);
      else this.failed = { release, reason };
      setTimeout(() => this.restart(), FORGET_MS);
    } catch (error) {
      this.say({ type: 'firmware-failed', id, reason: error instanceof Error ? error.message : String(error) });
    } finally {
      this.updating = false;
    }
  }

  private startReports(seconds: number): void {
    this.stopReports();
    this.report(true);
    const next = (): void => {
      this.report(true);
      this.reportTimer = setTimeout(next, seconds * (900 + Math.random() * 200));
    };
    this.reportTimer = setTimeout(next, Math.random() * seconds * 1000);
  }

  private stopReports(): void {
    if (this.reportTimer) clearTimeout(this.reportTimer);
    this.reportTimer = null;
    this.lastReport = '';
  }

  /** @param always also when nothing but time and counters changed. */
  private report(always: boolean): void {
    if (!this.claimed) return;
    const { serial } = this.identity;
    const mesh = this.world.meshOf(serial);
    const [tunnel, landings] = [this.world.tunnelOf(serial), this.world.landingsOf(serial)];
    const unknown = this.world.unknownOf(serial);
    const paths = this.world.pathsOf(serial);
    const servers = this.world.namer.serversOf(this.world.box(serial));
    const around = {
      address: this.world.addressOf(serial),
      neighbours: this.world.neighboursOf(serial),
      uplinks: this.world.uplinksOf(serial),
      clients: this.world.clientsOf(serial),
      wired: this.world.wiredOf(serial),
      leases: this.world.leasesOf(serial),
      ports: this.world.portsOf(serial),
      ...(unknown.length > 0 ? { unknown } : {}),
      ...(servers.length > 0 ? { servers } : {}),
      ...(paths ? { paths } : {}),
      ...(this.world.box(serial).document.kind === 'ap'
        ? {
            radios: this.world.air.reportsOf(serial),
            refused: this.world.refusedOf(serial),
            ...(mesh ? { mesh } : {}),
            ...(tunnel ? { tunnel } : {}),
            ...(landings.length > 0 ? { landings } : {}),
          }
        : {}),
    };
    this.guests.look();
    // What is measured of uplinks moves all the time, and is told with the rest.
    const told = paths?.uplinks.map(({ port, state, used, since }) => [port, state, used, since]);
    const tunnels = paths?.tunnels?.map(({ peer, up, by, since }) => [peer, up, by, since]);
    const text = JSON.stringify({ ...around, paths: told, tunnels });
    if (!always && text === this.lastReport) return;
    this.lastReport = text;
    const port = around.uplinks.find((uplink) => uplink.up)?.port ?? around.neighbours[0]?.port;
    const counters = port === undefined ? [] : [{ port, inOctets: this.octets.in, outOctets: this.octets.out }];
    const uptime = Math.round((Date.now() - this.bootedAt) / 1000);
    const hits = this.world.hitsOf(serial);
    const notes = this.world.notesOf(serial);
    const taken = this.world.sittings.takenAt(serial);
    const report: Report = {
      ...around,
      uptime,
      counters,
      clock: this.clock(),
      ...(hits.length > 0 ? { hits } : {}),
      ...(taken.length > 0 ? { taken } : {}),
      ...(notes.length > 0 ? { notes } : {}),
    };
    this.say({ type: 'report', report });
  }

  /** Sends now, or when frames get through again; the same as a TCP connection would. */
  private say(frame: DeviceFrame): void {
    this.outbox.push(frame);
    this.flush();
  }

  private flush(): void {
    if (this.cut || this.socket?.readyState !== WebSocket.OPEN) return;
    for (const frame of this.outbox.splice(0)) {
      const text = JSON.stringify(frame);
      this.octets.out += text.length;
      this.answers.passed('out', text.length);
      this.socket.send(text);
    }
  }
}
