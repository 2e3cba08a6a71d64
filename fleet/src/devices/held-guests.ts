import { randomBytes, sign, type KeyObject } from 'node:crypto';
import {
  captivePath,
  claimText,
  MOST_OPTION,
  MOST_PAGE,
  packWord,
  wordText,
  type PortalClaim,
} from '@iron-lattice/core/guests';
import { GUESTS_A_FRAME, type ControllerFrame, type DeviceFrame } from '@iron-lattice/core/line';
import type { World } from '../world/world';

/** Guests that one box holds back: it asks whom to let in, and says who asks for a page. */
export class HeldGuests {
  /** Who was asked for on this line, by portal and MAC address. */
  private readonly asked = new Set<string>();
  /** How far the controller’s clock is ahead of this one, in milliseconds. */
  private ahead = 0;

  constructor(
    private readonly serial: string,
    private readonly world: World,
    private readonly say: (frame: DeviceFrame) => void,
  ) {}

  /** The line is new: whoever is there is asked for once more. */
  welcomed({ portal, now }: { readonly portal?: string; readonly now?: number }): void {
    this.world.guests.portalAt(this.serial, portal);
    this.ahead = now === undefined ? 0 : now - Date.now();
    this.asked.clear();
  }

  /** Asks for guests that came since, and forgets those that left. */
  look(): void {
    const here = new Map<string, string[]>();
    const keys = new Set<string>();
    for (const { mac, portal } of this.world.guestsAt(this.serial)) {
      const key = `${portal.id} ${mac}`;
      keys.add(key);
      if (this.asked.has(key)) continue;
      this.asked.add(key);
      here.set(portal.id, [...(here.get(portal.id) ?? []), mac]);
    }
    for (const key of this.asked)
      if (!keys.has(key)) {
        this.asked.delete(key);
        this.world.guests.forget(this.serial, key.split(' ')[1]);
      }
    for (const [portal, macs] of here)
      for (let at = 0; at < macs.length; at += GUESTS_A_FRAME)
        this.say({ type: 'guests-ask', portal, macs: macs.slice(at, at + GUESTS_A_FRAME) });
  }

  take({ portal, guests }: Extract<ControllerFrame, { type: 'guests' }>): void {
    this.world.guests.take(this.serial, portal, guests);
    if (guests.length > 0) this.say({ type: 'guests-told', portal, macs: guests.map(({ mac }) => mac) });
    for (const { mac, again } of guests) if (again !== undefined) this.askAt(`${portal} ${mac}`, again);
  }

  /** Asks for a guest once more when its day begins anew, if it is still there. */
  private askAt(key: string, at: number): void {
    const ms = Math.min(Math.max(0, at - this.ahead - Date.now()), 2 ** 31 - 1);
    setTimeout(() => {
      this.asked.delete(key);
      this.look();
    }, ms).unref();
  }

  /**
   * What is put into the DHCP answer of a client that is held (RFC 8910 §2.1); null: nothing, since the portal is none of HTTPS, or the
   * address would be longer than an option. @param key the box’s own.
   */
  captiveUrl(key: KeyObject, { portal, mac }: Pick<PortalClaim, 'portal' | 'mac'>): string | null {
    const url = this.world.guests.urlOf(this.serial);
    if (!url?.startsWith('https:')) return null;
    const said = Math.floor((Date.now() + this.ahead) / 1000);
    const payload = Buffer.from(packWord({ serial: this.serial, portal, mac, said })).toString('base64url');
    const signature = sign(null, Buffer.from(wordText(payload)), key).toString('base64url');
    const told = `${url}${captivePath(`${payload}.${signature}`)}`;
    return told.length <= MOST_OPTION ? told : null;
  }

  /** Where a guest that asks for a page is sent instead; null where this box was told of no portal. @param key the box’s own. */
  wayIn(key: KeyObject, who: Pick<PortalClaim, 'portal' | 'mac' | 'at'>, url: string): string | null {
    const portal = this.world.guests.urlOf(this.serial);
    if (portal === undefined) return null;
    const claim: PortalClaim = {
      ...{ serial: this.serial, portal: who.portal, mac: who.mac, at: who.at },
      ...(url.length <= MOST_PAGE ? { url } : {}),
      said: Date.now() + this.ahead,
      nonce: randomBytes(16).toString('hex'),
    };
    const payload = Buffer.from(JSON.stringify(claim)).toString('base64url');
    const signature = sign(null, Buffer.from(claimText(payload)), key).toString('base64url');
    return `${portal}/?who=${payload}.${signature}`;
  }
}
