import { tunnelledVlans } from '../document';
import type { Link, LinkEnd, ResolvedSite, RosterDevice } from '../intent';
import { withAssumed } from './assumed';
import { needsOf } from './needs';
import { traceStrand, type Documents } from './strand';
import { traceTunnel } from './tunnel-strand';

/** Where a segment runs through the cabling of a site, and where it stops. */
export interface SegmentStrand {
  /** Devices that need it or that it passes. */
  readonly devices: readonly string[];
  /** Cables it runs along, as {@link cableKey} names them. */
  readonly cables: readonly string[];
  /** Cables that it crosses inside packets of another VLAN, in a tunnel. */
  readonly tunnelled: readonly string[];
  /** Ports that would have to carry it and do not, `device port`. */
  readonly gaps: readonly string[];
}

/** Names a cable by its two ends, whichever is given first. */
export const cableKey = (a: LinkEnd, b: LinkEnd): string =>
  [`${a.deviceId} ${a.port}`, `${b.deviceId} ${b.port}`].sort().join(' – ');

/** The strands of one segment put together: from every place that needs it to its router. */
export function segmentStrand(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
  segmentId: string,
): SegmentStrand {
  const [devices, cables, gaps] = [new Set<string>(), new Set<string>(), new Set<string>()];
  const tunnelled = new Set<string>();
  const segment = site.segments.find((each) => each.id === segmentId);
  const plant = withAssumed(site, roster, documents, links);
  for (const need of segment ? needsOf(site, roster, documents, links) : []) {
    if (need.vlan !== segment!.vlan) continue;
    devices.add(need.deviceId);
    const strand = traceStrand(plant.documents, plant.links, need.deviceId, need.vlan);
    if (strand.state === 'no-way') continue;
    for (const { from, to } of strand.hops) {
      cables.add(cableKey(from, to));
      devices.add(from.deviceId).add(to.deviceId);
    }
    if (strand.state === 'broken') for (const { end } of strand.gaps) gaps.add(`${end.deviceId} ${end.port}`);
  }
  for (const [id, document] of segment ? documents : []) {
    if (document.kind !== 'ap' || !tunnelledVlans(document).includes(segment!.vlan)) continue;
    devices.add(id);
    const strand = traceTunnel(documents, links, id, segment!.vlan);
    if (strand.state !== 'whole') continue;
    devices.add(strand.gatewayId);
    for (const { from, to } of strand.hops) tunnelled.add(cableKey(from, to));
  }
  return { devices: [...devices], cables: [...cables], gaps: [...gaps], tunnelled: [...tunnelled] };
}
