import type { SsidDocument } from '@iron-lattice/core/document';
import type { ClientReport, RefusedReport } from '@iron-lattice/core/line';
import type { OnAir } from '../air/on-air';
import type { Box, Spot } from './box';
import type { Admitted } from './keys';
import { sentNow } from './on-hours';
import type { Sitter, Sittings } from './sittings';
import { spotOf } from './tunnels';
import type { AirClient, WorldFile } from './world-file';

/** What clients on the air find behind their AP. */
interface Behind {
  readonly file: WorldFile;
  readonly air: OnAir;
  /** VLAN that an AP puts a client into; null: it does not know it. @param others that it has with the same key already. */
  admits(box: Box, client: AirClient, others?: ReadonlyMap<string, number>): Admitted;
  lease(spot: Spot, mac: string, name?: string): string | null;
  address6(spot: Spot, mac: string): string | null;
  sinceAt(mac: string, place: string): number;
  forgetJoined(mac: string): void;
  readonly sittings: Sittings;
}

/** How long a client that was sent away looks around before it comes back, in milliseconds. */
const AWAY_MS = 5000;

/** How much louder another AP has to be for a client to leave one that takes it, in dB. */
const LOUDER = 8;
/** The same where APs ask it to go (802.11v). */
const ASKED = 4;
/** Signal in dBm at which a client is content. */
const WELL = -72;

/** Clients on the air: which AP each is served by, how it is joined, and why it is not. */
export class AirClients {
  /** Where clients stand that walked, which AP serves those that roamed, and until when those stay away that were sent away; by MAC address. */
  private readonly walked = new Map<string, string>();
  private readonly roamed = new Map<string, string>();
  private readonly sentAway = new Map<string, number>();
  /** Whom APs have: by the AP's serial number, MAC addresses. */
  private readonly had = new Map<string, ReadonlySet<string>>();

  constructor(private readonly world: Behind) {}

  /** The AP that a client is served by, or tries: the one it stands near, unless it roamed. */
  servedBy = (client: AirClient): string => this.roamed.get(client.mac) ?? this.nearOf(client);

  private nearOf = ({ mac, near }: AirClient): string => this.walked.get(mac) ?? near;

  /** Clients of an island whose AP does not send any more, or that left theirs for another, look around. */
  roam(island: readonly Box[]): void {
    const aps = new Map(
      island.flatMap((box) => (box.document.kind === 'ap' ? [[box.device.serial, box] as const] : [])),
    );
    for (const client of this.world.file.clients) {
      if (!('near' in client)) continue;
      const at = aps.get(this.servedBy(client));
      if (at && (this.roamed.has(client.mac) || this.isRestless(at, client))) this.lookAround(client, at, aps);
    }
  }

  /** Whether a client is not had where it is, or asked to go where it is heard better. */
  private isRestless(at: Box, client: AirClient): boolean {
    const ssid = this.sentBy(at, client);
    if (!this.sends(at, client) || ssid?.roam?.includes('v')) return true;
    if ([ssid?.join, ssid?.stay, ssid?.most].every((said) => said === undefined)) return false;
    const here = this.takenIn(at).find((each) => each.client === client)?.link;
    return here === 'low' || here === 'full';
  }

  /** Has a client take the AP it hears the best, of those that take it; it stays where it is unless another is much louder. */
  private lookAround(client: AirClient, at: Box, aps: ReadonlyMap<string, Box>): void {
    const heard = (box: Box): number | null => {
      // Who says who it is tries one AP after the other, and does not ask all of them first.
      const tries = client.enters !== undefined || this.world.admits(box, client).vlan !== null;
      const link = tries ? this.linkOf(box, client) : null;
      return link === null || typeof link === 'string' ? null : link.signal;
    };
    const now = heard(at);
    let best: { readonly box: Box; readonly signal: number } | null = null;
    for (const box of aps.values()) {
      const signal = box !== at && box.powered && this.sends(box, client) ? heard(box) : null;
      if (signal !== null && (!best || signal > best.signal)) best = { box, signal };
    }
    // Back to the AP that it stands by as soon as that takes it well; else it stays while no other is much louder.
    const own = aps.get(this.nearOf(client));
    const back = own && own !== at && own.powered && this.sends(own, client) ? heard(own) : null;
    if (own && back !== null && back >= WELL) best = { box: own, signal: back };
    else if (
      !best ||
      (now !== null && best.signal < now + (this.sentBy(at, client)?.roam?.includes('v') ? ASKED : LOUDER))
    )
      return;
    const { serial } = best.box.device;
    if (serial === this.nearOf(client)) this.roamed.delete(client.mac);
    else this.roamed.set(client.mac, serial);
    this.world.forgetJoined(client.mac);
  }

  /** Whether an AP sends what a client looks for, on any of its radios. */
  private sends(box: Box, client: AirClient): boolean {
    const ssid = box.powered ? this.sentBy(box, client) : undefined;
    return ssid?.bands.some((band) => this.world.air.sendsOn(box.device.serial, band)) ?? false;
  }

