import { createHash, createPublicKey, randomBytes, randomUUID, verify, type KeyObject } from 'node:crypto';
import {
  claimShape,
  claimText,
  ELSEWHERE,
  MOST_TOKEN,
  readPage,
  TOKEN_AHEAD_MS,
  TOKEN_LIVES_MS,
  type PortalClaim,
} from '@iron-lattice/core/guests';
import { QueryTypes, UniqueConstraintError, type Sequelize } from 'sequelize';
import { clock } from '../../platform/clock';

/** How long a seat or a device is remembered, in milliseconds, and how many are: another controller may know better since. */
const [REMEMBERED_MS, MOST_KNOWN] = [2000, 10_000];
/** Keys of devices that are remembered. */
const MOST_KEYS = 10_000;

/** Whom a portal talks to: a guest’s browser that came with word of the device that holds it. */
export interface Seat {
  readonly id: string;
  readonly portalId: string;
  readonly siteId: string;
  readonly deviceId: string;
  readonly mac: string;
  /** Name of the SSID. */
  readonly place: string;
  /** The page that was asked for. */
  readonly url: string | null;
  readonly language: string | null;
}

interface SeatRow {
  readonly id: string;
  readonly portal_id: string;
  readonly site_id: string;
  readonly device_id: string;
  readonly mac: string;
  readonly place: string;
  readonly url: string | null;
  readonly language: string | null;
}

interface DeviceRow {
  readonly id: string;
  readonly site_id: string;
  readonly public_key: string;
}

/** What came of a token. */
export type Seated =
  { readonly ok: true; readonly cookie: string | null } | { readonly ok: false; readonly why: 'used' | 'old' };

/** Browsers of guests, known by a cookie that only they have. */
export class SeatService {
  private readonly keys = new Map<string, KeyObject>();
  /** Seats that were asked for lately, by what their cookies are kept as: nothing of one changes but its language. */
  private readonly known = new Map<string, { readonly seat: Seat; readonly at: number }>();

  private readonly devices = new Map<string, { readonly device: DeviceRow; readonly at: number }>();

  constructor(private readonly database: Sequelize) {}

  /**
   * Takes what a device says of a guest, once: whoever comes with it again has to have the cookie that it was given for.
   * @param cookie that the browser has already.
   * @returns a cookie to be set; null where it may keep its own.
   */
  async take(token: string, cookie: string | undefined): Promise<Seated> {
    const claim = token.length <= MOST_TOKEN ? await this.claimOf(token) : null;
    if (!claim) return { ok: false, why: 'old' };
    const now = clock.now();
    const { portal, mac, at, url, nonce, said, deviceId, siteId } = claim;
    if (said < now - TOKEN_LIVES_MS || said > now + TOKEN_AHEAD_MS) return { ok: false, why: 'old' };
    const fresh = randomBytes(32).toString('base64url');
    const id = randomUUID();
    const page = url !== undefined && url !== ELSEWHERE && readPage(url) ? url : null;
    // Who chose a language goes on in it.
    const before = cookie === undefined ? null : await this.find(cookie);
    const language = before?.mac === mac ? before.language : null;
    try {
      await this.database.query(
        `INSERT INTO portal_seat (id, nonce, cookie, portal_id, site_id, device_id, mac, place, url, language)
         VALUES (:id, :nonce, :cookie, :portal, :siteId, :deviceId, :mac, :at, :url, :language)`,
        {
          replacements: {
            ...{ id, nonce, cookie: printOf(fresh), portal, siteId, deviceId, mac, at, language },
            url: page,
          },
        },
      );
      const seat = { portalId: portal, siteId, deviceId, mac, place: at, language, id, url: page };
      this.remember(printOf(fresh), seat); // the next page asks for it
      return { ok: true, cookie: fresh };
    } catch (error) {
      if (!(error instanceof UniqueConstraintError)) throw error;
      return before && before.mac === mac && before.portalId === portal
        ? { ok: true, cookie: null }
        : { ok: false, why: 'used' };
    }
  }

  /** Whose browser it is; null: nobody’s that is known. */
  async find(cookie: string): Promise<Seat | null> {
    if (cookie.length > 100) return null;
    const print = printOf(cookie);
    const known = this.known.get(print);
    if (known && performance.now() - known.at < REMEMBERED_MS) return known.seat;
    const [row] = await this.database.query<SeatRow>(
      `SELECT id, portal_id, site_id, device_id, mac, place, url, language FROM portal_seat
       WHERE cookie = :cookie AND at > now() - interval '1 day'`,
      { replacements: { cookie: print }, type: QueryTypes.SELECT },
    );
    if (!row) return null;
    const { portal_id: portalId, site_id: siteId, device_id: deviceId, ...rest } = row;
    const seat = { portalId, siteId, deviceId, ...rest };
    this.remember(print, seat);
    return seat;
  }

  private remember(print: string, seat: Seat): void {
    if (this.known.size >= MOST_KNOWN) this.known.clear();
    this.known.set(print, { seat, at: performance.now() });
  }

  async speak(seat: Seat, language: string): Promise<void> {
    this.known.clear(); // seldom, and of one seat alone nobody knows the cookie here
    await this.database.query('UPDATE portal_seat SET language = :language WHERE id = :id', {
      replacements: { id: seat.id, language },
    });
  }

  /** Reads a token and looks whether the device that it names signed it; null where it did not. */
  private async claimOf(token: string): Promise<(PortalClaim & { deviceId: string; siteId: string }) | null> {
    const [payload = '', signature = '', more] = token.split('.');
    if (more !== undefined || signature === '') return null;
    let claim: unknown;
    try {
      claim = JSON.parse(Buffer.from(payload, 'base64url').toString('utf8'));
    } catch {
      return null;
    }
    if (claimShape.validate(claim, { convert: false }).error) return null;
    const said = claim as PortalClaim;
    const device = await this.deviceOf(said.serial);
    if (!device) return null;
    const right = verify(
      null,
      Buffer.from(claimText(payload)),
      this.keyOf(device.public_key),
      Buffer.from(signature, 'base64url'),
    );
    return right ? { ...said, deviceId: device.id, siteId: device.site_id } : null;
  }

  /** A device that has a place and a key; hundreds of guests come a second, many by the same. */
  private async deviceOf(serial: string): Promise<DeviceRow | null> {
    const known = this.devices.get(serial);
    if (known && performance.now() - known.at < REMEMBERED_MS) return known.device;
    const [device] = await this.database.query<DeviceRow>(
      'SELECT id, site_id, public_key FROM device WHERE serial = :serial AND site_id IS NOT NULL AND public_key IS NOT NULL',
      { replacements: { serial }, type: QueryTypes.SELECT },
    );
    if (!device) return null;
    if (this.devices.size >= MOST_KNOWN) this.devices.clear();
    this.devices.set(serial, { device, at: performance.now() });
    return device;
  }

  private keyOf(text: string): KeyObject {
    let key = this.keys.get(text);
    if (!key) {
      key = createPublicKey({ key: Buffer.from(text, 'base64'), format: 'der', type: 'spki' });
      if (this.keys.size >= MOST_KEYS) this.keys.clear();
      this.keys.set(text, key);
    }
    return key;
  }
}

/** What a cookie is kept as. */
const printOf = (cookie: string): string => createHash('sha256').update(cookie).digest('base64url');
