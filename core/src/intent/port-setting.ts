import { sheetFor, type SheetPort } from '../hardware';
import type { PortSetting, RosterDevice, SitePart } from './nouns';

/**
 * What a port carries when nobody said otherwise: edge ports the management segment alone, trunks every segment
 * tagged on top of it, WAN ports nothing of ours.
 */
export function defaultPortSetting(port: SheetPort, managementId: string): PortSetting {
  if (port.role === 'wan') return { untagged: null, tagged: [] };
  return { untagged: managementId, tagged: port.role === 'trunk' ? 'all' : [] };
}

/** What a port is intended to carry. @throws RangeError for a port its model does not have. */
export function portSetting(
  site: SitePart,
  device: Pick<RosterDevice, 'id' | 'model' | 'sheet'>,
  port: string,
): PortSetting {
  const sheetPort = sheetFor(device).ports.find((each) => each.name === port);
  if (!sheetPort) throw new RangeError(`${device.model} has no port ${port}`);
  return site.ports[device.id]?.[port] ?? defaultPortSetting(sheetPort, site.managementId);
}

/** Whether a setting carries a segment, and how. */
export function carriage(setting: PortSetting, segmentId: string): 'untagged' | 'tagged' | null {
  if (setting.untagged === segmentId) return 'untagged';
  return setting.tagged === 'all' || setting.tagged.includes(segmentId) ? 'tagged' : null;
}

/**
 * Keeps a setting in a site, or drops the entry when it says what the default says, so that an edit and its
 * inverse leave the very same bytes.
 */
export function withPortSetting(
  site: SitePart,
  device: Pick<RosterDevice, 'id' | 'model' | 'sheet'>,
  port: string,
  setting: PortSetting,
): SitePart {
  const sheetPort = sheetFor(device).ports.find((each) => each.name === port)!;
  const { [port]: _old, ...others } = site.ports[device.id] ?? {};
  const same = sameSetting(setting, defaultPortSetting(sheetPort, site.managementId));
  const mine = same ? others : { ...others, [port]: sorted(setting) };
  const { [device.id]: _mine, ...rest } = site.ports;
  return { ...site, ports: Object.keys(mine).length === 0 ? rest : { ...rest, [device.id]: mine } };
}

const sorted = (setting: PortSetting): PortSetting =>
  setting.tagged === 'all' ? setting : { ...setting, tagged: [...setting.tagged].sort() };

function sameSetting(a: PortSetting, b: PortSetting): boolean {
  return a.untagged === b.untagged && String(sorted(a).tagged) === String(sorted(b).tagged);
}