  joinedAt(box: Box): ClientReport[] {
    const { serial } = box.device;
    const sitters: Sitter[] = [];
    const clients = this.takenIn(box).flatMap(({ client, vlan, link, given }): ClientReport[] => {
      if (vlan === null || link === null || typeof link === 'string') return [];
      const { mac, ssid, name } = client;
      const since = this.world.sinceAt(mac, `${serial} ${ssid} ${vlan}`);
      const spot = spotOf(box, this.sentBy(box, client), vlan);
      const address = this.world.lease(spot, mac, name);
      const address6 = this.world.address6(spot, mac);
      const six = address6 === null ? {} : { address6 };
      const gave = {
        ...(typeof spot.tunnel === 'string' ? { to: spot.tunnel } : {}),
        ...(given.former ? { former: true as const } : {}),
        ...(given.key === undefined ? {} : { key: given.key }),
        ...(given.keyedBy === undefined ? {} : { keyedBy: given.keyedBy }),
        ...(given.named ? { named: given.named } : {}),
        ...(given.accessClass ? { classId: given.accessClass.id } : {}),
        ...(given.entered ? { entered: given.entered } : {}),
      };
      const { accessClass, entered, named, keyedBy } = given;
      sitters.push({
        ...{ mac, at: ssid, wireless: true, since, address, vlan, accessClass, entered, named, keyedBy },
        ...(client.takes ? { takes: client.takes } : {}),
      });
      return [{ mac, ssid, vlan, address, since, ...six, ...(name === undefined ? {} : { name }), ...link, ...gave }];
    });
    this.world.air.has(
      serial,
      clients.flatMap(({ ssid, band, rate }) => (band && rate ? [{ ssid, band, rate }] : [])),
    );
    this.world.sittings.at(serial, true, sitters);
    this.had.set(serial, new Set(clients.map(({ mac }) => mac)));
    return clients;
  }

  refusedAt(box: Box): RefusedReport[] {
    return this.takenIn(box).flatMap(({ client, vlan, link, given }): RefusedReport[] => {
      // Who looks for something else is not asked for a passphrase.
      const why =
        link === null || link === 'security'
          ? link
          : vlan === null
            ? given.why === null
              ? null
              : (given.why ?? 'passphrase')
            : typeof link === 'string'
              ? link
              : null;
      if (why === null) return [];
      const { mac, ssid } = client;
      const key = given.key === undefined ? {} : { key: given.key };
      const away = why === given.why ? given.turnedAway : {};
      return [
        { mac, ssid, why, ...key, ...away, since: this.world.sinceAt(mac, `${box.device.serial} ${ssid} not: ${why}`) },
      ];
    });
  }

  /** Puts a client beside another AP. @returns serial number of the one it was served by. */
  walk(mac: string, to: Box): string {
    const client = this.world.file.clients.find((each) => each.mac === mac && 'near' in each) as AirClient | undefined;
    if (!client) throw new RangeError(`no client ${mac} on the air`);
    const from = this.servedBy(client);
    this.walked.set(mac, to.device.serial);
    this.roamed.delete(mac);
    this.world.forgetJoined(mac);
    this.world.air.addClient(mac, to.device.serial);
    return from;
  }

  /** A client is where it stands, as if it had never been elsewhere. */
  forget(mac: string): void {
    this.roamed.delete(mac);
    this.world.forgetJoined(mac);
  }

  /** Sends a client away. @returns for how long, in milliseconds; null where it is not here. */
  sendAway(box: Box, mac: string): number | null {
    if (!this.joinedAt(box).some((client) => client.mac === mac)) return null;
    const ms = AWAY_MS * this.world.air.hurry;
    this.sentAway.set(mac, Date.now() + ms);
    this.world.forgetJoined(mac);
    return ms;
  }

  /** Clients that an AP serves, and how each is joined, or why not: of those it has, none has to go for one that comes. */
  private takenIn(box: Box) {
    const had = this.had.get(box.device.serial);
    const there = new Map<string, number>();
    const giving = new Map<string, number>();
    return this.servedAt(box)
      .sort((a, b) => Number(had?.has(b.mac) ?? false) - Number(had?.has(a.mac) ?? false))
      .map((client) => {
        const given = this.world.admits(box, client, giving);
        const { vlan } = given;
        const link = this.linkOf(box, client);
        if (vlan === null || link === null || typeof link === 'string') return { client, vlan, link, given };
        const key = `${client.ssid} ${link.band}`;
        const count = (there.get(key) ?? 0) + 1;
        const most = this.sentBy(box, client)?.most ?? Infinity;
        if (count > most) return { client, vlan, link: 'full' as const, given };
        there.set(key, count);
        if (given.key !== undefined) giving.set(given.key, (giving.get(given.key) ?? 0) + 1);
        return { client, vlan, link, given };
      });
  }

  private servedAt({ device, document, powered }: Box): AirClient[] {
    if (document.kind !== 'ap' || !powered) return [];
    return this.world.file.clients.filter(
      (client): client is AirClient => 'near' in client && this.servedBy(client) === device.serial,
    );
  }

  /** How a client is joined, or why no radio takes it; null where its SSID is not sent, or it was just sent away. */
  private linkOf(box: Box, client: AirClient): ReturnType<OnAir['join']> | null {
    const ssid = this.sentBy(box, client);
    if (!ssid || this.world.sittings.isGone(client.mac) || (this.sentAway.get(client.mac) ?? 0) > Date.now())
      return null;
    const { serial } = box.device;
    // Who is there may fall further than who comes.
    const least = this.had.get(serial)?.has(client.mac) ? ssid.stay : ssid.join;
    const former = client.enters ? false : (this.world.admits(box, client).former ?? false);
    return this.world.air.join(serial, client.mac, { ...client, former }, ssid, least);
  }

  private sentBy(box: Box, { ssid }: AirClient): SsidDocument | undefined {
    return sentNow(box).find(({ name }) => name === ssid);
  }
}
