import type { ClientReport, RefusedReport } from '@iron-lattice/core/line';
import type { OnAir } from '../air/on-air';
import type { Box, Spot } from './box';
import type { AirClient, WorldFile } from './world-file';

/** What clients on the air find behind their AP. */
interface Behind {
  readonly file: WorldFile;
  readonly air: OnAir;
  /** VLAN that an AP puts a client into; null: it does not know it. */
  admits(box: Box, client: AirClient): number | null;
  lease(spot: Spot, mac: string, name?: string): string | null;
  address6(spot: Spot, mac: string): string | null;
  sinceAt(mac: string, place: string): number;
  forgetJoined(mac: string): void;
}

/** How long a client that was sent away looks around before it comes back, in milliseconds. */
const AWAY_MS = 5000;

/** Clients on the air: which AP each stands near, how it is joined, and why it is not. */
export class AirClients {
  /** Clients that walked, and those that were sent away and until when, by MAC address. */
  private readonly walked = new Map<string, string>();
  private readonly sentAway = new Map<string, number>();

  constructor(private readonly world: Behind) {}

  /** The AP that a client stands near by now. */
  nearOf = ({ mac, near }: AirClient): string => this.walked.get(mac) ?? near;

  joinedAt(box: Box): ClientReport[] {
    const { serial } = box.device;
    const clients = this.nearTo(box).flatMap((client): ClientReport[] => {
      const vlan = this.world.admits(box, client);
      const link = this.linkOf(box, client);
      if (vlan === null || link === null || typeof link === 'string') return [];
      const { mac, ssid, name } = client;
      const since = this.world.sinceAt(mac, `${serial} ${ssid} ${vlan}`);
      const address = this.world.lease({ box, vlan }, mac, name);
      const address6 = this.world.address6({ box, vlan }, mac);
      const six = address6 === null ? {} : { address6 };
      return [{ mac, ssid, vlan, address, since, ...six, ...(name === undefined ? {} : { name }), ...link }];
    });
    this.world.air.has(serial, clients.length);
    return clients;
  }

  refusedAt(box: Box): RefusedReport[] {
    return this.nearTo(box).flatMap((client): RefusedReport[] => {
      const link = this.linkOf(box, client);
      const known = this.world.admits(box, client) !== null;
      const why = link === null ? null : !known ? 'passphrase' : typeof link === 'string' ? link : null;
      if (why === null) return [];
      const { mac, ssid } = client;
      return [{ mac, ssid, why, since: this.world.sinceAt(mac, `${box.device.serial} ${ssid} not: ${why}`) }];
    });
  }

  /** Puts a client beside another AP. @returns serial number of the one it was near. */
  walk(mac: string, to: Box): string {
    const client = this.world.file.clients.find((each) => each.mac === mac && 'near' in each) as AirClient | undefined;
    if (!client) throw new RangeError(`no client ${mac} on the air`);
    const from = this.nearOf(client);
    this.walked.set(mac, to.device.serial);
    this.world.forgetJoined(mac);
    this.world.air.addClient(mac, to.device.serial);
    return from;
  }

  /** Sends a client away. @returns for how long, in milliseconds; null where it is not here. */
  sendAway(box: Box, mac: string): number | null {
    if (!this.joinedAt(box).some((client) => client.mac === mac)) return null;
    const ms = AWAY_MS * this.world.air.hurry;
    this.sentAway.set(mac, Date.now() + ms);
    this.world.forgetJoined(mac);
    return ms;
  }

  private nearTo({ device, document, powered }: Box): AirClient[] {
    if (document.kind !== 'ap' || !powered) return [];
    return this.world.file.clients.filter(
      (client): client is AirClient => 'near' in client && this.nearOf(client) === device.serial,
    );
  }

  /** How a client is joined, or why no radio takes it; null where its SSID is not sent, or it was just sent away. */
  private linkOf({ device, document }: Box, client: AirClient): ReturnType<OnAir['join']> | null {
    const ssid = document.kind === 'ap' ? document.ssids.find((each) => each.name === client.ssid) : undefined;
    if (!ssid || (this.sentAway.get(client.mac) ?? 0) > Date.now()) return null;
    return this.world.air.join(device.serial, client.mac, client, ssid.bands);
  }
}
