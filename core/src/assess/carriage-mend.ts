import type { Operation } from '../intent';
import { sheetFor } from '../hardware';
import { AIRED, isApUplink, portSetting } from '../intent';
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
    // What passes a port that asks follows from who is there.
    if (portSetting(context.site, device, end.port).auth !== 'none') return null;
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

/**
 * One edit for each port that lacks many segments: one that faces an AP is to carry those of the SSIDs, any other the segments by name.
 * Null where it is not a matter of port settings.
 */
export function mendMany(context: CheckContext, gaps: readonly Gap[], vlans: readonly number[]): Mend | null {
  const { site, links, documents } = context;
  const ids = vlans.flatMap((vlan) => context.vlans.get(vlan)?.id ?? []);
  const operations: Operation[] = [];
  for (const { end } of gaps) {
    const device = context.devices.get(end.deviceId);
    if (!device || isApUplink(sheetFor(device), end.port)) return null;
    const now = portSetting(site, device, end.port);
    if (now.auth !== 'none' || now.tagged === 'all') return null;
    const facesAp = links.some(({ a, b }) =>
      [
        [a, b],
        [b, a],
      ].some(
        ([near, far]) =>
          near!.deviceId === end.deviceId && near!.port === end.port && documents.get(far!.deviceId)?.kind === 'ap',
      ),
    );
    const from = site.ports[device.id]?.[end.port] ?? null;
    const tagged = [...new Set([...now.tagged, ...(facesAp ? [AIRED] : ids)])];
    const at = { siteId: site.id, deviceId: device.id, port: end.port };
    operations.push({ type: 'port.set', ...at, from, to: { ...from, untagged: now.untagged, tagged } });
  }
  const [first, ...more] = gaps;
  if (!first) return null;
  const where = `port ${first.end.port} of ${nameIn(context, first.end.deviceId)}`;
  const also = more.length === 0 ? '' : ` and ${more.length} more`;
  return { label: `carry the ${vlans.length} segments on ${where}${also}`, operations };
}
