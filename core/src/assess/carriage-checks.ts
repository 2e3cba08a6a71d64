import { formatVlanList } from '../address';
import { needsOf, needsOfBoxes, reachesRouter, traceStrand, withAssumed, type Gap, type Need } from '../lattice';
import { mendGaps, mendMany } from './carriage-mend';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding } from './finding';

/**
 * Every place that needs a segment and does not get it: a device its own management VLAN, and with it the
 * controller; an AP the segments of its SSIDs; a port or a service its segment.
 */
export const carriageChecks: Check = (context) => {
  const { site, roster } = context;
  const { documents, links } = withAssumed(site, roster, context.documents, context.links);
  const cutOff: Finding[] = [];
  const others: Stopped[] = [];
  const needs = [...needsOf(site, roster, context.documents, context.links), ...needsOfBoxes(site)];
  for (const need of needs) {
    const document = documents.get(need.deviceId);
    if (!document) continue;
    const management = need.reasons.some((reason) => reason.kind === 'management');
    if (management && document.kind === 'gateway') continue;
    if (reachesRouter(documents, links, need.deviceId, need.vlan)) continue;
    const strand = traceStrand(documents, links, need.deviceId, need.vlan);
    if (strand.state !== 'broken') continue;
    if (management) cutOff.push(cutOffFinding(context, need, strand.gaps));
    else others.push({ need, gaps: strand.gaps });
  }
  return [...cutOff, ...together(others).flatMap((group) => findingsOf(context, group))];
};

/** A need that does not get through, and the ports that lack it. */
interface Stopped {
  readonly need: Need;
  readonly gaps: readonly Gap[];
}

/** From how many on segments that a device lacks at the very same ports are told together. */
const MANY = 5;

/** Those of a device that stop at the very same ports. */
function together(all: readonly Stopped[]): readonly (readonly Stopped[])[] {
  const groups = new Map<string, Stopped[]>();
  for (const each of all) {
    const ends = each.gaps.map(({ end, as }) => `${end.deviceId} ${end.port} ${as}`);
    const key = [each.need.deviceId, ...ends].join('\n');
    const known = groups.get(key);
    if (known) known.push(each);
    else groups.set(key, [each]);
  }
  return [...groups.values()];
}

function findingsOf(context: CheckContext, group: readonly Stopped[]): readonly Finding[] {
  const [first] = group;
  if (group.length < MANY || first!.gaps.some(({ as }) => as !== 'tagged'))
    return group.map(({ need, gaps }) => notCarried(context, need, gaps));
  return [manyNotCarried(context, group)];
}

/** Many segments that stop at one port. */
function manyNotCarried(context: CheckContext, group: readonly Stopped[]): Finding {
  const { need, gaps } = group[0]!;
  const { end } = gaps[0]!;
  const vlans = group.map((each) => each.need.vlan);
  const where = `${nameIn(context, end.deviceId)} port ${end.port}`;
  return {
    key: `lattice.not-carried ${need.deviceId} ${end.deviceId} ${end.port}`,
    code: 'lattice.not-carried',
    severity: 'error',
    message: `${context.vlans.get(need.vlan)!.name} and ${group.length - 1} more segments stop at ${where}`,
    reason: `${whyNeeded(nameIn(context, need.deviceId), need)}; the port carries none of VLANs ${formatVlanList([...vlans].sort((a, b) => a - b))}.`,
    place: { siteId: context.site.id, kind: 'port', id: end.deviceId, port: end.port },
    mend: mendMany(context, gaps, vlans),
  };
}

function cutOffFinding(context: CheckContext, { deviceId, vlan }: Need, gaps: readonly Gap[]): Finding {
  const { end } = gaps[0]!;
  const name = nameIn(context, deviceId);
  return {
    key: `intake.cut-off ${deviceId}`,
    code: 'intake.cut-off',
    severity: 'error',
    message: `This would cut ${name} off`,
    reason: `${nameIn(context, end.deviceId)} port ${end.port} does not carry ${context.site.management.name}, VLAN ${vlan}, which ${name} lives in.`,
    place: { siteId: context.site.id, kind: 'port', id: end.deviceId, port: end.port },
    mend: mendGaps(context, gaps),
  };
}

function notCarried(context: CheckContext, need: Need, gaps: readonly Gap[]): Finding {
  const { end } = gaps[0]!;
  const segment = context.vlans.get(need.vlan)!;
  return {
    key: `lattice.not-carried ${need.deviceId} ${segment.id}`,
    code: 'lattice.not-carried',
    severity: 'error',
    message: `${segment.name} stops at ${nameIn(context, end.deviceId)} port ${end.port}`,
    reason: `${whyNeeded(nameIn(context, need.deviceId), need)}; the port does not carry VLAN ${need.vlan}.`,
    place: { siteId: context.site.id, kind: 'port', id: end.deviceId, port: end.port },
    mend: mendGaps(context, gaps),
  };
}

function whyNeeded(name: string, { reasons }: Need): string {
  const ssids = reasons.flatMap((reason) => (reason.kind === 'ssid' ? [`“${reason.name}”`] : []));
  if (ssids.length > 0) return `${name} broadcasts it as ${ssids.join(', ')}`;
  const ports = reasons.flatMap((reason) => (reason.kind === 'port' ? [reason.port] : []));
  if (ports.length === 0 && reasons.some(({ kind }) => kind === 'router')) return `${name} meets the gateway there`;
  if (ports.length === 0)
    return reasons.some(({ kind }) => kind === 'pair')
      ? `${name} takes over there when the other gateway fails`
      : `${name} gives its addresses`;
  const some = ports.length > 4 ? `${ports.slice(0, 3).join(', ')} and ${ports.length - 3} more` : ports.join(', ');
  return `${name} hands it out on ${ports.length === 1 ? 'port' : 'ports'} ${some}`;
}

/** A device other than a gateway that no report has placed on a cable yet: nothing can be said of its way. */
export const unknownHang: Check = (context) => {
  const placed = new Set(context.links.flatMap((link) => [link.a.deviceId, link.b.deviceId]));
  const lost = context.roster.filter((device) => !placed.has(device.id) && isInner(context, device.id));
  return lost.map((device) => ({
    key: `lattice.hang-unknown ${device.id}`,
    code: 'lattice.hang-unknown',
    severity: 'info',
    message: `Where ${device.name} hangs is not known yet`,
    reason: 'No neighbour report names it, so its way to the gateway cannot be checked.',
    place: { siteId: context.site.id, kind: 'device', id: device.id },
    mend: null,
  }));
};

const isInner = (context: CheckContext, id: string): boolean => context.documents.get(id)?.kind !== 'gateway';
