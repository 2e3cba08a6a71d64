import { generateKeyPairSync, randomBytes, sign, type KeyObject } from 'node:crypto';
import type { FirstUplink } from '@iron-lattice/core/document';
import { claimText, packWord, wordText, type DeviceWord, type PortalClaim } from '@iron-lattice/core/guests';
import { proofText, readControllerFrame, type ControllerFrame, type DeviceFrame } from '@iron-lattice/core/line';
import WebSocket from 'ws';

type FrameOf<T extends ControllerFrame['type']> = Extract<ControllerFrame, { type: T }>;

/** A device in the hands of a test: it says what the test says, and keeps what it hears. */
export class TestDevice {
  private readonly key = generateKeyPairSync('ed25519');
  private readonly heard: ControllerFrame[] = [];
  private socket!: WebSocket;
  private wake = (): void => {};
  closed = false;
  firmware = '1.0.0';
  /** What was said at its own page; undefined: nothing. */
  first: FirstUplink<string> | undefined;

  constructor(
    private readonly url: string,
    readonly serial: string,
    readonly model = 'SW-8P',
    readonly mac = '02:00:00:00:00:01',
  ) {}

  get publicKey(): string {
    return this.key.publicKey.export({ format: 'der', type: 'spki' }).toString('base64');
  }

  /** Opens the line and says nothing yet. */
  async dial(): Promise<void> {
    this.closed = false;
    const socket = new WebSocket(`${this.url.replace('http', 'ws')}/line`);
    this.socket = socket;
    this.socket.on('message', (data: Buffer) => {
      const read = readControllerFrame(data.toString());
      if (!read.ok) throw new Error(read.reason);
      this.heard.push(read.frame);
      this.wake();
    });
    this.socket.on('close', () => {
      if (this.socket !== socket) return; // an earlier line
      this.closed = true;
      this.wake();
    });
    await new Promise((resolve, reject) => this.socket.once('open', resolve).once('error', reject));
  }

  /** Opens the line, proves itself, and waits to be welcomed. */
  async call(
    runs: string | null = null,
    signer: KeyObject = this.key.privateKey,
    more: object = {},
  ): Promise<FrameOf<'welcome'>> {
    await this.prove(runs, signer, more);
    return this.next('welcome');
  }

  /** Opens the line, proves itself, and waits to be turned away. */
  async turnedAway(more: object = {}): Promise<FrameOf<'refusal'>> {
    await this.prove(null, this.key.privateKey, more);
    const refusal = await this.next('refusal');
    await this.untilClosed();
    return refusal;
  }

  private async prove(runs: string | null, signer: KeyObject, more: object): Promise<void> {
    await this.dial();
    this.hello(runs, more);
    const { nonce } = await this.next('challenge');
    this.say({
      type: 'proof',
      signature: sign(null, Buffer.from(proofText(this.serial, nonce)), signer).toString('base64'),
      ...(runs === null && this.first ? { first: this.first } : {}),
    });
  }

  hello(runs: string | null = null, more: object = {}): void {
    const { serial, model, mac } = this;
    const { firmware, publicKey: key } = this;
    this.say({ type: 'hello', version: 1, serial, model, mac, firmware, key, runs, ...more });
  }

  say(frame: DeviceFrame): void {
    this.socket.send(JSON.stringify(frame));
  }

  raw(text: string): void {
    this.socket.send(text);
  }

  /** Waits for the next frame of a type; others before it are dropped. */
  async next<T extends ControllerFrame['type']>(type: T, withinMs = 20_000): Promise<FrameOf<T>> {
    const deadline = Date.now() + withinMs;
    for (;;) {
      const frame = this.heard.shift();
      if (frame?.type === type) return frame as FrameOf<T>;
      if (frame) continue;
      if (this.closed) throw new Error(`the line closed before ${type}`);
      if (Date.now() > deadline) throw new Error(`no ${type} within ${withinMs} ms`);
      await this.change(deadline);
    }
  }

  /** Waits for a document of a site: what was told before may be told once more. */
  async documentOf(site: string): Promise<FrameOf<'document'>['document']> {
    for (;;) {
      const { document } = await this.next('document');
      if (document.site.name === site) return document;
    }
  }

  async untilClosed(): Promise<void> {
    while (!this.closed) await this.change(Date.now() + 20_000);
  }

  /** Takes the document it is told and keeps it. @returns its hash. */
  async comply(): Promise<string> {
    const { hash } = await this.next('document');
    this.say({ type: 'applied', hash });
    await this.next('keep');
    this.say({ type: 'kept', hash });
    return hash;
  }

  /**
   * From now on takes every document and keeps it, unless it has a reason to refuse.
   * @param refuses why, if so. @param asked what is done with commands.
   */
  async obey(
    refuses: (document: FrameOf<'document'>['document']) => string | null = () => null,
    asked: (command: FrameOf<'command' | 'cancel'>) => void = () => {},
  ): Promise<void> {
    let runs: string | null = null;
    for (;;) {
      const frame = this.heard.shift();
      if (frame?.type === 'document') {
        const reason = refuses(frame.document);
        if (reason === null) this.say({ type: 'applied', hash: frame.hash });
        else this.say({ type: 'refused', hash: frame.hash, runs, reason });
      } else if (frame?.type === 'keep') {
        runs = frame.hash;
        this.say({ type: 'kept', hash: frame.hash });
      } else if (frame?.type === 'command' || frame?.type === 'cancel') asked(frame);
      else if (this.closed) return;
      else if (!frame) await this.change(Date.now() + 60_000);
    }
  }

  /** Word of a guest that it holds, as it sends browsers to the portal with. @param signer whose key it is signed with. */
  wordOf(claim: Partial<PortalClaim>, signer: KeyObject = this.key.privateKey): string {
    const whole = { serial: this.serial, said: Date.now(), nonce: randomBytes(16).toString('hex'), ...claim };
    const payload = Buffer.from(JSON.stringify(whole)).toString('base64url');
    return `${payload}.${sign(null, Buffer.from(claimText(payload)), signer).toString('base64url')}`;
  }

  /** What it puts into the DHCP answer of a client that it holds. */
  captiveWord(word: Omit<DeviceWord, 'serial'>, signer: KeyObject = this.key.privateKey): string {
    const payload = Buffer.from(packWord({ serial: this.serial, ...word })).toString('base64url');
    return `${payload}.${sign(null, Buffer.from(wordText(payload)), signer).toString('base64url')}`;
  }

  hangUp(): void {
    this.socket.terminate();
  }

  private change(deadline: number): Promise<void> {
    return new Promise((resolve) => {
      const timer = setTimeout(resolve, Math.max(1, deadline - Date.now()));
      this.wake = () => {
        clearTimeout(timer);
        resolve();
      };
    });
  }
}
