import { formatPrefix, parseIp, parsePrefix, sizeOf, contains } from '@iron-lattice/core/address';
import { BANDS } from '@iron-lattice/core/hardware';
import type { ControllerFrame, DeviceFrame, ProbeTry, SweepFind } from '@iron-lattice/core/line';
import type { World } from '../world/world';
import type { WorldDevice } from '../world/world-file';
import type { Exchange } from '@iron-lattice/core/radius';
import type { EntryTry } from '@iron-lattice/core/line';
import { Tap } from './tap';

type Command = Extract<ControllerFrame, { type: 'command' }>;
type Answer = Omit<Extract<DeviceFrame, { type: 'answer' }>, 'type' | 'id'>;

/** Addresses a gateway looks at before it says how far it is; and how long that takes. */
const SWEEP = { chunk: 512, ms: 60 } as const;
const RESTART_MS = 300;

/** What a device can do to itself when it is told. */
export interface Self {
  /** @param forMs how long it is without power; absent: as long as a start takes. */
  restart(afterMs: number, forMs?: number): void;
  forget(): void;
  /** Has another device of this world call the controller. */
  invite(serial: string): void;
  /** Has it asked who a pretend client is, where that decides what it gets. */
  learn(probe: ProbeTry): Promise<void>;
  /** Judges a packet that ends or changes a session; null: it says nothing. */
  judge(bytes: Uint8Array): Uint8Array | null;
  /** Asks a RADIUS server. */
  ask(entry: EntryTry): Promise<Exchange>;
  say(frame: DeviceFrame): void;
}

/** Does what the controller asks, one command at a time or several. */
export class Answers {
  private tap: Tap | null = null;
  private readonly cancelled = new Set<string>();

  constructor(
    private readonly identity: WorldDevice,
    private readonly world: World,
    private readonly self: Self,
  ) {}

  /** A message on the line passed, for a capture under way. */
  passed(direction: 'in' | 'out', length: number): void {
    this.tap?.line(direction, length);
  }

  cancel(id: string): void {
    this.cancelled.add(id);
  }

  /** Has a command done; the answer is said when it is. */
  async obey(command: Command): Promise<void> {
    const answer = await this.answerTo(command);
    this.cancelled.delete(command.id);
    this.self.say({ type: 'answer', id: command.id, ...answer });
    if (command.name === 'restart') this.self.restart(RESTART_MS);
    if (command.name === 'forget') this.self.forget();
  }

  private async answerTo({
    id,
    name,
    target,
    seconds,
    probe,
    speed,
    entry,
    octets,
    mishaps,
    busy,
  }: Command): Promise<Answer> {
    const { serial } = this.identity;
    switch (name) {
      case 'locate':
        return { ok: true, text: 'The locate light blinks for 60 s.' };
      case 'restart':
        return { ok: true, text: 'It restarts.' };
      case 'forget':
        return { ok: true, text: 'It forgets its document and starts as from the factory.' };
      case 'ping':
        return this.ping(target);
      case 'trace':
        return this.trace(target);
      case 'lookup': {
        const found = this.world.asking.lookUp(serial, target);
        return found.address
          ? { ok: true, text: `${target} is ${found.address}, says ${found.server}.` }
          : { ok: false, text: found.server ? `${found.server} knows no ${target}.` : 'No name server answers.' };
      }
      case 'probe':
        if (!probe) return { ok: false, text: 'Nothing to try.' };
        await this.self.learn(probe);
        return this.world.asking.try(serial, probe, target);
      case 'capture':
        return this.capture(target, seconds ?? 5);
      case 'sweep':
        return this.sweep(id, target);
      case 'speed':
        return speed ? this.world.trySpeed(this.identity.serial, speed) : { ok: false, text: 'Nothing to try.' };
      case 'authenticate': {
        if (!entry) return { ok: false, text: 'Nothing to ask.' };
        const exchange = await this.self.ask(entry);
        return { ok: exchange.end === 'accepted', text: exchange.why, exchange };
      }
      case 'session': {
        const answer = this.self.judge(new Uint8Array(Buffer.from(octets ?? '', 'base64')));
        if (!answer) return { ok: false, text: 'It does not believe who wants that, and says nothing.' };
        return { ok: true, text: '', octets: Buffer.from(answer).toString('base64') };
      }
      case 'disconnect':
        return this.world.disconnect(this.identity.serial, target)
          ? { ok: true, text: `${target} was sent away.` }
          : { ok: false, text: `${target} is not here.` };
      case 'scan':
        return this.scan(id, target);
      case 'bring-back': {
        const paths = this.world.paths.of(this.world.box(serial));
        if (!paths) return { ok: false, text: 'It has no uplinks.' };
        paths.bringBack();
        return {
          ok: true,
          text: `It leaves by ${
            paths
              .used()
              .map(({ port }) => port)
              .join(', ') || 'none'
          }.`,
        };
      }
      case 'drill': {
        const paths = this.world.paths.of(this.world.box(serial));
        if (!paths || !mishaps) return { ok: false, text: 'Nothing to play.' };
        const unknown = mishaps.find(({ what, port }) => what !== 'off' && !paths.has(port));
        if (unknown) return { ok: false, text: `It has no uplink ${unknown.port}.` };
        this.world.paths.drills.play(serial, mishaps, (seconds) => this.self.restart(0, seconds * 1000));
        return { ok: true, text: 'It plays what was sent, and ends by itself.' };
      }
      case 'capacity': {
        const paths = this.world.paths.of(this.world.box(serial));
        const capacity = paths?.capacityOf(target);
        if (!capacity)
          return { ok: false, text: `Nothing gets through ${target} now, so that nothing can be measured.` };
        if (busy) {
          const shares = paths!.playBusy(target, busy, capacity);
          if (typeof shares === 'string') return { ok: false, text: shares };
          return { ok: true, text: `${shares.length} VLANs were busy.`, shares };
        }
        return { ok: true, text: `${capacity.down} Mb/s down, ${capacity.up} up.`, capacity };
      }
      case 'invite': {
        const box = this.world.seenFrom(serial).find((each) => each.address === target);
        if (!box) return { ok: false, text: `Nobody answers at ${target} any more.` };
        this.self.invite(box.device.serial);
        return { ok: true, text: `${target} calls.` };
      }
    }
  }

