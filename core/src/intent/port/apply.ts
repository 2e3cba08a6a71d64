import { flaw, sameValue, type Flaw } from '../../base';
import { sheetFor } from '../../hardware';
import { refuse, withSite, type Applied, type EditContext, type Outcome } from '../edit';
import { siteGone } from '../kept-list';
import type { EstatePart, Intent, SitePart } from '../part';
import { airedSegments } from '../resolve';
import type { RosterDevice } from '../roster';
import type { PortOperation } from './operations';
import { AIRED, ASKED_SEGMENTS, type PortEntry, type PortFields, type TaggedSegments } from './port';
import { isUplink } from '../uplink/setting';
import { carriage, isApUplink, portSetting, sheetPort, withPortEntry } from './setting';

/** Highest number of a group: the key of an aggregator has 16 bits (IEEE 802.1AX-2020 §6.3.5). How many a box has says its sheet. */
const MOST_GROUP = 65_535;

/** Applies an edit of one port. */
export function applyPort(intent: Intent, operation: PortOperation, { roster }: EditContext): Outcome<PortOperation> {
  const site = intent.sites.get(operation.siteId);
  if (!site) return refuse(siteGone());
  const device = roster(operation.deviceId);
  if (!device || device.siteId !== site.id)
    return refuse(flaw('port.device-unknown', 'This device is no longer at the site.'));
  const port = sheetPort(device, operation.port);
  if (!port) return refuse(flaw('port.unknown', `${device.name} has no port ${operation.port}.`));
  if (isUplink(site, device, port))
    return refuse(flaw('port.wan', `${operation.port} of ${device.name} faces a provider and carries no segment.`));
  if (isApUplink(sheetFor(device), port.name)) {
    const text = `${port.name} is what ${device.name} itself hangs on; what it carries follows from the SSIDs.`;
    return refuse(flaw('port.uplink', text));
  }
  const now = portSetting(site, device, operation.port);
  const entry = site.ports[device.id]?.[operation.port] ?? {};
  const place = `Port ${operation.port} of ${device.name}`;
  const done = (next: PortEntry, inverse: PortOperation): Applied<PortOperation> => ({
    ok: true,
    intent: withSite(intent, withPortEntry(site, device, operation.port, next)),
    inverse,
  });
  if (operation.type === 'port.set') {
    if (!sameValue(entry, operation.from ?? {}))
      return refuse(flaw('port.changed', `Somebody changed ${place} meanwhile.`));
    const flaws = [
      ...checkEntry(site, device, operation.port, operation.to ?? {}),
      ...checkShared(intent.estate, operation.to ?? {}),
    ];
    if (flaws.length > 0) return refuse(...flaws);
    const result = done(operation.to ?? {}, operation);
    const kept = result.intent.sites.get(site.id)!.ports[device.id]?.[operation.port] ?? null;
    return { ...result, inverse: { ...operation, from: kept, to: operation.from } };
  }
  if (operation.type === 'port.untagged') {
    if (now.untagged !== operation.from)
      return refuse(flaw('port.changed', `Somebody changed what ${place} carries untagged meanwhile.`));
    if (operation.to !== null && !hasSegment(site, operation.to)) return refuse(unknownSegment());
    if (operation.to !== null && now.tagged !== 'all' && now.tagged.includes(operation.to))
      return refuse(flaw('port.both', `${place} carries this segment tagged; take the tag off first.`));
    return done(
      { ...entry, untagged: operation.to, tagged: now.tagged },
      { ...operation, from: operation.to, to: operation.from },
    );
  }
  const segment = site.segments.find((each) => each.id === operation.segmentId);
  if (!segment) return refuse(unknownSegment());
  const carried = carriage(now, segment.id, airedSegments(intent.estate, site));
  const set = (tagged: TaggedSegments) => ({ ...entry, untagged: now.untagged, tagged });
  if (operation.type === 'port.tag') {
    if (carried) return refuse(flaw('port.carries', `${place} already carries “${segment.name}” ${carried}.`));
    return done(set([...(now.tagged === 'all' ? [] : now.tagged), segment.id]), { ...operation, type: 'port.untag' });
  }
  if (carried !== 'tagged') return refuse(flaw('port.not-tagged', `${place} does not carry “${segment.name}” tagged.`));
  if (now.tagged === 'all')
    return refuse(flaw('port.trunk', `${place} is a trunk and carries every segment of the site.`));
  if (!now.tagged.includes(segment.id)) {
    const text = `${place} carries “${segment.name}” since an SSID puts clients into it. List its segments to leave it out.`;
    return refuse(flaw('port.aired', text));
  }
  return done(set(now.tagged.filter((id) => id !== segment.id)), { ...operation, type: 'port.tag' });
}

