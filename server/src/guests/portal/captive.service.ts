import { randomBytes, timingSafeEqual } from 'node:crypto';
import {
  captiveAnswer,
  readPage,
  readWord,
  TOKEN_AHEAD_MS,
  WORD_LIVES_MS,
  wordText,
  type CaptiveAnswer,
} from '@iron-lattice/core/guests';
import type { SecretService } from '../../intent/secret.service';
import { clock } from '../../platform/clock';
import type { LivePortal, LivePortals } from '../portals-live';
import type { VisitService } from '../visit.service';
import type { DeviceKeys } from './device-keys';
import type { Placed } from './seat.service';

/** Characters of a device’s word, and of a way to the page. */
export const [MOST_WORD, MOST_ENTRY] = [400, 1000];

/** Says to devices of guests by themselves whether they are held back, and where to sign in (RFC 8908). */
export class CaptiveService {
  constructor(
    private readonly keys: DeviceKeys,
    private readonly portals: LivePortals,
    private readonly visits: VisitService,
    private readonly secrets: Pick<SecretService, 'print'>,
    private readonly originUrl: () => string,
    /** The SSID or port of a device that a client is at; null: it did not report it yet. */
    private readonly placed: (deviceId: string, mac: string) => Promise<string | null>,
  ) {}

  /** What a device of a guest is told; null: no device of ours said that, or its portal is gone. */
  async answer(token: string): Promise<CaptiveAnswer | null> {
    const found = await this.find(token);
    if (!found) return null;
    const { who, live } = found;
    const standing = await this.visits.standing(who.portal, who.mac, live);
    const state = standing ?? { letIn: false, until: null, left: null };
    const news = live.portal.newsLink ? readPage(live.portal.newsLink) : null;
    return {
      // Whoever goes on slower has nothing that ends.
      ...captiveAnswer({ ...state, left: live.portal.slow ? null : state.left }, clock.now()),
      'user-portal-url': `${this.originUrl()}/enter/${this.entryOf(who)}`,
      ...(news?.secure ? { 'venue-info-url': live.portal.newsLink! } : {}),
    };
  }

  /** Whom a way to the page was made for; null: it is none of ours. */
  placedIn(entry: string): Placed | null {
    const [payload = '', proof = '', more] = entry.split('.');
    if (more !== undefined) return null;
    const [given, right] = [Buffer.from(proof), Buffer.from(this.proofOf(payload))];
    if (given.length !== right.length || !timingSafeEqual(given, right)) return null;
    return JSON.parse(Buffer.from(payload, 'base64url').toString('utf8')) as Placed;
  }

  private entryOf(who: Placed): string {
    const payload = Buffer.from(JSON.stringify(who)).toString('base64url');
    return `${payload}.${this.proofOf(payload)}`;
  }

  private async find(token: string): Promise<{ readonly who: Placed; readonly live: LivePortal } | null> {
    const [payload = '', signature = '', more] = token.split('.');
    const word = more === undefined ? readWord(Buffer.from(payload, 'base64url')) : null;
    const by = word && (await this.keys.signerOf(word.serial, wordText(payload), signature));
    if (!word || !by) return null;
    const [now, said] = [clock.now(), word.said * 1000];
    if (said < now - WORD_LIVES_MS || said > now + TOKEN_AHEAD_MS) return null;
    const live = await this.portals.at(by.siteId, word.portal);
    if (!live) return null;
    const nonce = randomBytes(16).toString('hex');
    const at = await this.placeOf(by.id, word.mac, live);
    return {
      who: { portal: word.portal, mac: word.mac, at, said: now, nonce, deviceId: by.id, siteId: by.siteId },
      live,
    };
  }

  /** Where a guest is: at the one SSID that leads there, else where its device has it. */
  private async placeOf(deviceId: string, mac: string, { ssids, ports }: LivePortal): Promise<string> {
    const [only] = ssids;
    if (only && ssids.length === 1 && ports.length === 0) return only.name;
    return (await this.placed(deviceId, mac)) ?? only?.name ?? ports[0]?.port ?? '–';
  }

  private proofOf = (payload: string): string =>
    Buffer.from(this.secrets.print('guest entry', payload), 'base64').toString('base64url');
}
