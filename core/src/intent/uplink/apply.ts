import { flaw, sameValue, type Flaw } from '../../base';
import { refuse, withSite, type EditContext, type Outcome } from '../edit';
import { siteGone } from '../kept-list';
import type { Intent, SitePart } from '../part';
import type { RosterDevice } from '../roster';
import { differing, withoutGaps } from '../said-fields';
import { checkTogether, checkUplink } from './check';
import type { LeavingOperation, UplinkOperation, UplinkSetOperation } from './operations';
import { uplinkBase, uplinkPorts } from './setting';
import { USUAL_LEAVING, type LeavingEntry, type UplinkFields } from './uplink';

/** Applies an edit of a gateway’s uplinks. */
export function applyUplink(
  intent: Intent,
  operation: UplinkOperation,
  { roster }: EditContext,
): Outcome<UplinkOperation> {
  const site = intent.sites.get(operation.siteId);
  if (!site) return refuse(siteGone());
  const device = roster(operation.deviceId);
  // What was said of one that is gone can be taken back.
  if (!device || (device.siteId !== site.id && operation.to))
    return refuse(flaw('uplink.device-unknown', 'This gateway is no longer at the site.'));
  return operation.type === 'uplink.set'
    ? setUplink(intent, site, device, operation)
    : setLeaving(intent, site, device, operation);
}

function setUplink(
  intent: Intent,
  site: SitePart,
  device: RosterDevice,
  operation: UplinkSetOperation,
): Outcome<UplinkOperation> {
  const { port, from, to } = operation;
  const socket = uplinkPorts(device).find(({ name }) => name === port);
  if (!socket) return refuse(flaw('uplink.port', `${port} of ${device.name} cannot be an uplink.`));
  const mine = site.uplinks?.[device.id] ?? {};
  if (!sameValue(mine[port] ?? null, from))
    return refuse(flaw('uplink.changed', `Somebody changed the uplink ${port} of ${device.name} meanwhile.`));
  const base = uplinkBase(device, port);
  const fields: UplinkFields = { ...base, ...withoutGaps(to) };
  if (fields.on && socket.role !== 'wan' && site.ports[device.id]?.[port])
    return refuse(
      flaw('uplink.port-said', `Something is said of port ${port} for the inside. Take that back first.`, 'on'),
    );
  const user = fields.on ? null : userOf(site, device.id, port);
  if (user) return refuse(user);
  const flaws = to ? checkUplink(intent.sites, device, port, fields) : [];
  if (flaws.length > 0) return refuse(...flaws);
  const kept = differing(normal(fields), base);
  const { [port]: _old, ...others } = mine;
  const ports = kept ? { ...others, [port]: kept } : others;
  const { [device.id]: _mine, ...devices } = site.uplinks ?? {};
  const all = Object.keys(ports).length > 0 ? { ...devices, [device.id]: ports } : devices;
  const { uplinks: _uplinks, ...rest } = site;
  const next: SitePart = Object.keys(all).length > 0 ? { ...rest, uplinks: all } : rest;
  const together = to ? checkTogether(next, device) : [];
  if (together.length > 0) return refuse(...together);
  return { ok: true, intent: withSite(intent, next), inverse: { ...operation, from: kept, to: from } };
}

/** What leaves or comes in by an uplink, so that it has to stay one; null: nothing that is said. */
function userOf(
  { courses = [], translations = [], publications = [], routes = [], pair }: SitePart,
  deviceId: string,
  port: string,
): Flaw | null {
  const course = courses.find((each) => each.deviceId === deviceId && each.ports.includes(port));
  if (course)
    return flaw('uplink.in-course', `The course “${course.name}” leaves by ${port}. Change that first.`, 'on');
  const translated = translations.find((each) => each.deviceId === deviceId && each.port === port);
  if (translated)
    return flaw(
      'uplink.in-translation',
      `The translation “${translated.name}” is about ${port}. Change that first.`,
      'on',
    );
  const published = publications.find((each) => each.deviceId === deviceId && each.ports.includes(port));
  if (published)
    return flaw('uplink.in-publication', `“${published.name}” is published at ${port}. Change that first.`, 'on');
  const tracked = pair && [[pair.firstId, pair.tracks.first] as const, [pair.secondId, pair.tracks.second] as const];
  if (tracked?.some(([id, ports]) => id === deviceId && ports.includes(port)))
    return flaw('uplink.in-pair', `The pair of gateways tracks ${port}. Change that first.`, 'on');
  const route = routes.find(
    ({ via, ...each }) => each.deviceId === deviceId && via.kind === 'uplink' && via.port === port,
  );
  return route ? flaw('uplink.in-route', `The route “${route.name}” leads to ${port}. Change that first.`, 'on') : null;
}

function setLeaving(
  intent: Intent,
  site: SitePart,
  device: RosterDevice,
  operation: LeavingOperation,
): Outcome<UplinkOperation> {
  const { from, to } = operation;
  if (!sameValue(site.leaving?.[device.id] ?? null, from))
    return refuse(flaw('uplink.changed', `Somebody changed how ${device.name} uses its uplinks meanwhile.`));
  const kept: LeavingEntry | null = differing({ ...USUAL_LEAVING, ...withoutGaps(to) }, USUAL_LEAVING);
  const { [device.id]: _old, ...others } = site.leaving ?? {};
  const all = kept ? { ...others, [device.id]: kept } : others;
  const { leaving: _leaving, ...rest } = site;
  const next: SitePart = Object.keys(all).length > 0 ? { ...rest, leaving: all } : rest;
  const together = to ? checkTogether(next, device) : [];
  if (together.length > 0) return refuse(...together);
  return { ok: true, intent: withSite(intent, next), inverse: { ...operation, from: kept, to: from } };
}

const normal = (fields: UplinkFields): UplinkFields => ({
  ...fields,
  title: fields.title === null ? null : fields.title.trim(),
  mac: fields.mac === null ? null : fields.mac.toLowerCase().replaceAll('-', ':'),
  login: fields.login && { ...fields.login, user: fields.login.user.trim() },
});

/** An edit of an uplink in words. */
export const uplinkWords = (operation: UplinkOperation): string =>
  operation.type === 'uplink.set' ? `the uplink ${operation.port} changed` : 'how uplinks are used together changed';
