import { flaw } from '../base';
import { sheetFor } from '../hardware';
import { refuse, withSite, type Applied, type Refused, type RosterLookup } from './edit-result';
import type { Intent, PortSetting, SitePart } from './nouns';
import type { Operation } from './operation';
import { carriage, portSetting, withPortSetting } from './port-setting';

type PortOperation = Extract<Operation, { type: 'port.tag' | 'port.untag' | 'port.untagged' }>;

/** Applies an edit of what one port carries. */
export function applyPort(
  intent: Intent,
  site: SitePart,
  operation: PortOperation,
  roster: RosterLookup,
): Applied | Refused {
  const device = roster(operation.deviceId);
  if (!device || device.siteId !== site.id)
    return refuse(flaw('port.device-unknown', 'This device is no longer at the site.'));
  const sheetPort = sheetFor(device).ports.find((each) => each.name === operation.port);
  if (!sheetPort) return refuse(flaw('port.unknown', `${device.name} has no port ${operation.port}.`));
  if (sheetPort.role === 'wan')
    return refuse(flaw('port.wan', `${operation.port} of ${device.name} faces a provider and carries no segment.`));
  const now = portSetting(site, device, operation.port);
  const place = `Port ${operation.port} of ${device.name}`;
  const done = (setting: PortSetting, inverse: Operation): Applied => ({
    ok: true,
    intent: withSite(intent, withPortSetting(site, device, operation.port, setting)),
    inverse,
  });

  if (operation.type === 'port.untagged') {
    if (now.untagged !== operation.from)
      return refuse(flaw('port.changed', `Somebody changed what ${place} carries untagged meanwhile.`));
    if (operation.to !== null && !hasSegment(site, operation.to)) return refuse(unknownSegment());
    if (operation.to !== null && now.tagged !== 'all' && now.tagged.includes(operation.to))
      return refuse(flaw('port.both', `${place} carries this segment tagged; take the tag off first.`));
    return done({ ...now, untagged: operation.to }, { ...operation, from: operation.to, to: operation.from });
  }
  const segment = site.segments.find((each) => each.id === operation.segmentId);
  if (!segment) return refuse(unknownSegment());
  const carried = carriage(now, segment.id);
  if (operation.type === 'port.tag') {
    if (carried) return refuse(flaw('port.carries', `${place} already carries “${segment.name}” ${carried}.`));
    const tagged = [...(now.tagged === 'all' ? [] : now.tagged), segment.id];
    return done({ ...now, tagged }, { ...operation, type: 'port.untag' });
  }
  if (carried !== 'tagged') return refuse(flaw('port.not-tagged', `${place} does not carry “${segment.name}” tagged.`));
  if (now.tagged === 'all')
    return refuse(flaw('port.trunk', `${place} is a trunk and carries every segment of the site.`));
  return done({ ...now, tagged: now.tagged.filter((id) => id !== segment.id) }, { ...operation, type: 'port.tag' });
}

const hasSegment = (site: SitePart, id: string): boolean => site.segments.some((segment) => segment.id === id);
const unknownSegment = () => flaw('segment.unknown', 'This segment is no longer at the site.');
