import type { ClientReport, LeaseReport, EnteredReport, NamedReport, NeighbourReport, WiredReport } from '../line';

/** What one device reports of clients. */
export interface ReportedClients {
  readonly deviceId: string;
  readonly deviceName: string;
  readonly mac: string;
  readonly neighbours: readonly NeighbourReport[];
  readonly clients: readonly ClientReport[];
  readonly wired: readonly WiredReport[];
  readonly leases: readonly LeaseReport[];
}

/** One client of a site, as its devices report it. */
export interface SiteClient {
  readonly mac: string;
  /** As it called itself when it asked for an address; empty when it did not. */
  readonly name: string;
  readonly vlan: number;
  /** The address at another site that its frames are carried to: then the VLAN is one of that. */
  readonly to?: string;
  readonly address: string | null;
  /** IPv6; null when it has none. */
  readonly address6: string | null;
  /** Who gave the address; null when it has its own, or none. */
  readonly leasedBy: string | null;
  /** Where it is: an AP with the SSID, or a port; null for a lease whose client nobody sees now. */
  readonly at: {
    readonly deviceId: string;
    readonly deviceName: string;
    readonly ssid?: string;
    readonly port?: string;
  } | null;
  /** Id of the class that it has there, whatever gave it that. */
  readonly classId?: string;
  /** Id of the key of a ring that it gave. */
  readonly key?: string;
  /** That a RADIUS server chose its class. */
  readonly named?: NamedReport;
  /** The server that named the key of a ring which it gave. */
  readonly keyedBy?: string;
  /** Who it proved to be, and why it is in a segment for those that got no other. */
  readonly entered?: EnteredReport;
  readonly fell?: WiredReport['fell'] & {};
  /** Its frames carry the tag of their VLAN. */
  readonly tagged?: true;
  /** Milliseconds since 1970: joined where it is, else when the lease was given. */
  readonly since: number | null;
}

/** What a device says of a client, of any kind. */
interface Said extends Partial<
  Pick<ClientReport, 'address' | 'address6' | 'named' | 'entered' | 'keyedBy' | 'classId' | 'key' | 'to'>
> {
  readonly since?: number;
  readonly name?: string | undefined;
  readonly fell?: WiredReport['fell'] & {};
  readonly tagged?: true;
}

/**
 * Puts together who is where: clients on the air and on ports, each with its lease of the same VLAN, and leases whose
 * client nobody sees. Ordered by address, those without last.
 */
export function siteClients(reports: readonly ReportedClients[]): SiteClient[] {
  const leases = new Map<string, { readonly lease: LeaseReport; readonly by: string }>();
  const byMac = new Map<string, { readonly lease: LeaseReport; readonly by: string }>();
  for (const { deviceName, leases: given } of reports)
    for (const lease of given) {
      leases.set(`${lease.vlan} ${lease.mac}`, { lease, by: deviceName });
      byMac.set(lease.mac, { lease, by: deviceName });
    }
  const seen = new Set<string>();
  const clients: SiteClient[] = [];
  const add = (mac: string, vlan: number, at: SiteClient['at'], said: Said): void => {
    const key = `${vlan} ${mac}${said.to === undefined ? '' : ` ${said.to}`}`;
    if (seen.has(key)) return;
    seen.add(key);
    // Who is carried to another site is given its address there.
    const found = said.to === undefined ? leases.get(key) : undefined;
    const {
      address = null,
      address6 = null,
      since,
      name = '',
      named,
      entered,
      keyedBy,
      classId,
      key: gave,
      fell,
      tagged,
    } = said;
    clients.push({
      mac,
      name: name || (found ?? byMac.get(mac))?.lease.name || '',
      vlan,
      address: address ?? found?.lease.address ?? null,
      address6,
      leasedBy: found?.by ?? null,
      at,
      since: since ?? found?.lease.since ?? null,
      ...(said.to === undefined ? {} : { to: said.to }),
      ...(classId === undefined ? {} : { classId }),
      ...(gave === undefined ? {} : { key: gave }),
      ...(named ? { named } : {}),
      ...(entered ? { entered } : {}),
      ...(keyedBy === undefined ? {} : { keyedBy }),
      ...(fell ? { fell } : {}),
      ...(tagged ? { tagged } : {}),
    });
  };
  for (const { deviceId, deviceName, clients: air, wired } of reports) {
    for (const client of air) add(client.mac, client.vlan, { deviceId, deviceName, ssid: client.ssid }, client);
    for (const client of wired) add(client.mac, client.vlan, { deviceId, deviceName, port: client.port }, client);
  }
  // Devices of ours are clients too: they hang where a neighbour hears them.
  const ours = new Map(reports.map(({ mac, deviceName }) => [mac, deviceName]));
  const heard = heardAt(reports);
  const elsewhere = new Set(clients.map((client) => client.mac));
  for (const { lease } of leases.values()) {
    // A lease that a client left behind in another VLAN says nothing of where it is.
    if (elsewhere.has(lease.mac)) continue;
    const name = ours.get(lease.mac);
    const at = name === undefined ? null : (heard.get(lease.mac) ?? null);
    add(lease.mac, lease.vlan, at, { ...lease, name });
  }
  return clients.sort((a, b) => rank(a.address) - rank(b.address) || (a.mac < b.mac ? -1 : 1));
}

/** Where each device of ours is heard, by MAC: at the neighbour that is nearer to whoever gives the addresses. */
function heardAt(reports: readonly ReportedClients[]): ReadonlyMap<string, SiteClient['at']> {
  const byMac = new Map(reports.map((report) => [report.mac, report]));
  const queue = reports.filter((report) => report.leases.length > 0);
  const seen = new Set(queue);
  const heard = new Map<string, SiteClient['at']>();
  for (const { deviceId, deviceName, neighbours } of queue)
    for (const { chassis, port } of neighbours) {
      if (!heard.has(chassis)) heard.set(chassis, { deviceId, deviceName, port });
      const next = byMac.get(chassis);
      if (!next || seen.has(next)) continue;
      seen.add(next);
      queue.push(next);
    }
  return heard;
}

const rank = (address: string | null): number =>
  address === null ? Infinity : address.split('.').reduce((sum, octet) => sum * 256 + Number(octet), 0);