  private ping(target: string): Answer {
    const { serial } = this.identity;
    const address = parseIp(target) ? target : this.world.asking.lookUp(serial, target).address;
    if (!address) return { ok: false, text: `The name ${target} is not known.` };
    const ok = this.world.asking.ping(serial, address);
    this.tap?.ping(address, ok);
    const shown = address === target ? target : `${target} (${address})`;
    return { ok, text: ok ? `${shown} answers.` : `${shown} does not answer.` };
  }

  private trace(target: string): Answer {
    const { serial } = this.identity;
    const address = parseIp(target) ? target : this.world.asking.lookUp(serial, target).address;
    if (!address) return { ok: false, text: `The name ${target} is not known.` };
    const { hops, arrived } = this.world.asking.trace(serial, address);
    const lines = hops.map((hop, i) => `${i + 1}  ${hop}`);
    if (!arrived) lines.push(`${hops.length + 1}  nobody answers`);
    return { ok: arrived, text: lines.join('\n') };
  }

  private async capture(port: string, seconds: number): Promise<Answer> {
    if (this.tap) return { ok: false, text: 'Another capture is under way.' };
    const { serial, mac } = this.identity;
    this.tap = new Tap(this.world, serial, mac, port);
    await pause(seconds * 1000);
    const packets = this.tap.end();
    this.tap = null;
    return { ok: true, text: `${packets.length} frames.`, packets };
  }

  /** @param target bands, with commas. */
  private async scan(id: string, target: string): Promise<Answer> {
    const bands = BANDS.filter((band) => target.split(',').includes(band));
    const scan = await this.world.air.scan(this.identity.serial, bands, (done, of) => {
      this.self.say({ type: 'progress', id, done, of });
      return !this.cancelled.has(id) && this.world.isPowered(this.identity.serial);
    });
    if (!scan) return { ok: false, text: 'It did not scan to the end.' };
    return { ok: true, text: `${scan.networks.length} networks.`, scan };
  }

  private async sweep(id: string, text: string): Promise<Answer> {
    const prefix = parsePrefix(text);
    if (prefix?.version !== 4) return { ok: false, text: `${text} is no prefix.` };
    const { serial } = this.identity;
    const total = Number(sizeOf(4, prefix.length));
    const seen = this.world.seenFrom(serial).filter(({ address }) => contains(prefix, parseIp(address)!));
    const findsIn = (from: number, to: number): SweepFind[] =>
      seen.flatMap(({ address, device }) => {
        const offset = Number(parseIp(address)!.value - prefix.network);
        if (offset < from || offset >= to || device.serial === serial) return [];
        const { model, mac, firmware } = device;
        return [{ address, serial: device.serial, model, mac, firmware }];
      });
    for (let done = 0; done < total; done += SWEEP.chunk) {
      if (this.cancelled.has(id)) return { ok: false, text: `${formatPrefix(prefix)} was not swept to the end.` };
      await pause(SWEEP.ms);
      const to = Math.min(total, done + SWEEP.chunk);
      this.self.say({ type: 'progress', id, done: to, of: total, found: findsIn(done, to) });
    }
    return { ok: true, text: `${total} addresses.`, found: findsIn(0, total) };
  }
}

const pause = (ms: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, ms));
