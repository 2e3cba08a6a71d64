import { GUESTS_A_FRAME, type DeviceFrame } from '@iron-lattice/core/line';
import { QueryTypes, type Sequelize } from 'sequelize';
import type { Lines, Speaker } from '../line/line-listener';
import type { Bus } from '../platform/bus';
import type { KnownGuests } from './known-guests';
import type { VisitService } from './visit.service';

type GuestFrame = Extract<DeviceFrame, { type: 'guests-ask' | 'guests-told' }>;
/** Guests of devices whose lines this process holds that are remembered; beyond it the longest known are forgotten, and asked for anew. */
const MOST_GUESTS = 200_000;
const UUID = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

/** Tells devices which guests are let in: when they ask, and whenever that becomes another. */
export class GuestLines {
  /** Where guests are, by portal and MAC address, of lines that this process holds. */
  private readonly where = new Map<string, { readonly deviceId: string; readonly siteId: string }>();
  /** The same by device: the portal of each guest, by MAC address. */
  private readonly here = new Map<string, Map<string, string>>();

  constructor(
    private readonly database: Sequelize,
    private readonly visits: VisitService,
    private readonly known: KnownGuests,
    private readonly lines: Lines,
    bus: Bus,
    failed: (error: unknown) => void,
  ) {
    bus.on('guests', ({ portalId, macs }) => void this.changed(portalId, macs).catch(failed));
    bus.onReopened(() => void this.tellAll().catch(failed));
  }

  /** What was said while the bus was away was not heard: everybody is told anew, one device after the other. */
  private async tellAll(): Promise<void> {
    for (const [deviceId, here] of [...this.here]) {
      for (const portal of new Set(here.values())) {
        const macs = [...here].flatMap(([mac, of]) => (of === portal ? [mac] : []));
        const siteId = this.where.get(`${portal} ${macs[0]}`)?.siteId;
        for (let at = 0; siteId !== undefined && at < macs.length; at += GUESTS_A_FRAME) {
          const some = macs.slice(at, at + GUESTS_A_FRAME);
          const words = await this.visits.words(portal, siteId, some);
          if (this.lines.holds(deviceId)) this.lines.say(deviceId, { type: 'guests', portal, guests: words });
        }
      }
    }
  }

  async heard({ deviceId }: Speaker, { type, portal, macs }: GuestFrame): Promise<void> {
    if (!UUID.test(portal)) return;
    if (type === 'guests-told') return this.visits.told(portal, deviceId, macs);
    const siteId = await this.siteOf(deviceId);
    if (siteId === null) return;
    await this.known.comeAgain(portal, siteId, deviceId, macs);
    await this.visits.seenAt(portal, deviceId, macs);
    const here = this.here.get(deviceId) ?? new Map<string, string>();
    this.here.set(deviceId, here);
    for (const mac of macs) {
      const key = `${portal} ${mac}`;
      this.where.delete(key);
      this.where.set(key, { deviceId, siteId });
      here.set(mac, portal);
    }
    for (const [oldest] of this.where) {
      if (this.where.size <= MOST_GUESTS) break;
      this.where.delete(oldest);
    }
    this.lines.say(deviceId, { type: 'guests', portal, guests: await this.visits.words(portal, siteId, macs) });
  }

  left({ deviceId }: Speaker): void {
    for (const [mac, portal] of this.here.get(deviceId) ?? []) {
      const key = `${portal} ${mac}`;
      if (this.where.get(key)?.deviceId === deviceId) this.where.delete(key);
    }
    this.here.delete(deviceId);
  }

  /** Guests that a device asked for on its line: the portal of each, by MAC address. */
  readonly at = (deviceId: string): ReadonlyMap<string, string> => this.here.get(deviceId) ?? NOBODY;

  /** Tells each device that this process talks to of those guests that are there, together. */
  private async changed(portalId: string, macs: readonly string[]): Promise<void> {
    const there = new Map<string, { readonly siteId: string; readonly macs: string[] }>();
    for (const mac of macs) {
      const at = this.where.get(`${portalId} ${mac}`);
      if (!at || !this.lines.holds(at.deviceId)) continue;
      const some = there.get(at.deviceId);
      if (some) some.macs.push(mac);
      else there.set(at.deviceId, { siteId: at.siteId, macs: [mac] });
    }
    for (const [deviceId, of] of there)
      for (let at = 0; at < of.macs.length; at += GUESTS_A_FRAME) {
        const guests = await this.visits.words(portalId, of.siteId, of.macs.slice(at, at + GUESTS_A_FRAME));
        this.lines.say(deviceId, { type: 'guests', portal: portalId, guests });
      }
  }

  private async siteOf(deviceId: string): Promise<string | null> {
    const [row] = await this.database.query<{ site_id: string | null }>(
      'SELECT site_id FROM device WHERE id = :deviceId',
      {
        replacements: { deviceId },
        type: QueryTypes.SELECT,
      },
    );
    return row?.site_id ?? null;
  }
}

const NOBODY: ReadonlyMap<string, string> = new Map();
