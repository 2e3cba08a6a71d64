import { differenceOf, hashOf, type DeviceDocument } from '@iron-lattice/core/document';
import type { DriftView } from '@iron-lattice/core/assess';
import type { ControllerFrame, DeviceFrame } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { DraftService } from '../intent/draft.service';
import type { Speaker } from '../line/line-listener';
import { unknown } from '../platform/app-error';
import type { Heavy } from '../platform/heavy';
import { Device } from '../roster/device.model';
import type { RosterService } from '../roster/roster.service';
import type { HitchService } from './hitch.service';

type ToldBack = Extract<DeviceFrame, { type: 'told-back' }>;

/**
 * Devices that run something nobody here sent: somebody changed them past this controller. Nothing is told to one before a person
 * has seen what it runs, and either has it put right or has taken the change over into a draft. What a device does by itself within
 * what it was told leaves its document as it is, and is none of this.
 */
export class DriftService {
  constructor(
    private readonly database: Sequelize,
    private readonly rosters: RosterService,
    private readonly drafts: DraftService,
    private readonly hitches: HitchService,
    private readonly heavy: Heavy,
    private readonly say: (deviceId: string, frame: ControllerFrame) => void,
  ) {}

  /** Looks at what a device says that it runs. @returns whether nobody here sent it. */
  async look(device: Device, runs: string | null): Promise<boolean> {
    if (device.siteId === null || runs === null || !(await this.isForeign(runs, device.wants))) return false;
    await device.update({ trouble: reasonOf(runs) });
    await this.hitches.raise('hash', { serial: device.serial, deviceId: device.id }, reasonOf(runs));
    return true;
  }

  private async isForeign(runs: string, wants: string | null): Promise<boolean> {
    return (await this.rosters.changedByHand([{ runs, wants }])).length > 0;
  }

  /** Asks a device what it runs, where nobody here sent it. */
  ask({ id, runs, trouble }: Device): void {
    if (runs !== null && trouble === reasonOf(runs)) this.say(id, { type: 'tell-back', hash: runs });
  }

  /** Somebody changed at the device itself what it runs, or changed it back. */
  async changed({ deviceId }: Speaker): Promise<void> {
    const device = await Device.findByPk(deviceId);
    if (!device) return;
    if (await this.look(device, device.runs)) return this.ask(device);
    // What else is wrong with it stays: a document that it refused is not told again for this.
    if (device.trouble?.startsWith(REASON)) await device.update({ trouble: null });
    await this.over(device);
  }

  /** It says what it runs. Kept when it is that indeed, and a document for this device. */
  async toldBack({ deviceId, serial }: Speaker, { hash, document }: ToldBack): Promise<void> {
    const device = await Device.findByPk(deviceId);
    if (!device || device.runs !== hash) return; // it runs something else by now
    const flaw = flawOf(document, hash, device);
    if (flaw !== null)
      return this.hitches.raise('frame', { serial, deviceId }, `It told back ${flaw}. It was not taken.`);
    await this.database.query(
      `INSERT INTO drift (device_id, hash, body) VALUES (:deviceId, :hash, :body)
       ON CONFLICT (device_id) DO UPDATE SET hash = :hash, body = :body, at = now()`,
      { replacements: { deviceId, hash, body: JSON.stringify(document) } },
    );
  }

  /** It keeps what it was told: whatever was wrong with it is gone. */
  async over({ id, serial }: { readonly id: string; readonly serial: string }): Promise<void> {
    await this.database.query('DELETE FROM drift WHERE device_id = :id', { replacements: { id } });
    await this.hitches.settle('hash', serial);
  }

  /**
   * What somebody changed at a device, and which edits of the draft people work in would have it so; null where it runs what
   * somebody here sent.
   */
  async of(deviceId: string): Promise<DriftView | null> {
    const device = await Device.findByPk(deviceId);
    if (!device) throw unknown('device');
    const { runs, wants, siteId } = device;
    if (siteId === null || runs === null || !(await this.isForeign(runs, wants))) return null;
    const [row] = await this.database.query<{ hash: string; body: DeviceDocument; at: Date }>(
      'SELECT hash, body, at FROM drift WHERE device_id = :deviceId',
      { replacements: { deviceId }, type: QueryTypes.SELECT },
    );
    const told = wants === null ? undefined : (await this.rosters.documents([wants])).get(wants);
    if (row?.hash !== runs || !told) return { hash: runs, at: null, difference: null, operations: [], left: [] };
    const { intent, roster } = await this.drafts.recent();
    const found = await this.heavy
      .run('take-over', {
        intent: { estate: intent.estate, sites: new Map([[siteId, intent.sites.get(siteId)!]]) },
        roster: roster.filter((each) => each.siteId === siteId && !each.expected),
        deviceId,
        told,
        runs: row.body,
      })
      .catch(() => null); // it holds what no document holds
    return {
      hash: runs,
      at: row.at.toISOString(),
      ...(found ?? { difference: null, operations: [], left: [] }),
    };
  }
}

const REASON = 'It runs a document that nobody here sent';
const reasonOf = (runs: string): string => `${REASON} (${runs.slice(0, 16)}…).`;

/** Why what a device told back is not taken; null when it is. */
function flawOf(document: DeviceDocument, hash: string, device: Device): string | null {
  try {
    if (hashOf(document) !== hash) return 'a document that does not match its hash';
    if (document.device.serial !== device.serial) return 'a document of another device';
    if (document.kind !== device.hardware?.kind) return 'a document of another kind of device';
    if (JSON.stringify(document).includes('\\u0000')) return 'a document that cannot be kept';
    differenceOf(null, document);
    return null;
  } catch {
    return 'something that is no document';
  }
}
