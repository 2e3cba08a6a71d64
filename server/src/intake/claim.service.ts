import { randomUUID } from 'node:crypto';
import { flaw, type Flaw } from '@iron-lattice/core/base';
import { holdsLine, newestOf, updateSteps } from '@iron-lattice/core/firmware';
import { nameDevices, type ExpectRequest, type ExpectedDevice } from '@iron-lattice/core/intake';
import { Op, type Sequelize, type Transaction } from 'sequelize';
import type { CatalogueService } from '../roster/catalogue.service';
import type { UpdateStarter } from '../roster/update-offer';
import { Site } from '../intent/intent.model';
import type { IntentService } from '../intent/intent.service';
import { AppError, unknown } from '../platform/app-error';
import type { Bus } from '../platform/bus';
import { changeIntent } from '../platform/database';
import { note } from '../platform/journal';
import { later } from '../platform/held-connection';
import { Device, fingerprintOf } from '../roster/device.model';
import { Hitch } from './hitch.model';
import type { HitchService } from './hitch.service';
import type { RosterService } from '../roster/roster.service';
import { clock } from '../platform/clock';

/** Expected devices that call within this time are claimed together. */
const GATHER_MS = 80;
/** What a claim leaves of an announcement: nothing. */
const NOT_EXPECTED = {
  expectedSiteId: null,
  expectedName: null,
  expectedModel: null,
  expectedMac: null,
  expectedKey: null,
  expectedBy: null,
  expectedAt: null,
} as const;

interface ClaimPlan {
  readonly devices: readonly Device[];
  readonly names: readonly string[];
}

/** Taking devices in: by hand, or with nobody touching them when they were expected. */
export class ClaimService {
  private readonly gathered = new Map<string, Set<string>>();
  private timer: NodeJS.Timeout | null = null;
  private closed = false;

  constructor(
    private readonly database: Sequelize,
    private readonly intents: IntentService,
    private readonly rosters: RosterService,
    private readonly hitches: HitchService,
    private readonly catalogue: CatalogueService,
    private readonly updates: UpdateStarter,
    private readonly bus: Bus,
    private readonly failed: (error: unknown) => void,
  ) {
    for (const code of ['claim', 'other-model', 'other-mac'] as const)
      hitches.onRetry(code, async ({ deviceId }) => {
        const device = deviceId === null ? null : await Device.findByPk(deviceId);
        if (!device?.expectedSiteId) throw unknown('expected device');
        await device.update({ expectedModel: null, expectedMac: null });
        await this.claim(device.expectedSiteId, [device.serial], device.expectedBy, true);
      });
    for (const code of ['mac', 'frame', 'flood', 'version'] as const) hitches.onRetry(code, () => Promise.resolve());
    hitches.onRetry('key', async ({ serial, detail }) => {
      const key = detail?.['key'];
      const device = await Device.findOne({ where: { serial } });
      if (!device || !key) throw unknown('device');
      await device.update({ publicKey: key, expectedKey: null });
      await this.bus.send('drop', { deviceId: device.id });
    });
    hitches.onRetry('firmware', async ({ deviceId }, personId) => {
      await this.updates.startNow([deviceId!], personId);
    });
    hitches.onRetry('clock', async ({ deviceId }) => this.bus.send('drop', { deviceId: deviceId! }));
    hitches.onRetry('flapping', async ({ deviceId }) => {
      await Device.update({ calls: [] }, { where: { id: deviceId! } });
    });
    hitches.onRetry('hash', async ({ deviceId }) => {
      await Device.update({ trouble: null }, { where: { id: deviceId! } });
      await this.rosters.sync([deviceId!]);
    });
  }

  close(): void {
    this.closed = true;
    if (this.timer) clearTimeout(this.timer);
  }

  /** Names that a claim of these serial numbers would give, in their order. @throws AppError `claim.refused`. */
  async preview(siteId: string, serials: readonly string[]): Promise<readonly string[]> {
    return (await this.plan(siteId, serials)).names;
  }

