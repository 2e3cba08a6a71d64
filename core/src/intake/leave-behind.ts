import { sheetFor } from '../hardware';
import { portSetting, type Link, type ResolvedSite, type RosterDevice } from '../intent';

/** One thing that a site would be left with when a device goes. */
export interface Leftover {
  readonly code: 'segments' | 'pair' | 'ports' | 'devices' | 'ssids' | 'address' | 'nothing';
  readonly severity: 'error' | 'warning' | 'info';
  readonly message: string;
  /** Of code `devices`: names of those that hang on it. */
  readonly devices?: readonly string[];
}

/**
 * What taking a device out of a site would leave behind: segments without a gateway, ports without a peer, devices
 * that hang on it, SSIDs that no AP sends any more. Nothing is changed by asking.
 * @returns the worst first; one entry of code `nothing` when it would not be missed.
 */
export function leaveBehind(
  site: ResolvedSite,
  roster: readonly RosterDevice[],
  links: readonly Link[],
  device: RosterDevice,
): Leftover[] {
  const sheet = sheetFor(device);
  const others = roster.filter((each) => each.id !== device.id);
  const left: Leftover[] = [];
  if (sheet.kind === 'gateway' && !others.some((each) => sheetFor(each).kind === 'gateway')) {
    const count = site.segments.length;
    left.push({
      code: 'segments',
      severity: 'error',
      message: `${plural(count, 'segment')} would have no gateway: ${some(site.segments.map((each) => each.name))}. Nothing would route or give addresses at ${site.name}.`,
    });
  }
  const { pair } = site;
  if (pair && (pair.firstId === device.id || pair.secondId === device.id)) {
    const other = others.find(({ id }) => id === pair.firstId || id === pair.secondId);
    if (other)
      left.push({
        code: 'pair',
        severity: 'warning',
        message: `${other.name} would route alone: nothing takes over when it fails.`,
      });
  }
  const behind = hangingOn(device, roster, links);
  if (behind.length > 0)
    left.push({
      code: 'devices',
      severity: 'error',
      message: `${plural(behind.length, 'device')} would lose ${behind.length === 1 ? 'its' : 'their'} only way to the controller: ${some(behind.map((each) => each.name))}.`,
      devices: behind.map((each) => each.name),
    });
  const ends = links.flatMap(({ a, b }) => (a.deviceId === device.id ? [b] : b.deviceId === device.id ? [a] : []));
  const ports = ends.flatMap(({ deviceId, port }) => {
    const peer = others.find((each) => each.id === deviceId);
    if (!peer || !sheetFor(peer).ports.some((each) => each.name === port)) return [];
    const { untagged, tagged } = portSetting(site, peer, port);
    const carried = (untagged === null ? 0 : 1) + (tagged === 'all' ? site.segments.length - 1 : tagged.length);
    return [`${peer.name} port ${port} (${plural(carried, 'segment')})`];
  });
  if (ports.length > 0)
    left.push({
      code: 'ports',
      severity: 'warning',
      message: `${plural(ports.length, 'port')} would carry segments to nobody: ${some(ports)}.`,
    });
  if (sheet.kind === 'ap') {
    const bandsLeft = new Set(
      others
        .filter((each) => sheetFor(each).kind === 'ap')
        .flatMap((each) => sheetFor(each).radios.map((radio) => radio.band)),
    );
    const gone = site.ssids.filter((ssid) => !ssid.bands.some((band) => bandsLeft.has(band)));
    if (gone.length > 0)
      left.push({
        code: 'ssids',
        severity: 'warning',
        message: `${plural(gone.length, 'SSID')} would be sent by no AP here: ${some(gone.map((each) => each.name))}.`,
      });
  }
  if (device.address)
    left.push({
      code: 'address',
      severity: 'info',
      message: `Its fixed address ${device.address.address} would be free again.`,
    });
  return left.length > 0
    ? left
    : [{ code: 'nothing', severity: 'info', message: 'Nothing at this site would be left without it.' }];
}

/** Devices that reach a gateway now and would not without this one. */
function hangingOn(device: RosterDevice, roster: readonly RosterDevice[], links: readonly Link[]): RosterDevice[] {
  const reached = (without: string | null): Set<string> => {
    const seen = new Set(
      roster.filter((each) => each.id !== without && sheetFor(each).kind === 'gateway').map((each) => each.id),
    );
    for (const id of seen)
      for (const { a, b } of links)
        for (const [from, to] of [
          [a.deviceId, b.deviceId],
          [b.deviceId, a.deviceId],
        ] as const)
          if (from === id && to !== without) seen.add(to);
    return seen;
  };
  const [now, then] = [reached(null), reached(device.id)];
  return roster.filter((each) => each.id !== device.id && now.has(each.id) && !then.has(each.id));
}

const plural = (count: number, noun: string): string => `${count} ${noun}${count === 1 ? '' : 's'}`;

/** A few names, and how many more there are. */
function some(names: readonly string[]): string {
  return names.length <= 4 ? names.join(', ') : `${names.slice(0, 4).join(', ')} and ${names.length - 4} more`;
}
