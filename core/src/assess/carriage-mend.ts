import type { Operation } from '../intent';
import { sheetFor } from '../hardware';
import { isApUplink, portSetting } from '../intent';
import type { Gap } from '../lattice';
import { nameIn, type CheckContext } from './check';
import type { Mend } from './finding';

/**
 * The edits that close gaps and nothing else: the missing tag, or for a frame that crosses untagged the missing
 * untagged segment. Null when a gap is not a matter of port settings.
 */
export function mendGaps(context: CheckContext, gaps: readonly Gap[]): Mend | null {
  const operations: Operation[] = [];
  const labels: string[] = [];
  for (const { end, vlan, as } of gaps) {
    const segment = context.vlans.get(vlan);
    const device = context.devices.get(end.deviceId);
    if (!segment || !device || isApUplink(sheetFor(device), end.port)) return null;
    // What passes a port that asks for a MAC address follows from who is there.
    if (portSetting(context.site, device, end.port).auth === 'mac') return null;
    const base = { siteId: context.site.id, deviceId: device.id, port: end.port };
    const where = `port ${end.port} of ${nameIn(context, device.id)}`;
    if (as === 'tagged') {
      operations.push({ type: 'port.tag', ...base, segmentId: segment.id });
      labels.push(`tag ${vlan} on ${where}`);
    } else {
      const from = portSetting(context.site, device, end.port).untagged;
      operations.push({ type: 'port.untagged', ...base, from, to: segment.id });
      labels.push(`carry ${vlan} untagged on ${where}`);
    }
  }
  const [label, ...more] = labels;
  if (label === undefined) return null;
  return { label: more.length === 0 ? label : `${label} and ${more.length} more`, operations };
}
