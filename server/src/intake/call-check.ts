import { holdsLine } from '@iron-lattice/core/firmware';
import { sheetOf, type HardwareSheet } from '@iron-lattice/core/hardware';
import { CLOCK_TOLERANCE_MS, FLAPPING, flaps, spanWords, type HitchCode } from '@iron-lattice/core/intake';
import type { DeviceFrame } from '@iron-lattice/core/line';
import { Op, QueryTypes, type Sequelize } from 'sequelize';
import type { CatalogueService } from '../roster/catalogue.service';
import type { Refusal } from '../line/line-listener';
import { Device, fingerprintOf } from '../roster/device.model';
import type { DriftService } from './drift.service';
import type { HitchService } from './hitch.service';
import type { SheetService } from './sheet.service';

type Hello = Extract<DeviceFrame, { type: 'hello' }>;

/** In all, as many as this many addresses may have. */
const STRANGERS_IN_ALL = 16;

type Settle = (code: HitchCode) => Promise<void>;

const isRight = (clock: number, now: number): boolean => Math.abs(clock - now) <= CLOCK_TOLERANCE_MS;

/** Looks at a device that calls: whether it may come in, and what is odd about it. What is, becomes a hitch. */
export class CallCheck {
  /** @param strangersAnAddress devices that nobody announced which may wait from one address. */
  constructor(
    private readonly database: Sequelize,
    private readonly strangersAnAddress: number,
    private readonly sheets: SheetService,
    private readonly catalogue: CatalogueService,
    private readonly hitches: HitchService,
    private readonly drift: DriftService,
  ) {}

  /** A device that speaks another version cannot prove who it is: nothing is said of a device of ours for it. */
  async version({ serial }: Hello, from: string, reason: string): Promise<void> {
    await this.hitches.raiseOfStranger('version', `${serial} (unproven)`, from, `${serial} called. ${reason}`);
  }

  /**
   * Whether a device that proved itself may come in, before anything of it is written down.
   * @param known its row, if it called before or was announced.
   * @param from where it calls from.
   */
  async admits(
    hello: Hello,
    known: Device | null,
    from: string,
  ): Promise<Refusal | { readonly sheet: HardwareSheet | null }> {
    const refusal = await this.key(hello, known);
    if (refusal) return refusal;
    const stranger = known === null || (known.siteId === null && known.expectedSiteId === null);
    if (stranger && !(await this.hasRoom(known, from)))
      return { code: 'busy', reason: 'Too many devices that nobody announced call from here. Announce this one.' };
    const { model, serial } = hello;
    if (sheetOf(model)) return { sheet: null };
    const sheet = await this.sheets.find(model);
    if (sheet) return { sheet };
    const reason = `There is no hardware sheet for model ${model}.`;
    const text = `${serial} called. ${reason}`;
    if (stranger) await this.hitches.raiseOfStranger('model', serial, from, text, { model });
    else await this.hitches.raise('model', { serial, deviceId: known.id }, text, { model });
    return { code: 'model', reason };
  }

  /** Whether one more device that is nobody's may wait: so many from one address, so many in all. */
  private async hasRoom(known: Device | null, from: string): Promise<boolean> {
    if (known !== null) return true; // it has its row
    const [row] = await this.database.query<{ here: number; all: number }>(
      `SELECT count(*) FILTER (WHERE called_from = :from)::int AS here, count(*)::int AS all
       FROM device WHERE site_id IS NULL AND expected_site_id IS NULL`,
      { replacements: { from }, type: QueryTypes.SELECT },
    );
    const { here, all } = row!;
    const most = this.strangersAnAddress;
    if (here < most && all < most * STRANGERS_IN_ALL) return true;
    await this.hitches.flood(
      from,
      here >= most
        ? `More devices that nobody announced call from ${from} than may wait at once (${most}). Others from there are turned away.`
        : `More devices that nobody announced call than may wait at once (${most * STRANGERS_IN_ALL}), some from ${from}. Others are turned away.`,
    );
    return false;
  }

  private async key(hello: Hello, known: Device | null): Promise<Refusal | null> {
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
    if (!(await this.drift.look(device, hello.runs))) await settle('hash');
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

  /** A device of ours said what is not taken. @param what happened, to follow “It …”. */
  async unreadable(serial: string, deviceId: string, what: string): Promise<void> {
    await this.hitches.raise('frame', { serial, deviceId }, `${what.slice(0, 300)}. It was not taken.`);
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
}
