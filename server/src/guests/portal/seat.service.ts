import { createHash, randomBytes, randomUUID } from 'node:crypto';
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
import type { JustSeen, StandingRow } from '../just-seen';
import { standingSql } from '../visit-state';
import type { DeviceKeys } from './device-keys';

/** How long a seat is remembered, in milliseconds, and how many are: another controller may know better since. */
const [REMEMBERED_MS, MOST_KNOWN] = [2000, 10_000];

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

/** Who asks to be let in, and where the device is that said so. */
export interface Placed extends Omit<PortalClaim, 'serial'> {
  readonly deviceId: string;
  readonly siteId: string;
}

/** What came of a token. */
export type Seated =
  { readonly ok: true; readonly cookie: string | null } | { readonly ok: false; readonly why: 'used' | 'old' };

/** Browsers of guests, known by a cookie that only they have. */
export class SeatService {
  /** Seats that were asked for lately, by what their cookies are kept as: nothing of one changes but its language. */
  private readonly known = new Map<string, { readonly seat: Seat; readonly at: number }>();

  constructor(
    private readonly database: Sequelize,
    private readonly keys: DeviceKeys,
    private readonly seen: JustSeen,
  ) {}

  /**
   * Takes what a device says of a guest, once: whoever comes with it again has to have the cookie that it was given for.
   * @param cookie that the browser has already.
   * @returns a cookie to be set; null where it may keep its own.
   */
  async take(token: string, cookie: string | undefined): Promise<Seated> {
    const claim = token.length <= MOST_TOKEN ? await this.claimOf(token) : null;
    return claim ? this.sit(claim, cookie) : { ok: false, why: 'old' };
  }

  /** Gives a browser a seat for word that is right, once and for a while. */
  async sit(claim: Placed, cookie: string | undefined): Promise<Seated> {
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
      const [row] = await this.database.query<StandingRow>(
        `WITH seated AS (INSERT INTO portal_seat (id, nonce, cookie, portal_id, site_id, device_id, mac, place, url, language)
           VALUES (:id, :nonce, :cookie, :portal, :siteId, :deviceId, :mac, :at, :url, :language) RETURNING 1 AS one)
         SELECT s.* FROM seated, LATERAL (${standingSql(':portal', ':mac')}) s`,
        {
          type: QueryTypes.SELECT,
          replacements: {
            ...{ id, nonce, cookie: printOf(fresh), portal, siteId, deviceId, mac, at, language },
            url: page,
          },
        },
      );
      const seat = { portalId: portal, siteId, deviceId, mac, place: at, language, id, url: page };
      this.remember(printOf(fresh), seat); // the next page asks for it
      if (row) this.seen.put(portal, mac, row);
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
  private async claimOf(token: string): Promise<Placed | null> {
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
    const by = await this.keys.signerOf(said.serial, claimText(payload), signature);
    return by ? { ...said, deviceId: by.id, siteId: by.siteId } : null;
  }
}

/** What a cookie is kept as. */
const printOf = (cookie: string): string => createHash('sha256').update(cookie).digest('base64url');
