import type { DeviceDocument, PortDocument } from '../document';
import type { Link, RosterDevice, Segment } from '../intent';
import type { ResolvedSite } from '../intent';
import { traceStrand, type Documents, type Gap } from './strand';

/** How a segment passes one thing on its way. */
export type Crossing = 'untagged' | 'tagged' | 'broadcast' | 'routed' | 'served' | 'missing';

export interface GridColumn {
  /** `ssid:ID`, `device:ID`, `port:ID:NAME`, `service:addresses` or `service:internet`. */
  readonly key: string;
  readonly group: string;
  readonly label: string;
  readonly deviceId?: string;
  readonly port?: string;
}

export interface GridRow {
  readonly segment: Segment;
  /** Only where the segment meets the column's thing. */
  readonly cells: Readonly<Record<string, Crossing>>;
}

export interface LatticeGrid {
  readonly columns: readonly GridColumn[];
  readonly rows: readonly GridRow[];
}

/**
 * The weave of a site: segments across, what a packet meets on its way from the air to the internet down. Read off
 * the documents, so it shows what devices would really do.
 */
export function latticeGrid(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
): LatticeGrid {
  const gaps = gapsBySegment(site, roster, documents, links);
  const columns = columnsOf(site, roster, documents, links, [...gaps.values()].flat());
  const rows = site.segments.map((segment) => {
    const missing = gaps.get(segment.id) ?? [];
    const cells: Record<string, Crossing> = {};
    for (const column of columns) {
      const crossing = crossingAt(column, segment, site, documents, missing);
      if (crossing) cells[column.key] = crossing;
    }
    return { segment, cells };
  });
  return { columns, rows };
}

function crossingAt(
  column: GridColumn,
  segment: Segment,
  site: ResolvedSite,
  documents: Documents,
  missing: readonly Gap[],
): Crossing | null {
  if (column.deviceId !== undefined && column.port !== undefined) {
    const { deviceId, port } = column;
    if (missing.some((gap) => gap.end.deviceId === deviceId && gap.end.port === port)) return 'missing';
    const document = documents.get(deviceId);
    return portCrossing(
      document?.ports.find((each) => each.name === port),
      segment.vlan,
    );
  }
  if (column.deviceId !== undefined) return deviceCrossing(documents.get(column.deviceId), segment.vlan);
  if (column.key.startsWith('ssid:')) {
    const ssid = site.ssids.find((each) => `ssid:${each.id}` === column.key);
    return ssid?.segmentId === segment.id ? 'broadcast' : null;
  }
  const gateways = [...documents.values()].filter((document) => document.kind === 'gateway');
  if (column.key === 'service:addresses') {
    if (gateways.some((each) => each.addressServices.some((service) => service.vlan === segment.vlan))) return 'served';
    return segment.addresses ? 'missing' : null;
  }
  const out = gateways.some(
    (each) => each.interfaces.some((face) => face.vlan === segment.vlan) && each.uplinks.some((up) => up.translate),
  );
  return out ? 'served' : null;
}

function portCrossing(port: PortDocument | undefined, vlan: number): Crossing | null {
  if (port?.untagged === vlan) return 'untagged';
  return port?.tagged.includes(vlan) ? 'tagged' : null;
}

function deviceCrossing(document: DeviceDocument | undefined, vlan: number): Crossing | null {
  if (document?.kind === 'gateway') return document.interfaces.some((each) => each.vlan === vlan) ? 'routed' : null;
  return document?.ports[0] ? portCrossing(document.ports[0], vlan) : null;
}

/** Missing carriers per segment: on the way of every SSID from every AP that sends it, and of management. */
function gapsBySegment(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
): Map<string, Gap[]> {
  const idByVlan = new Map(site.segments.map((segment) => [segment.vlan, segment.id]));
  const gaps = new Map<string, Gap[]>();
  for (const device of roster) {
    const document = documents.get(device.id);
    if (!document) continue;
    const vlans = new Set([
      document.management.vlan,
      ...(document.kind === 'ap' ? document.ssids.map((s) => s.vlan) : []),
    ]);
    for (const vlan of vlans) {
      const strand = traceStrand(documents, links, device.id, vlan);
      const id = idByVlan.get(vlan);
      if (strand.state === 'broken' && id) gaps.set(id, [...(gaps.get(id) ?? []), ...strand.gaps]);
    }
  }
  return gaps;
}

/** Columns from the edge inwards; of a switch only ports that are cabled to ours, differ from plain, or lack a tag. */
function columnsOf(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
  gaps: readonly Gap[],
): GridColumn[] {
  const of = (kind: DeviceDocument['kind']): RosterDevice[] =>
    roster.filter((device) => documents.get(device.id)?.kind === kind);
  const cabled = new Set(links.flatMap((link) => [link.a, link.b]).map((end) => `${end.deviceId} ${end.port}`));
  for (const gap of gaps) cabled.add(`${gap.end.deviceId} ${gap.end.port}`);
  const ports = (device: RosterDevice): GridColumn[] =>
    documents
      .get(device.id)!
      .ports.filter((port) => cabled.has(`${device.id} ${port.name}`) || site.ports[device.id]?.[port.name])
      .map((port) => ({
        key: `port:${device.id}:${port.name}`,
        group: device.name,
        label: `port ${port.name}`,
        deviceId: device.id,
        port: port.name,
      }));
  const device =
    (group: string) =>
    (each: RosterDevice): GridColumn => ({
      key: `device:${each.id}`,
      group,
      label: each.name,
      deviceId: each.id,
    });
  return [
    ...site.ssids.map((ssid) => ({ key: `ssid:${ssid.id}`, group: 'On the air', label: ssid.name })),
    ...of('ap').map(device('Access points')),
    ...fromTheEdge(of('switch'), of('gateway'), links).flatMap(ports),
    ...of('gateway').map(device('Gateway')),
    { key: 'service:addresses', group: 'Services', label: 'addresses' },
    { key: 'service:internet', group: 'Services', label: 'internet' },
  ];
}

/** Switches ordered from those furthest from a gateway to those nearest, as packets meet them; unreached ones first. */
function fromTheEdge(
  switches: readonly RosterDevice[],
  gateways: readonly RosterDevice[],
  links: readonly Link[],
): RosterDevice[] {
  const hops = new Map(gateways.map((gateway) => [gateway.id, 0]));
  for (let grown = true; grown;) {
    grown = false;
    for (const { a, b } of links) {
      for (const [near, far] of [
        [a.deviceId, b.deviceId],
        [b.deviceId, a.deviceId],
      ] as const) {
        const reached = (hops.get(near) ?? Infinity) + 1;
        if (reached >= (hops.get(far) ?? Infinity)) continue;
        hops.set(far, reached);
        grown = true;
      }
    }
  }
  return [...switches].sort((a, b) => (hops.get(b.id) ?? 999) - (hops.get(a.id) ?? 999) || (a.name < b.name ? -1 : 1));
}
