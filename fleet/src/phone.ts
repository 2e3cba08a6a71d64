import { parseIp } from '@iron-lattice/core/address';
import type { Device } from './devices/device';
import type { World } from './world/world';

/** What a client’s browser is answered. */
export interface Page {
  /** As of HTTP (RFC 9110 §15); 0: nobody answered. */
  readonly status: number;
  readonly location?: string;
  readonly text: string;
}

/** What a client got by DHCP. */
export interface Lease {
  /** Name of the SSID, or of the port. */
  readonly at: string;
  readonly address: string | null;
  /** The option that says where it learns whether it is held (RFC 8910 §2.1); null: none was there. */
  readonly captive: string | null;
}

/** A client and the box that serves it. @throws RangeError when there is none; null while it is on no network. */
function attached(world: World, mac: string) {
  const client = world.file.clients.find((each) => each.mac === mac);
  if (!client) throw new RangeError(`no client ${mac}`);
  if ('near' in client) {
    const serial = world.servedBy(client);
    const joined = world.clientsOf(serial).find((each) => each.mac === mac);
    return joined ? { at: client.ssid, serial, joined, asker: world.asking.clientAsks(client, joined) } : null;
  }
  const [serial, at] = client.at.split(':') as [string, string];
  const wired = world.wiredOf(serial).find((each) => each.mac === mac);
  if (!wired) return null;
  const { vlan } = wired;
  const joined = { vlan, address: client.address ?? world.lease({ box: world.box(serial), vlan }, mac, client.name) };
  return { at, serial, joined, asker: world.asking.clientAsks(client, joined) };
}

/** What a client was given by DHCP; null while it is on no network. */
export function leaseOf(world: World, devices: ReadonlyMap<string, Device>, mac: string): Lease | null {
  const found = attached(world, mac);
  if (!found) return null;
  const { at, serial, joined, asker } = found;
  const portal = asker.at.guest?.portal;
  const told = portal && !portal.quiet ? devices.get(serial)?.captiveUrl({ portal: portal.id, mac }) : undefined;
  return { at, address: joined.address, captive: told ?? null };
}

/**
 * A client asks for a page: its box lets the packets pass, or holds them back and answers by itself what is asked for by HTTP at
 * port 80. What is encrypted is never answered by anybody but whom it is for.
 */
export function openPage(world: World, devices: ReadonlyMap<string, Device>, mac: string, url: string): Page {
  const { protocol, hostname, port } = new URL(url);
  const number = port === '' ? (protocol === 'https:' ? 443 : 80) : Number(port);
  const found = attached(world, mac);
  if (!found) return { status: 0, text: `${mac} is on no network.` };
  const { at, serial, joined, asker } = found;
  const address = parseIp(hostname) ? hostname : world.asking.looked(asker, joined.vlan, hostname).address;
  if (address === null) return { status: 0, text: `Nobody knows ${hostname}.` };
  const { ok, why } = world.asking.get(asker, address, { protocol: 'tcp', port: number });
  if (ok) return { status: 200, text: `This is ${hostname}, and ${mac} reached it.` };
  const guest = asker.at.guest;
  if (guest && number === 80 && protocol === 'http:' && !world.guests.isIn(world.box(serial), guest)) {
    const location = devices.get(serial)?.wayIn({ portal: guest.portal.id, mac, at }, url);
    if (location) return { status: 302, location, text: 'Sign in first.' };
  }
  return { status: 0, text: why };
}

/** The page that phones of this world look at to learn whether they are held. */
const LOOKED_AT = 'http://online.skerrow.example/';

/**
 * What a phone’s own small window opens with, as soon as it is on a network: where DHCP says that it learns how it stands (RFC 8910), else where
 * it is sent instead of the page that it looks at. Null: it takes itself for online, or there is no network.
 */
export function smallWindow(world: World, devices: ReadonlyMap<string, Device>, mac: string): string | null {
  const lease = leaseOf(world, devices, mac);
  if (!lease?.address) return null;
  return lease.captive ?? openPage(world, devices, mac, LOOKED_AT).location ?? null;
}
