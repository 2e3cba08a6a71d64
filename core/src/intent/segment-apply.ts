import { flaw } from '../base';
import { refuse, withSite, type Applied, type Refused } from './edit-result';
import { changed, pick } from './field-change';
import { carryNames } from './name-carry';
import type { Intent, SitePart } from './nouns';
import type { Operation } from './operation';
import type { PortEntry } from './port';
import type { Segment } from './segment';
import { checkSegment } from './segment-check';
import { normaliseSegment } from './segment-normal';

type SegmentOperation = Extract<Operation, { type: 'segment.add' | 'segment.remove' | 'segment.set' }>;

/** Applies an edit of a segment; segments stay ordered by VLAN ID. */
export function applySegment(intent: Intent, site: SitePart, operation: SegmentOperation): Applied | Refused {
  if (operation.type === 'segment.add') return add(intent, site, operation.segment);
  const segment = site.segments.find((each) => each.id === operation.segmentId);
  if (!segment) return refuse(flaw('segment.unknown', 'This segment is no longer at the site.'));
  if (operation.type === 'segment.remove') return remove(intent, site, segment);
  const clash = changed(segment, operation);
  if (clash)
    return refuse(flaw('segment.changed', `Somebody changed the ${clash} of “${segment.name}” meanwhile.`, clash));
  const next = normaliseSegment({ ...segment, ...operation.to });
  const flaws = checkSegment(next, site.id, intent.sites.values());
  if (flaws.length > 0) return refuse(...flaws);
  const segments = byVlan(site.segments.map((each) => (each.id === segment.id ? next : each)));
  return {
    ok: true,
    intent: withSite(intent, carryNames({ ...site, segments }, 'segment', segment.name, next.name)),
    inverse: { ...operation, from: pick(next, operation.to), to: pick(segment, operation.to) },
  };
}

function add(intent: Intent, site: SitePart, given: Segment): Applied | Refused {
  const segment = normaliseSegment(given);
  if (site.segments.some((each) => each.id === segment.id))
    return refuse(flaw('segment.exists', `“${segment.name}” is already at the site.`));
  const flaws = checkSegment(segment, site.id, intent.sites.values());
  if (flaws.length > 0) return refuse(...flaws);
  const next = { ...site, segments: byVlan([...site.segments, segment]) };
  const inverse: Operation = { type: 'segment.remove', siteId: site.id, segmentId: segment.id };
  return { ok: true, intent: withSite(intent, next), inverse };
}

function remove(intent: Intent, site: SitePart, segment: Segment): Applied | Refused {
  if (segment.id === site.managementId)
    return refuse(flaw('segment.management', `“${segment.name}” carries the devices themselves and has to stay.`));
  const carries = ({ untagged, tagged }: PortEntry): boolean =>
    untagged === segment.id || (tagged !== undefined && tagged !== 'all' && tagged.includes(segment.id));
  const used = Object.values(site.ports).reduce((sum, ports) => sum + Object.values(ports).filter(carries).length, 0);
  if (used > 0) {
    const text = `“${segment.name}” is still on ${used} ${used === 1 ? 'port' : 'ports'}. Take it off there first.`;
    return refuse(flaw('segment.on-ports', text));
  }
  const duty = site.duties?.find(carries);
  if (duty) {
    const text = `“${segment.name}” is still in the duty “${duty.name}”. Take it out there first.`;
    return refuse(flaw('segment.in-duty', text));
  }
  const next = { ...site, segments: site.segments.filter((each) => each.id !== segment.id) };
  return { ok: true, intent: withSite(intent, next), inverse: { type: 'segment.add', siteId: site.id, segment } };
}

const byVlan = (segments: readonly Segment[]): Segment[] => [...segments].sort((a, b) => a.vlan - b.vlan);