  /**
   * Claims calling devices into a site: they are named and told their first document. All or none.
   * @param handsFree whether they were expected, and nobody asks now.
   * @returns their ids, in the order asked for.
   * @throws AppError `claim.refused` with one flaw for each serial number that cannot be claimed, named by `field`.
   */
  async claim(
    siteId: string,
    serials: readonly string[],
    personId: string | null,
    handsFree = false,
  ): Promise<readonly string[]> {
    const { ids, changed, devices } = await changeIntent(this.database, async (transaction) => {
      const { devices, names } = await this.plan(siteId, serials, transaction);
      for (const [i, device] of devices.entries()) {
        const name = names[i]!;
        await device.update({ siteId, name, claimedAt: clock.date(), trouble: null, ...NOT_EXPECTED }, { transaction });
        await note(this.database, personId, 'device.claim', { siteId, name, handsFree }, transaction, device.id);
      }
      const live = await this.intents.live(transaction);
      const changed = await this.rosters.retarget(live.pairs.get(siteId)!, siteId, transaction);
      return { ids: devices.map((device) => device.id), changed, devices };
    });
    await this.rosters.sync([...new Set([...ids, ...changed])]);
    for (const device of devices) {
      this.bus.changed(device);
      await this.hitches.settle(['claim', 'other-model', 'other-mac'], device.serial);
    }
    await this.updateAtOnce(devices);
    return ids;
  }

  /** An expected device calls. Those that come at the same time are claimed together. */
  takeIn(device: Device): Promise<void> {
    const siteId = device.expectedSiteId!;
    const set = this.gathered.get(siteId) ?? new Set<string>();
    this.gathered.set(siteId, set.add(device.id));
    if (!this.closed)
      this.timer ??= later(GATHER_MS, () => {
        this.timer = null;
        const all = [...this.gathered];
        this.gathered.clear();
        void (async () => {
          for (const [site, ids] of all) await this.takeInAt(site, [...ids]);
        })().catch(this.failed);
      });
    return Promise.resolve();
  }

  private async takeInAt(siteId: string, ids: readonly string[]): Promise<void> {
    const devices = await Device.findAll({
      where: { id: { [Op.in]: [...ids] }, siteId: null, online: true },
      order: ['serial'],
    });
    const good: Device[] = [];
    for (const device of devices) {
      const { model, mac, serial, expectedModel, expectedMac, id } = device;
      const who = { serial, deviceId: id };
      if (expectedModel && expectedModel !== model)
        await this.hitches.raise('other-model', who, `It was announced as ${expectedModel} and is ${model}.`);
      else if (expectedMac && expectedMac !== mac)
        await this.hitches.raise(
          'other-mac',
          who,
          `It was announced with the MAC address ${expectedMac} and has ${mac}.`,
        );
      else good.push(device);
    }
    for (let rest = good; rest.length > 0;) {
      try {
        await this.claim(
          siteId,
          rest.map((device) => device.serial),
          rest[0]!.expectedBy,
          true,
        );
        return;
      } catch (error) {
        if (!(error instanceof AppError)) throw error;
        // Those that are refused stay listed with their reason; the others are not kept waiting.
        const bad = new Map(error.flaws.map((each) => [each.field, each.message]));
        for (const device of rest) {
          const reason = bad.get(device.serial) ?? (bad.size === 0 ? error.message : undefined);
          if (reason) await this.hitches.raise('claim', { serial: device.serial, deviceId: device.id }, reason);
        }
        rest = bad.size === 0 ? [] : rest.filter((device) => !bad.has(device.serial));
      }
    }
  }

  /**
   * Announces one device, by what its label says; one that calls already is claimed at once.
   * @returns its id, and whether it was claimed.
   * @throws AppError `claim.refused`.
   */
  async expect(siteId: string, wish: ExpectRequest, personId: string): Promise<{ id: string; claimed: boolean }> {
    const serial = wish.serial.trim().toUpperCase();
    const site = await Site.findByPk(siteId);
    if (!site) throw unknown('site');
    const device = await Device.findOne({ where: { serial } });
    if (device?.online && device.siteId === null) {
      await device.update({ expectedSiteId: siteId, expectedKey: wish.fingerprint ?? null, expectedBy: personId });
      if (wish.fingerprint) await this.checkFingerprint(device, wish.fingerprint);
      const [id] = await this.claim(siteId, [serial], personId);
      return { id: id!, claimed: true };
    }
    if (device && device.siteId !== null) {
      const where = (await Site.findByPk(device.siteId))?.name;
      const text =
        device.siteId === siteId
          ? `${serial} is already here, as ${device.name}.`
          : `${serial} belongs to ${where}, as ${device.name}.`;
      throw new AppError('claim.refused', text, [flaw('claim.elsewhere', text, 'serial')]);
    }
    const { model = '', mac = null, fingerprint = null } = wish;
    await this.announce(
      [{ serial, model, siteId, name: null, mac, tags: device?.tags ?? [], policy: device?.policy ?? 'leave' }],
      personId,
      fingerprint,
    );
    const row = await Device.findOne({ where: { serial }, rejectOnEmpty: true });
    return { id: row.id, claimed: false };
  }

