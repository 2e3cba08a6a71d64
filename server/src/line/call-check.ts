import { holdsLine } from '@iron-lattice/core/firmware';
import { sheetOf, type HardwareSheet } from '@iron-lattice/core/hardware';
import { CLOCK_TOLERANCE_MS, FLAPPING, flaps, spanWords, type HitchCode } from '@iron-lattice/core/intake';
import { LINE_VERSION, type DeviceFrame } from '@iron-lattice/core/line';
import { Op } from 'sequelize';
import type { CatalogueService } from '../firmware/catalogue.service';
import { Device, DocumentRow, fingerprintOf } from '../intake/device.model';
import type { HitchService } from '../intake/hitch.service';
import type { SheetService } from '../intake/sheet.service';

type Hello = Extract<DeviceFrame, { type: 'hello' }>;

type Settle = (code: HitchCode) => Promise<void>;

const isRight = (clock: number, now: number): boolean => Math.abs(clock - now) <= CLOCK_TOLERANCE_MS;

/** Why a device is not let in. */
export interface Refusal {
  readonly code: string;
  readonly reason: string;
}

/** Looks at a device that calls: whether it may come in, and what is odd about it. What is, becomes a hitch. */
export class CallCheck {
  constructor(
    private readonly sheets: SheetService,
    private readonly catalogue: CatalogueService,
    private readonly hitches: HitchService,
  ) {}

  /** Before it has to prove itself. */
  async hello(hello: Hello): Promise<Refusal | { readonly sheet: HardwareSheet | null }> {
    const { serial, model, version } = hello;
    if (version !== LINE_VERSION) {
      const reason = `This controller speaks version ${LINE_VERSION} of the line, not ${version}.`;
      await this.hitches.raise('version', { serial }, `${serial} called. ${reason}`);
      return { code: 'version', reason };
    }
    if (sheetOf(model)) return { sheet: null };
    const sheet = await this.sheets.find(model);
    if (sheet) return { sheet };
    const reason = `There is no hardware sheet for model ${model}.`;
    await this.hitches.raise('model', { serial }, `${serial} called. ${reason}`, { model });
    return { code: 'model', reason };
  }

  /** After it proved itself, before anything of it is written down. */
  async key(hello: Hello, known: Device | null): Promise<Refusal | null> {
    if (!known) return null;
    const { serial, key } = hello;
    const fingerprint = fingerprintOf(key);
    const claimed = known.siteId !== null && known.publicKey !== null && known.publicKey !== key;
    const announced = known.siteId === null && known.expectedKey !== null && known.expectedKey !== fingerprint;
    if (!claimed && !announced) return null;
    const other = claimed ? fingerprintOf(known.publicKey!) : known.expectedKey!;
    await this.hitches.raise(
      'key',
      { serial, deviceId: known.id },
      `A device called as ${serial} with the key ${fingerprint}; ${claimed ? 'ours has' : 'its label says'} ${other}. It was turned away.`,
      { key },
    );
    return { code: 'key', reason: 'This serial number belongs to a device with another key.' };
  }

  /**
   * Once its row is up to date.
   * @returns whether it may be told documents: one too old for the line is only updated.
   */
  async called(device: Device, hello: Hello, now: number): Promise<boolean> {
    const who = { serial: device.serial, deviceId: device.id };
    const open = await this.hitches.openOf(device.serial);
    const settle = async (code: HitchCode): Promise<void> => {
      if (open.has(code)) await this.hitches.settle(code, device.serial);
    };
    await settle('model');
    await settle('version');
    if (flaps(device.calls, now))
      await this.hitches.raise(
        'flapping',
        who,
        `It called ${device.calls.length} times within ${spanWords(now - Math.min(...device.calls))}; its line does not hold.`,
        { within: String(FLAPPING.withinMs) },
      );
    await this.twins(device, settle);
    await this.document(device, hello.runs, settle);
    if (hello.clock !== undefined && !isRight(hello.clock, now))
      await this.clock(device.serial, device.id, hello.clock, now);
    else await settle('clock');
    const releases = await this.catalogue.releases();
    if (holdsLine(releases, device.model, device.firmware)) {
      await settle('firmware');
      return true;
    }
    await this.hitches.raise(
      'firmware',
      who,
      `It runs ${device.firmware}, which is too old to hold the line: it understands no documents of today.`,
    );
    return false;
  }

  /** @returns whether the clock is right. */
  async clock(serial: string, deviceId: string, clock: number, now: number): Promise<boolean> {
    const off = clock - now;
    if (isRight(clock, now)) {
      await this.hitches.settle('clock', serial);
      return true;
    }
    const way = off > 0 ? 'ahead' : 'behind';
    await this.hitches.raise(
      'clock',
      { serial, deviceId },
      `Its clock is ${spanWords(off)} ${way}; schedules and logs mislead.`,
    );
    return false;
  }

  private async twins(device: Device, settle: Settle): Promise<void> {
    const twin = await Device.findOne({
      where: {
        mac: device.mac,
        id: { [Op.ne]: device.id },
        [Op.or]: [{ online: true }, { siteId: { [Op.ne]: null } }],
      },
    });
    if (!twin) return settle('mac');
    for (const [one, other] of [
      [device, twin],
      [twin, device],
    ] as const)
      await this.hitches.raise(
        'mac',
        { serial: one.serial, deviceId: one.id },
        `It and ${other.name ?? other.serial} both say that their MAC address is ${device.mac}; cables and leases cannot be told apart.`,
      );
  }

  private async document(device: Device, runs: string | null, settle: Settle): Promise<void> {
    if (device.siteId === null) return;
    if (runs === null || runs === device.wants || (await DocumentRow.count({ where: { hash: runs } })) > 0)
      return settle('hash');
    const reason = `It runs a document that nobody here sent (${runs.slice(0, 16)}…).`;
    await device.update({ trouble: reason });
    await this.hitches.raise('hash', { serial: device.serial, deviceId: device.id }, reason);
  }
}
