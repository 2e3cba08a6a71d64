import { policiesOf, secretsOf } from '@iron-lattice/core/document';
import type { ControllerFrame, DeviceFrame } from '@iron-lattice/core/line';
import type { Attributes, Sequelize } from 'sequelize';
import { Site } from '../intent/intent.model';
import type { SecretService } from '../intent/secret.service';
import type { Bus } from '../platform/bus';
import { Device, DocumentRow } from '../roster/device.model';
import { isBeingTold } from '../roster/in-rollout';
import type { Line } from './held-line';
import { Telling } from './telling';
import { clock } from '../platform/clock';

/** Devices that are told a document at the same time: others wait, so that these are answered in time. */
const MOST_TOLD = 64;
const TELLING_GRACE_MS = 3000;
/** How often a device that was not answered in time is told the same again, on one line. */
const MOST_UNANSWERED = 3;

/** What a device says of a document that it was told. */
type OfDocument = Extract<DeviceFrame, { readonly type: 'applied' | 'kept' | 'went-back' | 'refused' }>;
type WentBack = Extract<DeviceFrame, { readonly type: 'went-back' | 'refused' }>;

export function isOfDocument(frame: DeviceFrame): frame is OfDocument {
  return ['applied', 'kept', 'went-back', 'refused'].includes(frame.type);
}

/** Lines that this process holds. */
export interface Lines {
  readonly lineOf: (deviceId: string) => Line | undefined;
  readonly say: (deviceId: string, frame: ControllerFrame) => void;
  /** Says that it is ours, and how often it is to report. */
  readonly welcome: (device: Device) => void;
  /** A device that ran what nobody told it runs what it should. */
  readonly putRight: (line: Line) => Promise<void>;
  readonly failed: (error: unknown) => void;
}

/** What devices are told to run, and what they say of it. */
export class ToldDocuments {
  private readonly telling: Telling;

  constructor(
    private readonly database: Sequelize,
    private readonly secrets: SecretService,
    private readonly bus: Bus,
    private readonly keepWithinSeconds: number,
    private readonly to: Lines,
  ) {
    const patience = keepWithinSeconds * 1000 + TELLING_GRACE_MS;
    this.telling = new Telling(MOST_TOLD, patience, (id) => void this.sync(id).catch(to.failed));
  }

  /** Sends a device what it should run, unless it runs it, has it on trial, is stuck with it, or is being updated. */
  async sync(deviceId: string, urgent = false): Promise<void> {
    const line = this.to.lineOf(deviceId);
    const device = line && (await Device.findByPk(deviceId));
    if (!device || device.siteId === null) return;
    const { wants, runs, applied, trouble, updating } = device;
    if (!line.claimed) {
      line.claimed = true;
      this.to.welcome(device);
    }
    if (line.toldBack !== null && wants === runs) await this.to.putRight(line);
    if (!line.able || updating !== null || wants === null || wants === runs || wants === applied || trouble !== null)
      return;
    if (!this.telling.mayTell(deviceId, urgent)) return;
    const row = await DocumentRow.findByPk(wants);
    if (!row) throw new Error(`document ${wants} is missing`);
    const secrets = await this.secrets.open(secretsOf(row.body));
    this.to.say(deviceId, {
      type: 'document',
      hash: wants,
      document: row.body,
      secrets,
      keepWithinSeconds: this.keepWithinSeconds,
    });
  }

  /** A device took its document on trial, kept it, or did not. */
  async heard(line: Line, frame: OfDocument): Promise<void> {
    const { deviceId } = line;
    if (frame.type === 'applied') {
      if (line.applied?.hash !== frame.hash) line.applied = { hash: frame.hash, unanswered: 0 };
      if (!(await this.writeDown(line, { applied: frame.hash }))) return;
      // During a rollout the rollout says whether it may keep: others could have lost their way.
      if (!(await isBeingTold(this.database, deviceId, frame.hash)))
        this.to.say(deviceId, { type: 'keep', hash: frame.hash });
      return;
    }
    this.telling.through(deviceId);
    if (frame.type === 'kept') {
      const device = await Device.findByPk(deviceId, { attributes: ['siteId'] });
      const site = device?.siteId ? await Site.findByPk(device.siteId, { attributes: ['liveRevision'] }) : null;
      const facts = { runs: frame.hash, applied: null, trouble: null, runsRevision: site?.liveRevision ?? null };
      if (await this.writeDown(line, facts)) await this.sync(deviceId);
      return;
    }
    return this.heardAgainst(line, frame);
  }

  private async heardAgainst(line: Line, frame: WentBack): Promise<void> {
    if (await this.wasLate(line, frame)) {
      if (await this.writeDown(line, { runs: frame.runs, applied: null })) await this.sync(line.deviceId);
      return;
    }
    const what = frame.type === 'refused' ? 'It refused its document' : 'It went back to what it ran before';
    await this.writeDown(line, { runs: frame.runs, applied: null, trouble: `${what}: ${frame.reason}.` });
  }

  /**
   * Whether a device went back because it was we who were late: that it applied the document was heard on this very line, so its
   * way to us held. It is told again, a few times; in a rollout not to answer may be what was meant.
   */
  private async wasLate({ applied, deviceId }: Line, frame: WentBack): Promise<boolean> {
    if (frame.type !== 'went-back' || !frame.unanswered || applied?.hash !== frame.hash) return false;
    if (++applied.unanswered > MOST_UNANSWERED) return false;
    return !(await isBeingTold(this.database, deviceId, frame.hash));
  }

  /** It runs something else now, without being told. @returns whether it was written. */
  changed(line: Line, runs: string): Promise<boolean> {
    return this.writeDown(line, { runs });
  }

  /** Its line has ended. */
  gone(deviceId: string): void {
    this.telling.through(deviceId);
  }

  close(): void {
    this.telling.close();
  }

  /** The rules a device was told, by what it runs: of others it counts nothing. */
  async rulesOf(line: Line): Promise<ReadonlySet<string>> {
    const device = await Device.findByPk(line.deviceId, { attributes: ['runs'] });
    const hash = device?.runs ?? '';
    if (line.rules?.hash === hash) return line.rules.ids;
    const row = hash === '' ? null : await DocumentRow.findByPk(hash);
    const ids = new Set(row ? policiesOf(row.body).flatMap(({ rules }) => rules.map(({ id }) => id)) : []);
    line.rules = { hash, ids };
    return ids;
  }

  /**
   * Writes down what a device said on a line, while that is its line: if it has called again since, it has said anew what it
   * runs, and this is late.
   * @returns whether it was written.
   */
  private async writeDown(line: Line, facts: Partial<Attributes<Device>>): Promise<boolean> {
    const [count, [device]] = await Device.update(
      { ...facts, heardAt: clock.date() },
      { where: { id: line.deviceId, lineId: line.id }, returning: true },
    );
    if (count > 0) this.bus.changed(device!);
    return count > 0;
  }
}