  /**
   * Announces devices; those that call already are taken in.
   * @param devices those that are new with the id that they get, where somebody chose it.
   * @param fingerprint of the one device, from its label.
   */
  async announce(
    devices: readonly (ExpectedDevice & { readonly id?: string })[],
    personId: string,
    fingerprint: string | null = null,
    transaction?: Transaction,
  ): Promise<void> {
    const within = transaction ? { transaction } : {};
    const rows = devices.map((each) => ({ ...each, id: each.id ?? randomUUID() }));
    await this.database.query(
      `INSERT INTO device (id, serial, model, mac, firmware, expected_site_id, expected_name, expected_model, expected_mac, expected_key,
         expected_by, expected_at, tags, policy)
       SELECT r.id, r.serial, r.model, coalesce(r.mac, ''), '', r."siteId", r.name, r.model, r.mac, :fingerprint, :personId, now(),
         r.tags, r.policy
       FROM jsonb_to_recordset(:rows::jsonb)
         AS r(id uuid, serial text, model text, mac text, "siteId" uuid, name text, tags text[], policy text)
       ON CONFLICT (serial) DO UPDATE SET expected_site_id = excluded.expected_site_id, expected_name = excluded.expected_name,
         expected_model = excluded.expected_model, expected_mac = excluded.expected_mac, expected_key = excluded.expected_key,
         expected_by = excluded.expected_by, expected_at = now(), tags = excluded.tags, policy = excluded.policy`,
      { replacements: { rows: JSON.stringify(rows), personId, fingerprint }, ...within },
    );
    await note(this.database, personId, 'device.expect', { count: devices.length }, transaction);
    const send = async (): Promise<void> => {
      await this.bus.send('live', { type: 'site', siteId: devices[0]!.siteId });
      const calling = await Device.findAll({
        where: { serial: { [Op.in]: devices.map((each) => each.serial) }, online: true, siteId: null },
      });
      for (const device of calling) await this.takeIn(device);
    };
    if (transaction) transaction.afterCommit(() => void send().catch(this.failed));
    else await send();
  }

  /** Takes announcements back; devices that never called are forgotten, calling ones stay calling. */
  async unexpect(ids: readonly string[], personId: string): Promise<void> {
    const devices = await Device.findAll({
      where: { id: { [Op.in]: [...ids] }, siteId: null, expectedSiteId: { [Op.ne]: null } },
    });
    if (devices.length === 0) throw unknown('expected device');
    await this.database.transaction((transaction) => this.unexpectIn(transaction, devices, personId));
    await this.unexpected(devices);
  }

  /** The same as a part of something larger, which says so once it is through: `unexpected`. @param devices that are expected. */
  async unexpectIn(transaction: Transaction, devices: readonly Device[], personId: string): Promise<void> {
    for (const device of devices) {
      if (device.publicKey === null) await device.destroy({ transaction });
      else await device.update({ ...NOT_EXPECTED }, { transaction });
      await note(this.database, personId, 'device.unexpect', { serial: device.serial }, transaction);
    }
  }

  /** Devices are no longer expected. */
  async unexpected(devices: readonly Device[]): Promise<void> {
    for (const { serial } of devices) await this.hitches.settle(['claim', 'other-model', 'other-mac', 'key'], serial);
    await this.bus.send('live', { type: 'gone', deviceIds: devices.slice(0, 150).map((device) => device.id) });
  }

  private async checkFingerprint(device: Device, fingerprint: string): Promise<void> {
    const shown = fingerprintOf(device.publicKey!);
    if (shown === fingerprint) return;
    const text = `The device that calls as ${device.serial} has the key ${shown}; the label says ${fingerprint}.`;
    await this.hitches.raise('key', { serial: device.serial, deviceId: device.id }, text, { key: device.publicKey! });
    throw new AppError('claim.refused', text, [flaw('claim.key', text, 'serial')]);
  }

