import { parseIp } from '@iron-lattice/core/address';
import type { Device } from './devices/device';
import type { AirClient } from './world/world-file';
import type { World } from './world/world';

/** What a client’s browser is answered. */
export interface Page {
  /** As of HTTP (RFC 9110 §15); 0: nobody answered. */
  readonly status: number;
  readonly location?: string;
  readonly text: string;
}

/**
 * A client on the air asks for a page: its AP lets the packets pass, or holds them back and answers by itself what is asked for by HTTP at
 * port 80. What is encrypted is never answered by anybody but whom it is for.
 */
export function openPage(world: World, devices: ReadonlyMap<string, Device>, mac: string, url: string): Page {
  const client = world.file.clients.find((each): each is AirClient => each.mac === mac && 'near' in each);
  if (!client) throw new RangeError(`no client ${mac} on the air`);
  const { protocol, hostname, port } = new URL(url);
  const number = port === '' ? (protocol === 'https:' ? 443 : 80) : Number(port);
  const serial = world.servedBy(client);
  const joined = world.clientsOf(serial).find((each) => each.mac === mac);
  if (!joined) return { status: 0, text: `${mac} is on no network.` };
  const asker = world.asking.clientAsks(client, joined);
  const address = parseIp(hostname) ? hostname : world.asking.looked(asker, joined.vlan, hostname).address;
  if (address === null) return { status: 0, text: `Nobody knows ${hostname}.` };
  const { ok, why } = world.asking.get(asker, address, { protocol: 'tcp', port: number });
  if (ok) return { status: 200, text: `This is ${hostname}, and ${mac} reached it.` };
  const guest = asker.at.guest;
  if (guest && number === 80 && protocol === 'http:' && !world.guests.isIn(world.box(serial), guest)) {
    const location = devices.get(serial)?.wayIn({ portal: guest.portal.id, mac, at: client.ssid }, url);
    if (location) return { status: 302, location, text: 'Sign in first.' };
  }
  return { status: 0, text: why };
}