/** Everything wrong with what is said of a port. */
function checkEntry(site: SitePart, device: RosterDevice, port: string, entry: PortEntry): Flaw[] {
  const flaws: Flaw[] = [];
  const sheet = sheetPort(device, port)!;
  if (entry.dutyId !== undefined && !site.duties?.some((duty) => duty.id === entry.dutyId))
    flaws.push(flaw('duty.unknown', 'This duty is no longer at the site.', 'dutyId'));
  flaws.push(...checkCarried(site, entry), ...checkAsked(site, { ...asked(site, device, port, entry), ...entry }));
  if (entry.poe === 'on' && sheet.poe === undefined)
    flaws.push(flaw('port.no-poe', `Port ${port} of ${device.name} gives no power.`, 'poe'));
  if (typeof entry.speed === 'number' && entry.speed > sheet.speed) {
    const text = `Port ${port} of ${device.name} does ${sheet.speed} Mb/s at most.`;
    flaws.push(flaw('port.speed', text, 'speed'));
  }
  if (entry.storm !== undefined && !(entry.storm >= 0.1 && entry.storm <= 100))
    flaws.push(flaw('port.storm', 'A limit lies between 0.1 and 100 percent.', 'storm'));
  const { group } = entry;
  if (group !== undefined && group !== null && !(Number.isInteger(group) && group >= 1 && group <= MOST_GROUP))
    flaws.push(flaw('port.group', `Groups have numbers from 1 to ${MOST_GROUP}.`, 'group'));
  return flaws;
}

/** What holds of who may be at a port, with what is said of it now. */
function asked(site: SitePart, device: RosterDevice, port: string, entry: PortEntry): Partial<PortFields> {
  const { hosts, voice } = portSetting(withPortEntry(site, device, port, entry), device, port);
  return { hosts, voice };
}

/** The hours and the portal of a port or a duty must exist. */
export function checkShared(
  { hours = [], portals = [] }: EstatePart,
  said: { readonly hours?: string | null; readonly portal?: string | null },
): Flaw[] {
  const flaws: Flaw[] = [];
  if (said.hours && !hours.some(({ id }) => id === said.hours))
    flaws.push(flaw('port.hours', 'These hours are not there any more.', 'hours'));
  if (said.portal && !portals.some(({ id }) => id === said.portal))
    flaws.push(flaw('port.portal', 'This portal is no longer there. Choose another, or none.', 'portal'));
  return flaws;
}

/** Where a port or a duty puts clients that it asks must exist, and phones need a segment. */
export function checkAsked(site: SitePart, entry: Partial<PortFields>): Flaw[] {
  const flaws = ASKED_SEGMENTS.flatMap((field) => {
    const id = entry[field];
    return id && !hasSegment(site, id)
      ? [flaw('segment.unknown', 'This segment is no longer at the site.', field)]
      : [];
  });
  if (entry.hosts === 'phone' && entry.voice === null)
    flaws.push(flaw('port.voice', 'Choose the segment of desk phones: their frames carry its tag.', 'voice'));
  return flaws;
}

/** What a port or a duty carries must exist, and be carried one way. */
export function checkCarried(
  site: SitePart,
  { untagged, tagged }: { readonly untagged?: string | null; readonly tagged?: TaggedSegments },
): Flaw[] {
  const list = tagged === undefined || tagged === 'all' ? [] : tagged;
  const unknown = [...list, ...(untagged ? [untagged] : [])].some((id) => id !== AIRED && !hasSegment(site, id));
  if (unknown) return [unknownSegment()];
  if (untagged && list.includes(untagged))
    return [flaw('port.both', 'A segment is carried tagged or untagged, not both.', 'tagged')];
  return [];
}

const hasSegment = (site: SitePart, id: string): boolean => site.segments.some((segment) => segment.id === id);
const unknownSegment = () => flaw('segment.unknown', 'This segment is no longer at the site.');

/** An edit of a port in words. */
export const portWords = ({ type, port }: PortOperation): string =>
  type === 'port.tag' || type === 'port.untag' ? `a tag of port ${port} changed` : `port ${port} changed`;