  /** Starts updates of devices whose policy is to be current from the first day. */
  private async updateAtOnce(devices: readonly Device[]): Promise<void> {
    const releases = await this.catalogue.releases();
    const ids = devices
      .filter((device) => {
        const newest = newestOf(releases, device.model);
        if (device.policy !== 'at-once' || !newest) return false;
        return (updateSteps(releases, device.model, device.firmware, newest.version)?.length ?? 0) > 0;
      })
      .map((device) => device.id);
    if (ids.length > 0) await this.updates.startNow(ids, null);
  }

  private async plan(siteId: string, serials: readonly string[], transaction?: Transaction): Promise<ClaimPlan> {
    const read = transaction ? { transaction } : {};
    const within = transaction ? { transaction, lock: transaction.LOCK.UPDATE } : {};
    const site = await Site.findByPk(siteId, read);
    if (!site) throw unknown('site');
    const wanted = [...new Set(serials.map((serial) => serial.trim().toUpperCase()))];
    const rows = await Device.findAll({ where: { serial: { [Op.in]: wanted } }, ...within });
    const bySerial = new Map(rows.map((row) => [row.serial, row]));
    const sites = new Map((await Site.findAll(read)).map((each) => [each.id, each.name]));
    const releases = await this.catalogue.releases();
    const twins = await Hitch.findAll({
      where: { code: 'mac', settledAt: null, serial: { [Op.in]: wanted } },
      ...read,
    });
    const twinned = new Map(twins.map((hitch) => [hitch.serial, hitch.reason]));
    const flaws = wanted.flatMap((serial): Flaw[] => {
      const device = bySerial.get(serial);
      const objection = objectionTo(serial, device, siteId, sites);
      if (objection.length > 0 || !device) return objection;
      const refuse = (code: string, message: string): Flaw[] => [flaw(code, message, serial)];
      const twin = twinned.get(serial);
      if (twin) return refuse('claim.mac', `${serial}: ${twin}`);
      if (!holdsLine(releases, device.model, device.firmware))
        return refuse(
          'claim.firmware',
          `${serial} runs ${device.firmware}, too old to hold the line. Update it first.`,
        );
      return [];
    });
    if (flaws.length > 0) {
      const rest = flaws.length > 1 ? ` And ${flaws.length - 1} more.` : '';
      throw new AppError('claim.refused', `Nothing was claimed. ${flaws[0]!.message}${rest}`, flaws);
    }
    const devices = wanted.map((serial) => bySerial.get(serial)!);
    const taken = await Device.findAll({
      attributes: ['name', 'expectedName', 'serial'],
      where: { [Op.or]: [{ name: { [Op.ne]: null } }, { expectedName: { [Op.ne]: null } }] },
      ...read,
    });
    const names = new Set(taken.flatMap((row) => [row.name, row.expectedName]).filter((name) => name !== null));
    // Somebody may have been given the announced name meanwhile.
    const used = new Set(taken.map((row) => row.name));
    const unnamed = devices.filter((device) => device.expectedName === null || used.has(device.expectedName));
    const given = nameDevices(
      site.code,
      unnamed.map((device) => ({ model: device.model, ...(device.sheet ? { sheet: device.sheet } : {}) })),
      names,
    );
    const nameOf = new Map(unnamed.map((device, i) => [device.id, given[i]!]));
    return { devices, names: devices.map((device) => nameOf.get(device.id) ?? device.expectedName!) };
  }
}

function objectionTo(
  serial: string,
  device: Device | undefined,
  siteId: string,
  sites: ReadonlyMap<string, string>,
): Flaw[] {
  const refuse = (code: string, message: string): Flaw[] => [{ code, message, field: serial }];
  if (!device) return refuse('claim.unknown', `No device with serial number ${serial} has ever called.`);
  if (device.siteId === siteId) return refuse('claim.ours', `${serial} is already here, as ${device.name}.`);
  if (device.siteId !== null)
    return refuse('claim.elsewhere', `${serial} belongs to ${sites.get(device.siteId)}, as ${device.name}.`);
  if (device.expectedSiteId !== null && device.expectedSiteId !== siteId)
    return refuse('claim.expected-elsewhere', `${serial} is expected at ${sites.get(device.expectedSiteId)}.`);
  if (!device.online) return refuse('claim.not-calling', `${serial} has stopped calling. Check its power and cable.`);
  return [];
}
