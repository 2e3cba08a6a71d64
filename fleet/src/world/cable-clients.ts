import type { WiredReport } from '@iron-lattice/core/line';
import type { Box, Spot } from './box';
import type { Namer } from './named';
import { isShut } from './plant';
import { clientsAtPort } from './port-door';
import type { Sitter, Sittings } from './sittings';
import type { WiredClient, WorldClient, WorldFile } from './world-file';

/** What clients on cables find behind their port. */
interface Behind {
  readonly file: WorldFile;
  readonly namer: Namer;
  readonly sittings: Sittings;
  lease(spot: Spot, mac: string, name?: string): string | null;
  address6(spot: Spot, mac: string): string | null;
  sinceAt(mac: string, place: string): number;
}

/** Clients on cables: at which port each is, what becomes of it there, and what its box tells of it. */
export class CableClients {
  constructor(private readonly world: Behind) {}

  /** Clients that speak on the ports of a box. */
  joinedAt(box: Box): WiredReport[] {
    const { world } = this;
    const sitters: Sitter[] = [];
    const clients = this.comersAt(box).flatMap(({ client, port, at }): WiredReport[] => {
      const { vlan, fell, tagged, named, entered, accessClass } = at;
      if (vlan === null) return [];
      const address = client.address ?? world.lease({ box, vlan }, client.mac, client.name);
      const address6 = world.address6({ box, vlan }, client.mac);
      const since = world.sinceAt(client.mac, `${client.at} ${vlan}`);
      const more = {
        ...(address6 === null ? {} : { address6 }),
        ...(accessClass ? { classId: accessClass.id } : {}),
        ...(named ? { named } : {}),
        ...(entered ? { entered } : {}),
        ...(fell ? { fell } : {}),
        ...(tagged ? { tagged } : {}),
      };
      if (at.way ?? at.portal)
        sitters.push({
          ...{ mac: client.mac, at: port, wireless: false, since, address, vlan, accessClass, entered, named },
          ...(client.takes ? { takes: client.takes } : {}),
        });
      return [{ mac: client.mac, port, vlan, since, ...more }];
    });
    world.sittings.at(box.device.serial, false, sitters);
    return clients;
  }

  /** Clients at a box, port by port, and what becomes of each. */
  comersAt(box: Box) {
    const { serial } = box.device;
    const byPort = new Map<string, WiredClient[]>();
    for (const client of box.powered ? this.world.file.clients : []) {
      if (!('at' in client) || this.world.sittings.isGone(client.mac)) continue;
      const [at, name] = client.at.split(':') as [string, string];
      if (at === serial) byPort.set(name, [...(byPort.get(name) ?? []), client]);
    }
    return [...byPort].flatMap(([name, clients]) => {
      const port = box.document.ports.find((each) => each.name === name);
      if (!port || box.cables.has(name) || isShut(box, name)) return [];
      return clientsAtPort(box, port, clients, this.world.namer).map((each) => ({ ...each, port: name }));
    });
  }

  /** Puts a client at a port, or nowhere. @returns where it was. @throws RangeError for one on the air. */
  put(mac: string, client: WiredClient | null): WiredClient | undefined {
    const clients = this.world.file.clients as WorldClient[];
    const at = clients.findIndex((each) => each.mac === mac);
    const before = clients[at];
    if (before && !('at' in before)) throw new RangeError(`${mac} is on the air`);
    if (at >= 0) clients.splice(at, 1);
    if (client) clients.push(client);
    return before;
  }
}
