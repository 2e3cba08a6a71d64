import { formatPrefix, lastOf, overlaps, parsePrefix, prefixOf, nextFreePrefix, type Prefix } from '../address';
import type { Intent, Segment, SitePart } from '../intent';
import { moveSegment } from '../lattice';

/**
 * Gives a founded site the segments of another and what it says of its bands: same names, VLAN IDs and lease times; subnets as long as the
 * original's, each where the original's lies in its own block when that is free, else the next free one; ranges and
 * gateways at the same distance from the start. Reservations and IPv6 prefixes stay where they are. What of the bands is not legal in
 * another country is never told to a device, and is found there.
 * @param part the site as founded: its management segment keeps its own subnet.
 * @param idFor makes an id for each copied segment.
 * @returns null when the private address space has no room.
 */
export function copySite(intent: Intent, part: SitePart, source: SitePart, idFor: () => string): SitePart | null {
  const home = parsePrefix(part.segments[0]!.subnet)!;
  const block = prefixOf({ version: home.version, value: home.network }, Math.min(home.length, 16));
  const used = [...intent.sites.values()]
    .flatMap((site) => site.segments.map((segment) => parsePrefix(segment.subnet)!))
    .filter((prefix) => prefix.version === home.version);
  used.push(home);
  const segments: Segment[] = [];
  for (const original of source.segments) {
    if (original.id === source.managementId) {
      segments.push({ ...part.segments[0]!, name: original.name, vlan: original.vlan });
      continue;
    }
    const old = parsePrefix(original.subnet)!;
    if (old.version !== home.version) continue;
    const subnet = sameSpot(old, block, used) ?? nextFreePrefix(block, used, old.length);
    if (!subnet) return null;
    used.push(subnet);
    const moved = moveSegment(original, formatPrefix(subnet));
    if (!moved) return null;
    segments.push(forAnotherSite(moved.segment, idFor()));
  }
  return { ...part, segments, ...(source.bands ? { bands: source.bands } : {}) };
}

/** The prefix at the same place in the new block as the old one has in its own, when nobody has it. */
function sameSpot(old: Prefix, block: Prefix, used: readonly Prefix[]): Prefix | null {
  if (old.length < block.length) return null;
  const within = prefixOf({ version: old.version, value: old.network }, block.length);
  const spot: Prefix = { ...old, network: block.network + (old.network - within.network) };
  return lastOf(spot) <= lastOf(block) && !used.some((each) => overlaps(each, spot)) ? spot : null;
}

/** A segment without what belongs to one site's clients and devices: reservations, IPv6 prefix, a server of its own. */
function forAnotherSite({ v6: _v6, ...segment }: Segment, id: string): Segment {
  if (!segment.addresses) return { ...segment, id };
  const { reservations: _reservations, from, ...addresses } = segment.addresses;
  const portable = from?.kind === 'relay' || (from?.kind === 'ap' && from.how === 'each');
  return { ...segment, id, addresses: { ...addresses, ...(portable ? { from } : {}) } };
}
