import { askedVlans, interfacesOf, tunnelledVlans, type DeviceDocument } from '../document';
import { segmentsOfSsid, type Link, type ResolvedSite, type RosterDevice, type Segment } from '../intent';
import { needsOfBoxes, withAssumed, withBoxes } from './assumed';
import { needsOf } from './needs';
import { reachesRouter, traceStrand, type Documents, type Gap } from './strand';

/** How a segment passes one thing on its way. */
export type Crossing = 'untagged' | 'tagged' | 'asked' | 'tunnel' | 'broadcast' | 'routed' | 'served' | 'missing';

export interface GridColumn {
  /** `ssid:ID`, `device:ID`, `port:ID:NAME`, `router:ID` beside the gateway, `service:addresses` or `service:internet`. */
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
  /** Keys of the columns where it is missing. */
  readonly missing: readonly string[];
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
  const lacking = new Set([...gaps.values()].flat().map(({ end }) => `${end.deviceId} ${end.port}`));
  const columns = columnsOf(site, roster, documents, links, lacking);
  const boxed = withBoxes(site, documents, links).documents;
  const readers = columns.map((column) => readerOf(column, site, documents, gaps, boxed));
  const shown = site.off.length === 0 ? site.segments : [...site.segments, ...site.off].sort((a, b) => a.vlan - b.vlan);
  const rows = shown.map((segment) => {
    if (segment.off) return { segment, cells: {}, missing: [] };
    const cells: Record<string, Crossing> = {};
    for (const [i, read] of readers.entries()) {
      const crossing = read(segment);
      if (crossing) cells[columns[i]!.key] = crossing;
    }
    return { segment, cells, missing: Object.keys(cells).filter((key) => cells[key] === 'missing') };
  });
  return { columns, rows };
}

/** Tells how segments pass one column's thing; what all of them ask of it is looked up once. */
function readerOf(
  column: GridColumn,
  site: ResolvedSite,
  documents: Documents,
  gaps: ReadonlyMap<string, readonly Gap[]>,
  boxed: Documents,
): (segment: Segment) => Crossing | null {
  const { deviceId, port: portName, key } = column;
  const document = deviceId === undefined ? undefined : documents.get(deviceId);
  if (deviceId !== undefined && portName !== undefined) {
    const port = document?.ports.find((each) => each.name === portName);
    const tags = new Set(port?.tagged);
    const asked = new Set(port && document ? askedVlans(port, document) : []);
    const lacks = (id: string): boolean =>
      gaps.get(id)?.some(({ end }) => end.deviceId === deviceId && end.port === portName) ?? false;
    return ({ id, vlan }) =>
      lacks(id)
        ? 'missing'
        : port?.untagged === vlan && port.auth === undefined
          ? 'untagged'
          : tags.has(vlan)
            ? 'tagged'
            : asked.has(vlan) || port?.untagged === vlan
              ? 'asked'
              : null;
  }
  if (deviceId !== undefined) {
    const routed = new Set(document ? interfacesOf(document).map((face) => face.vlan) : []);
    const port = document?.kind === 'gateway' ? undefined : document?.ports[0];
    const tags = new Set(port?.tagged);
    const tunnelled = new Set(document?.kind === 'ap' ? tunnelledVlans(document) : []);
    return ({ vlan }) => {
      if (routed.has(vlan)) return 'routed';
      if (port?.untagged === vlan) return 'untagged';
      return tags.has(vlan) ? 'tagged' : tunnelled.has(vlan) ? 'tunnel' : null;
    };
  }
  if (key.startsWith('ssid:')) {
    const ssid = site.ssids.find((each) => `ssid:${each.id}` === key);
    const joined = new Set(ssid ? segmentsOfSsid(ssid) : []);
    return ({ id }) => (joined.has(id) ? 'broadcast' : null);
  }
  if (key.startsWith('router:')) return ({ routed }) => (`router:${routed ?? ''}` === key ? 'routed' : null);
  const all = [...boxed.values()];
  if (key === 'service:addresses') {
    const served = new Set(
      all.flatMap((each) => [
        ...(each.addressServices ?? []).map((service) => service.vlan),
        ...(each.kind === 'gateway' ? (each.relays ?? []).map((relay) => relay.vlan) : []),
      ]),
    );
    return ({ vlan, addresses }) => (served.has(vlan) ? 'served' : addresses ? 'missing' : null);
  }
  const out = all.some((each) => each.kind === 'gateway' && each.uplinks.some((up) => up.translate));
  const routed = new Set(all.flatMap((each) => interfacesOf(each).map((face) => face.vlan)));
  return ({ vlan }) => (out && routed.has(vlan) ? 'served' : null);
}

/** Missing carriers per segment, on the way of everything that needs it. */
function gapsBySegment(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
): Map<string, Gap[]> {
  const idByVlan = new Map(site.segments.map((segment) => [segment.vlan, segment.id]));
  const gaps = new Map<string, Gap[]>();
  const plant = withAssumed(site, roster, documents, links);
  for (const { deviceId, vlan } of [...needsOf(site, roster, documents, links), ...needsOfBoxes(site)]) {
    if (reachesRouter(plant.documents, plant.links, deviceId, vlan)) continue;
    const strand = traceStrand(plant.documents, plant.links, deviceId, vlan);
    const id = idByVlan.get(vlan);
    if (strand.state === 'broken' && id) gaps.set(id, [...(gaps.get(id) ?? []), ...strand.gaps]);
  }
  return gaps;
}

/** Columns from the edge inwards; of a switch only ports that are cabled to ours, were told what to carry, or lack a tag. */
function columnsOf(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
  lacking: ReadonlySet<string>,
): GridColumn[] {
  const of = (kind: DeviceDocument['kind']): RosterDevice[] =>
    roster.filter((device) => documents.get(device.id)?.kind === kind);
  const cabled = new Set(links.flatMap((link) => [link.a, link.b]).map((end) => `${end.deviceId} ${end.port}`));
  const ports = (device: RosterDevice): GridColumn[] =>
    documents
      .get(device.id)!
      .ports.filter(({ name, untagged, tagged, auth }) => {
        const key = `${device.id} ${name}`;
        const carries = untagged !== null || tagged.length > 0 || auth !== undefined;
        return cabled.has(key) || lacking.has(key) || (carries && site.ports[device.id]?.[name] !== undefined);
      })
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
    ...(site.routers ?? []).map(({ id, name }) => ({ key: `router:${id}`, group: 'Other routers', label: name })),
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
