import { flaw, type Flaw } from '../../base';
import { editsOfList } from '../kept-list';
import type { SitePart } from '../part';
import { ASKED_SEGMENTS, type PortEntry } from '../port/port';
import { checkSegment } from './check';
import { normaliseSegment } from './normal';
import type { SegmentOperation } from './operations';
import type { Segment } from './segment';

/** Applies an edit of a segment; segments stay ordered by VLAN ID, and what names one follows it to another name. */
export const applySegment = editsOfList<SegmentOperation, Segment, 'site'>({
  noun: 'segment',
  where: 'site',
  list: 'segments',
  always: true,
  order: (a, b) => a.vlan - b.vlan,
  normal: normaliseSegment,
  check: (intent, site, segment) => checkSegment(segment, site.id, intent.sites.values()),
  fixed: (_intent, site, { next }) =>
    next.off && next.id === site.managementId
      ? flaw(
          'segment.off-management',
          `“${next.name}” carries the devices themselves and cannot be switched off.`,
          'off',
        )
      : null,
  stays: (_intent, site, segment) => whyItStays(site, segment),
  named: 'segment',
});

function whyItStays(site: SitePart, segment: Segment): Flaw | null {
  if (segment.id === site.managementId)
    return flaw('segment.management', `“${segment.name}” carries the devices themselves and has to stay.`);
  const pact = site.pacts?.find(({ segments }) => segments.includes(segment.id));
  if (pact) {
    const text = `“${segment.name}” goes into the tunnel “${pact.name}”. Take it out there first.`;
    return flaw('segment.in-pact', text);
  }
  const carries = ({ untagged, tagged, ...entry }: PortEntry): boolean =>
    untagged === segment.id ||
    ASKED_SEGMENTS.some((field) => entry[field] === segment.id) ||
    (tagged !== undefined && tagged !== 'all' && tagged.includes(segment.id));
  const used = Object.values(site.ports).reduce((sum, ports) => sum + Object.values(ports).filter(carries).length, 0);
  if (used > 0) {
    const text = `“${segment.name}” is still on ${used} ${used === 1 ? 'port' : 'ports'}. Take it off there first.`;
    return flaw('segment.on-ports', text);
  }
  const duty = site.duties?.find(carries);
  if (!duty) return null;
  const text = `“${segment.name}” is still in the duty “${duty.name}”. Take it out there first.`;
  return flaw('segment.in-duty', text);
}
