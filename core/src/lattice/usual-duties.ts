import { sheetFor } from '../hardware';
import {
  AIRED,
  carriage,
  isApUplink,
  isUplink,
  portSetting,
  cabledSegmentsOfSsid,
  type Link,
  type LinkEnd,
  type Operation,
  type PortEntry,
  type ResolvedSite,
  type RosterDevice,
} from '../intent';
import { needsOf } from './needs';
import type { Documents } from './strand';

/** A port and the duty that follows from what is plugged in. */
export interface UsualDuty {
  readonly deviceId: string;
  readonly port: string;
  /** Name of what hangs there. */
  readonly peer: string;
  readonly why: string;
  readonly operation: Operation;
}

/**
 * The usual duties of a site's ports, from what is plugged in: towards an AP management untagged and the segments of
 * the SSIDs tagged; towards a switch management untagged and every segment that something behind it needs tagged.
 * Ports that already carry as much are left out.
 */
export function usualDuties(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
): UsualDuty[] {
  const devices = new Map(roster.map((device) => [device.id, device]));
  const behind = neededBehind(site, roster, documents, links);
  const aired = new Set(site.ssids.flatMap(cabledSegmentsOfSsid));
  return links.flatMap(({ a, b }) =>
    [
      [a, b],
      [b, a],
    ].flatMap(([near, far]): UsualDuty[] => {
      const [device, peer] = [devices.get(near!.deviceId), devices.get(far!.deviceId)];
      if (!device || !peer || isApUplink(sheetFor(device), near!.port)) return [];
      const socket = sheetFor(device).ports.find((port) => port.name === near!.port);
      if (socket && isUplink(site, device, socket)) return [];
      const kind = sheetFor(peer).kind;
      const wanted = kind === 'ap' ? [...aired] : [...(behind.get(`${near!.deviceId} ${near!.port}`) ?? [])];
      const setting = portSetting(site, device, near!.port);
      const lacks = wanted.filter((id) => id !== site.managementId && carriage(setting, id, aired) === null);
      if (lacks.length === 0 && setting.untagged === site.managementId) return [];
      const from = site.ports[device.id]?.[near!.port] ?? null;
      const kept = setting.tagged === 'all' ? [] : setting.tagged.filter((id) => id !== site.managementId);
      const tagged: PortEntry['tagged'] =
        setting.tagged === 'all'
          ? 'all'
          : kind === 'ap'
            ? [...new Set([...kept, AIRED])]
            : [...new Set([...kept, ...lacks])];
      const to: PortEntry = { ...from, untagged: site.managementId, tagged };
      const at = { siteId: site.id, deviceId: device.id, port: near!.port };
      const names = lacks.map((id) => site.segments.find((segment) => segment.id === id)?.name ?? id);
      const why =
        kind === 'ap'
          ? `${site.management.name} untagged, the segments of the SSIDs tagged`
          : `${site.management.name} untagged${names.length > 0 ? `, ${names.join(', ')} tagged for what lies behind` : ''}`;
      return [{ ...near!, peer: peer.name, why, operation: { type: 'port.set', ...at, from, to } }];
    }),
  );
}

/** Segment ids that are needed beyond each end of each cable, looking away from the gateway. */
function neededBehind(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  documents: Documents,
  links: readonly Link[],
): Map<string, Set<string>> {
  const idOf = new Map(site.segments.map((segment) => [segment.vlan, segment.id]));
  const up = new Map<string, { readonly own: LinkEnd; readonly far: LinkEnd }>(); // towards the gateway
  const seen = new Set(roster.filter((device) => sheetFor(device).kind === 'gateway').map((device) => device.id));
  const queue = [...seen];
  for (const id of queue)
    for (const { a, b } of links)
      for (const [own, far] of [
        [a, b],
        [b, a],
      ] as const) {
        if (far.deviceId !== id || seen.has(own.deviceId)) continue;
        seen.add(own.deviceId);
        up.set(own.deviceId, { own, far });
        queue.push(own.deviceId);
      }
  const behind = new Map<string, Set<string>>();
  for (const need of needsOf(site, roster, documents, links)) {
    const segment = idOf.get(need.vlan);
    if (segment === undefined) continue;
    for (let step = up.get(need.deviceId); step; step = up.get(step.far.deviceId))
      for (const end of [step.own, step.far]) {
        const key = `${end.deviceId} ${end.port}`;
        const known = behind.get(key) ?? new Set<string>();
        known.add(segment);
        behind.set(key, known);
      }
  }
  return behind;
}
