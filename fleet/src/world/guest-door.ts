import { parseIp } from '@iron-lattice/core/address';
import { appliesNow, type PortalDocument } from '@iron-lattice/core/document';
import { gardenOf, isAddressInGarden, isNameInGarden } from '@iron-lattice/core/guests';
import type { GuestWord } from '@iron-lattice/core/line';
import type { Box } from './box';

/** What the door has to know of its world. */
interface Around {
  /** Octets that a client took at a box since it came there. */
  taken(serial: string, mac: string): number;
  /** Names that somebody knows, with their addresses. */
  names(): Iterable<readonly [name: string, address: string]>;
}

/** What a box was told of a guest, and what that had taken by then. */
interface Told extends GuestWord {
  readonly from: number;
}

/** Where a guest is held back: by a portal, at a place where nobody has let it in yet. */
export interface HeldAt {
  readonly portal: PortalDocument;
  readonly mac: string;
}

/** Holds guests back at boxes until the controller lets them in, and again once their time or what they may take is over. */
export class GuestDoor {
  /** By the box, the portal and the guest. */
  private readonly told = new Map<string, Told>();
  /** The same by the box and the guest: one portal holds it there. */
  private readonly lastTold = new Map<string, Told>();
  /** Where guests sign in, by the box that was told. */
  private readonly portals = new Map<string, string>();

  constructor(private readonly around: Around) {}

  /** A box is told where guests sign in; undefined: nowhere. */
  portalAt(serial: string, url: string | undefined): void {
    if (url === undefined) this.portals.delete(serial);
    else this.portals.set(serial, url);
  }

  urlOf = (serial: string): string | undefined => this.portals.get(serial);

  /** The TCP port of the portal that a box was told of. */
  portOf({ device }: Box): number | null {
    const url = this.portals.get(device.serial);
    return url === undefined ? null : portIn(url);
  }

  /** Those of all portals that boxes were told of. */
  ports = (): number[] => [...new Set(this.portals.values())].map(portIn);

  take(serial: string, portal: string, guests: readonly GuestWord[]): void {
    for (const guest of guests) {
      const told = { ...guest, from: this.around.taken(serial, guest.mac) };
      this.told.set(`${serial} ${portal} ${guest.mac}`, told);
      this.lastTold.set(`${serial} ${guest.mac}`, told);
    }
  }

  /** Forgets whom a box lets in. */
  forget(serial: string, mac = ''): void {
    for (const known of [this.told, this.lastTold])
      for (const key of known.keys()) if (key.startsWith(`${serial} `) && key.endsWith(mac)) known.delete(key);
  }

  isIn({ device: { serial }, document: { site } }: Box, { portal, mac }: HeldAt, now = Date.now()): boolean {
    if (!appliesNow(portal.hours, site, now)) return false;
    const told = this.told.get(`${serial} ${portal.id} ${mac}`);
    if (!told?.in || (told.until !== undefined && now >= told.until)) return false;
    if (told.slow !== undefined || told.left === undefined) return true;
    return this.around.taken(serial, mac) - told.from < told.left;
  }

  /** Kilobits a second each way that a guest of a box is kept to, since it took so much; null: nothing keeps it. */
  slowAt(serial: string, mac: string, taken: number): number | null {
    const told = this.lastTold.get(`${serial} ${mac}`);
    return told?.slow !== undefined && told.left !== undefined && taken - told.from >= told.left ? told.slow : null;
  }

  /** Whether an address is in a walled garden: by itself, or by a name that leads to it. */
  inGarden({ garden = [] }: PortalDocument, address: string): boolean {
    const entries = gardenOf(garden);
    const ip = parseIp(address);
    if (ip && isAddressInGarden(entries, ip)) return true;
    for (const [name, at] of this.around.names()) if (at === address && isNameInGarden(entries, name)) return true;
    return false;
  }
}

const portIn = (url: string): number => {
  const { port, protocol } = new URL(url);
  return port === '' ? (protocol === 'https:' ? 443 : 80) : Number(port);
};
