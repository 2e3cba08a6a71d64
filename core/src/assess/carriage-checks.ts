import { traceStrand } from '../lattice';
import { mendGaps } from './carriage-mend';
import { nameIn, type Check, type CheckContext } from './check';
import type { Finding } from './finding';

/** An AP sends an SSID whose VLAN does not get from there to the gateway. */
export const ssidCarriage: Check = (context) => {
  const findings: Finding[] = [];
  for (const device of context.roster) {
    const document = context.documents.get(device.id);
    if (document?.kind !== 'ap') continue;
    for (const vlan of new Set(document.ssids.map((ssid) => ssid.vlan))) {
      if (vlan === document.management.vlan) continue; // the check of management says it
      const strand = traceStrand(context.documents, context.links, device.id, vlan);
      const segment = context.site.segments.find((each) => each.vlan === vlan)!;
      if (strand.state !== 'broken') continue;
      const gap = strand.gaps[0]!;
      const names = document.ssids.filter((ssid) => ssid.vlan === vlan).map((ssid) => `“${ssid.name}”`);
      findings.push({
        key: `lattice.not-carried ${device.id} ${segment.id}`,
        code: 'lattice.not-carried',
        severity: 'error',
        message: `${segment.name} stops at ${nameIn(context, gap.end.deviceId)} port ${gap.end.port}`,
        reason: `${device.name} broadcasts it as ${names.join(', ')}; the port does not carry VLAN ${vlan}.`,
        place: { siteId: context.site.id, kind: 'port', id: gap.end.deviceId, port: gap.end.port },
        mend: mendGaps(context, strand.gaps),
      });
    }
  }
  return findings;
};

/** A device would lose the way from its own management address to the gateway, and with it the controller. */
export const managementCarriage: Check = (context) => {
  const findings: Finding[] = [];
  for (const device of context.roster) {
    const document = context.documents.get(device.id);
    if (!document || document.kind === 'gateway') continue;
    const strand = traceStrand(context.documents, context.links, device.id, document.management.vlan);
    if (strand.state !== 'broken') continue;
    const gap = strand.gaps[0]!;
    findings.push({
      key: `intake.cut-off ${device.id}`,
      code: 'intake.cut-off',
      severity: 'error',
      message: `This would cut ${device.name} off`,
      reason: `${nameIn(context, gap.end.deviceId)} port ${gap.end.port} does not carry ${context.site.management.name}, VLAN ${document.management.vlan}, which ${device.name} lives in.`,
      place: { siteId: context.site.id, kind: 'port', id: gap.end.deviceId, port: gap.end.port },
      mend: mendGaps(context, strand.gaps),
    });
  }
  return findings;
};

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
